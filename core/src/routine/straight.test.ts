/** Straight and round moves on every kind of arm: there, and back again to the same joints. */
import { describe, expect, it } from 'vitest';
import { tileDipper, kilnLoader, twinCarriers, dotPainter } from '../../../demo';
import { dexterityAt, forward, probeOf } from '../kinematics';
import { axisOf, positionOf, rotationBetween, seededRandom, vec3, type Vec3 } from '../linear';
import { rulesExcess, type CompiledTool, type Mechanism } from '../mechanism';
import { presets, rigFromPreset } from '../presets';
import { splineInto } from '../motion';
import { compiled } from '../kinematics/arms.testkit';
import { circleWay, lineWay, toolWay, type ToolWay, type WayEnd } from './tool-way';
import { holdingOf, keeps, leastOf, poseKeeping } from './orientation';
import { below } from '../units/held.testkit';

const arms: [string, Mechanism][] = [
  ...presets.flatMap((preset): [string, Mechanism][] => {
    const rig = rigFromPreset(preset, preset.name);
    if (!rig.ok) throw new Error(rig.faults[0].message);
    const mechanism = compiled(rig.value.mechanism);
    // Trial rigs have no tool that goes anywhere, and heads point at things.
    const goes = mechanism.tools.some((t) => t.slots.length >= 3) && !['neck', 'head'].includes(preset.id);
    return goes ? [[preset.id, mechanism]] : [];
  }),
  ...[tileDipper(), kilnLoader(), twinCarriers(), dotPainter()].map((rig): [string, Mechanism] => [
    `demo: ${rig.name}`,
    compiled(rig.mechanism),
  ]),
];
const toolOf = (mechanism: Mechanism): CompiledTool => mechanism.tools.find((t) => t.mounted && t.slots.length >= 3)!;
const frameAt = (mechanism: Mechanism, tool: CompiledTool, q: Float64Array): Float64Array =>
  probeOf(mechanism, tool).frameAt(q).slice();

/** A pose away from limits, rules and the places where an arm cannot move freely. */
function somePose(mechanism: Mechanism, random: () => number): Float64Array | null {
  for (let attempt = 0; attempt < 300; attempt++) {
    const q = mechanism.home.map((home, s) => {
      const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
      if (!Number.isFinite(high - low)) return home + random() - 0.5;
      const room = high - low;
      const value = home + (random() - 0.5) * 0.5 * room;
      return Math.min(high - 0.15 * room, Math.max(low + 0.15 * room, value));
    });
    if (isFree(mechanism, q)) return q;
  }
  return null;
}
/** Inside limits and rules, and every way that the arm always has is open to it. */
function isFree(mechanism: Mechanism, q: Float64Array): boolean {
  if (rulesExcess(mechanism, q) > 0 || forward(mechanism, q).gap > 0) return false;
  if (q.some((v, s) => v < mechanism.lower[s] || v > mechanism.upper[s])) return false;
  const tool = toolOf(mechanism);
  const { spare } = holdingOf(mechanism, tool);
  const kind = tool.slots.length - spare.turn === 6 ? 'full' : 'free';
  return dexterityAt(mechanism, tool, kind, q).evenness > (kind === 'full' ? 0.04 : 0.06);
}

/** The tool's frame along a made way. */
function* along(
  mechanism: Mechanism,
  tool: CompiledTool,
  way: Extract<ToolWay, { ok: true }>,
): Generator<Float64Array> {
  const out = new Float64Array(4);
  const q = new Float64Array(mechanism.m);
  for (let k = 0; k <= 40; k++) {
    for (let s = 0; s < mechanism.m; s++) {
      splineInto(out, way.spline, s, k / 40);
      q[s] = out[0];
    }
    yield frameAt(mechanism, tool, q);
  }
}
const off = (a: Vec3, b: Vec3, p: Vec3): number => {
  const unit = vec3.unit(vec3.sub(b, a));
  const d = vec3.sub(p, a);
  return unit ? vec3.norm(vec3.sub(d, vec3.scale(unit, vec3.dot(d, unit)))) : vec3.norm(d);
};

/** What is kept is kept: measured along the way against where it began and ends. */
function expectKept(mechanism: Mechanism, tool: CompiledTool, way: Extract<ToolWay, { ok: true }>): void {
  const frames = [...along(mechanism, tool, way)];
  const [a, b] = [frames[0], frames[frames.length - 1]];
  const [ua, ub] = [a, b].map((f) => vec3.angleBetween(axisOf(f, 2), [0, 0, 1]));
  for (const f of frames) {
    below(off(positionOf(a), positionOf(b), positionOf(f)), 2e-4);
    const turn = vec3.norm(rotationBetween(a, b));
    if (way.keep === 'turn' && turn < 1e-6) below(vec3.norm(rotationBetween(a, f)), 2e-3);
    if (way.keep === 'direction') {
      const [d, e, z] = [axisOf(a, 2), axisOf(b, 2), axisOf(f, 2)];
      // On the great circle between the two.
      const around = vec3.angleBetween(d, e);
      below(vec3.angleBetween(d, z) + vec3.angleBetween(z, e), around + 4e-3);
    }
    if (way.keep === 'tilt') {
      const u = vec3.angleBetween(axisOf(f, 2), [0, 0, 1]);
      expect(u).toBeGreaterThan(Math.min(ua, ub) - 2e-3);
      // A tool that leans out at one end and in at the other goes over the upright.
      const [za, zb] = [axisOf(a, 2), axisOf(b, 2)];
      if (za[0] * zb[0] + za[1] * zb[1] > 0) below(u, Math.max(ua, ub) + 2e-3);
    }
  }
}

const directions: Vec3[] = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
];
const BY = 0.012;

describe.each(arms)('%s', (_name, mechanism) => {
  const tool = toolOf(mechanism);
  const shiftTo = (q: Float64Array, by: Vec3): WayEnd => {
    const frame = frameAt(mechanism, tool, q);
    frame.set(vec3.add(positionOf(frame), by), 9);
    return { frame, q: null, least: leastOf(mechanism, tool) };
  };
  const line = (from: Float64Array, end: WayEnd): ToolWay =>
    toolWay(mechanism, tool, from, end, lineWay(positionOf(frameAt(mechanism, tool, from)), positionOf(end.frame)));

  it('is shifted straight in all six directions, keeps what it says, and comes back to the same joints', () => {
    const random = seededRandom(31);
    let asked = 0;
    const refused: string[] = [];
    for (let i = 0; i < 6; i++) {
      const from = somePose(mechanism, random);
      if (!from) continue;
      for (const d of directions) {
        const end = shiftTo(from, vec3.scale(d, BY));
        // Reachable between and at the end: that is what may not be refused.
        const reachable = [0.25, 0.5, 0.75, 1].every((share) =>
          poseKeeping(
            mechanism,
            tool,
            shiftTo(from, vec3.scale(d, BY * share)).frame,
            from,
            leastOf(mechanism, tool),
          ),
        );
        if (!reachable) continue;
        asked++;
        const there = line(from, end);
        if (!there.ok) refused.push(`${there.code} ${JSON.stringify(there.data)} ${d}`);
        if (!there.ok) continue;
        expectKept(mechanism, tool, there);
        const back = line(there.to, shiftTo(there.to, vec3.scale(d, -BY)));
        expect(back.ok).toBe(true);
        if (back.ok) back.to.forEach((v, s) => expect(Math.abs(v - from[s])).toBeLessThan(2e-3));
      }
    }
    expect(asked).toBeGreaterThan(5);
    expect(refused).toEqual([]);
  });

  it('goes straight to poses nearby and back', () => {
    const random = seededRandom(77);
    let [asked, made] = [0, 0];
    for (let i = 0; i < 25; i++) {
      const from = somePose(mechanism, random);
      if (!from) continue;
      const to = from.map((v, s) => {
        if (!tool.slots.includes(s)) return v;
        const by = mechanism.units[mechanism.jointOfSlot[s]] === '°' ? 0.16 : 0.015;
        return v + (random() - 0.5) * 2 * by;
      });
      const between = [0.25, 0.5, 0.75, 1].map((share) => from.map((v, s) => v + share * (to[s] - v)));
      if (!between.every((q) => isFree(mechanism, q))) continue;
      asked++;
      const there = line(from, { frame: frameAt(mechanism, tool, to), q: to, least: 'turn' });
      if (!there.ok) continue;
      made++;
      expectKept(mechanism, tool, there);
      const back = line(to, { frame: frameAt(mechanism, tool, from), q: from, least: 'turn' });
      expect(back.ok).toBe(true);
    }
    expect(asked).toBeGreaterThan(10);
    expect(made).toBe(asked);
  });

  it('goes round a circle and ends where it began', () => {
    const random = seededRandom(5);
    let made = 0;
    for (let i = 0; i < 8 && made < 2; i++) {
      const from = somePose(mechanism, random);
      if (!from) continue;
      const start = positionOf(frameAt(mechanism, tool, from));
      const way = circleWay(start, vec3.add(start, [-0.01, 0.01, 0]), vec3.add(start, [-0.02, 0, 0]), 1)!;
      const round = toolWay(
        mechanism,
        tool,
        from,
        { frame: frameAt(mechanism, tool, from), q: from, least: 'turn' },
        way,
      );
      if (!round.ok) continue;
      made++;
      for (const f of along(mechanism, tool, round)) {
        const p = positionOf(f);
        expect(Math.abs(Math.hypot(p[0] - start[0] + 0.01, p[1] - start[1]) - 0.01)).toBeLessThan(2e-4);
        expect(Math.abs(p[2] - start[2])).toBeLessThan(2e-4);
      }
    }
    expect(made).toBe(2);
  });
});

it('what is to be kept can be said: less than the arm could, or more than it can', () => {
  const [, mechanism] = arms.find(([id]) => id === 'servo-arm-4')!;
  const tool = toolOf(mechanism);
  const from = somePose(mechanism, seededRandom(3))!;
  const frame = frameAt(mechanism, tool, from);
  const a = positionOf(frame);
  frame.set(vec3.add(a, [0, 0.03, 0]), 9);
  const end: WayEnd = { frame, q: null, least: 'nothing' };
  const way = lineWay(a, positionOf(frame));
  const found = keeps.map((keep) => toolWay(mechanism, tool, from, end, way, keep));
  expect(found.map((w) => w.ok)).toEqual([false, false, true, true]);
  expect(found.map((w) => (w.ok ? w.keep : w.data.why))).toEqual([
    expect.stringMatching(/leans|turned|rolled|joints/),
    expect.stringMatching(/leans|turned|joints/),
    'tilt',
    'nothing',
  ]);
});
