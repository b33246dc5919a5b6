import { forward } from '@cork-elbow/core/kinematics';
import { apply, axisOf, positionOf, vec3, type Vec3 } from '@cork-elbow/core/linear';
import { compile, type Mechanism } from '@cork-elbow/core/mechanism';
import { carriedAt, type Plan, planMotion, planRoutine, preflight } from '@cork-elbow/core/routine';
import type { Obstacle, Rig } from '@cork-elbow/core/rig';
import { beforeAll, describe, expect, it } from 'vitest';
import { tileDipper } from './index';

type Jar = Extract<Obstacle, { kind: 'jar' }>;
let rig: Rig;
let mechanism: Mechanism;
let plan: Plan;
let jar: Jar;

beforeAll(() => {
  rig = tileDipper();
  const compiled = compile(rig.mechanism);
  if (!compiled.ok) throw new Error(compiled.faults[0].message);
  mechanism = compiled.mechanism;
  plan = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
  jar = rig.obstacles.find((o): o is Jar => o.kind === 'jar')!;
});

/** Tool frame at every hundredth of a second, with whether the tile is held. */
function* moments(): Generator<{ t: number; q: Float64Array; tool: Float64Array; held: boolean }> {
  const [p, v, a] = [0, 1, 2].map(() => new Float64Array(mechanism.m));
  for (let t = 0; t <= plan.durationS; t += 0.01) {
    planMotion(plan).sampleInto(p, v, a, t);
    yield { t, q: p, tool: forward(mechanism, p).tools.get('tongs')!, held: carriedAt(plan, t).has('tongs') };
  }
}
const mm = (v: Vec3): Vec3 => vec3.scale(v, 1000);
const tilePoint = (tool: Float64Array, x: number, y: number, z: number): Vec3 =>
  mm(apply(tool, [x / 1000, y / 1000, z / 1000]));

/** The tile is in the jar: its centre below the rim and over the jar's footprint (elsewhere is the rack or the bat). */
const inJar = ([x, y, z]: Vec3): boolean =>
  z <= jar.heightMm && Math.hypot(x - jar.xyzMm[0], y - jar.xyzMm[1]) < jar.innerRadiusMm + jar.wallMm;

/** Distance (mm) from a point to the jar's wall and floor, as a body of revolution. */
function toJar([x, y, z]: Vec3): number {
  const r = Math.hypot(x - jar.xyzMm[0], y - jar.xyzMm[1]);
  const outer = jar.innerRadiusMm + jar.wallMm;
  const box = (r0: number, r1: number, z0: number, z1: number): number =>
    Math.hypot(Math.max(r0 - r, 0, r - r1), Math.max(z0 - z, 0, z - z1));
  return Math.min(box(jar.innerRadiusMm, outer, 0, jar.heightMm), box(0, outer, 0, jar.wallMm));
}

describe('the tile dipper’s routine', () => {
  it('takes 30 to 60 seconds and leaves nothing to look at', () => {
    expect(plan.durationS).toBeGreaterThan(30);
    expect(plan.durationS).toBeLessThan(60);
    expect(preflight(rig, mechanism, rig.builds[0], plan).filter((f) => f.severity !== 'note')).toEqual([]);
  });
  it('keeps the tile’s centre within 0.5 mm of the jar’s vertical while it is below the rim', () => {
    let below = 0;
    let worst = 0;
    for (const { tool, held } of moments()) {
      const centre = tilePoint(tool, 0, 0, 18);
      if (!held || !inJar(centre)) continue;
      below++;
      worst = Math.max(worst, Math.hypot(centre[0] - jar.xyzMm[0], centre[1] - jar.xyzMm[1]));
    }
    expect(below).toBeGreaterThan(500);
    expect(worst).toBeLessThan(0.5);
  });
  it('keeps the tile’s face within 3° of upright while it is below the rim', () => {
    let worst = 0;
    for (const { tool, held } of moments()) {
      if (!held || !inJar(tilePoint(tool, 0, 0, 18))) continue;
      worst = Math.max(worst, (Math.asin(Math.abs(axisOf(tool, 0)[2])) * 180) / Math.PI);
    }
    expect(worst).toBeLessThan(3);
  });
  it('never comes nearer than 4 mm to the jar with tile, tongs or arm', () => {
    let nearest = Infinity;
    for (const { q, tool, held } of moments()) {
      if (held)
        for (const x of [-3, 3])
          for (let y = -25; y <= 25; y += 5)
            for (let z = -12; z <= 48; z += 5) nearest = Math.min(nearest, toJar(tilePoint(tool, x, y, z)));
      // Tongs as a rod 20 mm thick that opens to 40 mm at its end, forearm with its radius.
      for (let z = -60; z <= 0; z += 6)
        for (const x of [-20, 20]) nearest = Math.min(nearest, toJar(tilePoint(tool, x, 0, z)));
      const { joints } = forward(mechanism, q);
      const [elbow, wrist] = [positionOf(joints.get('elbow')!), positionOf(joints.get('wrist')!)];
      for (let k = 0; k <= 10; k++)
        nearest = Math.min(nearest, toJar(mm(vec3.add(elbow, vec3.scale(vec3.sub(wrist, elbow), k / 10)))) - 20);
    }
    expect(nearest).toBeGreaterThan(4);
  });
  it('dips most of the tile and ends where it began', () => {
    const lowest = Math.min(...[...moments()].filter((m) => m.held).map((m) => tilePoint(m.tool, 0, 0, 48)[2]));
    expect(lowest).toBeLessThan(jar.fillMm - 45);
    const end = plan.blocks.at(-1)!.block.to;
    const rest = rig.poses[0].joints;
    mechanism.slotIds.forEach((id, s) => expect(end[s] / mechanism.siPerUnit[s]).toBeCloseTo(rest[id], 6));
  });
});
