import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { wiringSheets } from '../exports';
import { forgetJoint, parseRig, type Drive, type Rig } from '../rig';
import { catalogue, driveMaps, fromNative, nativeAt, nativeOf } from '../actuators';
import { checkDrives, homingMotion, homingWhatIf, planHoming, planPowerUp, powerUpMotion, restPose } from './index';
import { pinJobs, placeWire, takenPins } from '../wiring';
import { poseAt } from '../motion';

describe('power-up', () => {
  const rig: Rig = {
    ...tileDipper(),
    powerUp: { rest: 'rest', gapMs: 300, maxDegPerS: 20, order: ['m-wrist', 'm-turn'], at: {} },
  };
  const mechanism = compiled(rig.mechanism);
  const plan = planPowerUp(rig, mechanism, rig.builds[0]);
  it('switches drives on in their order and apart, the named ones first', () => {
    expect(plan.starts.map((s) => s.maps[0].drive.id).slice(0, 2)).toEqual(['m-wrist', 'm-turn']);
    plan.starts.slice(1).forEach((s, k) => expect(s.atS - plan.starts[k].atS).toBeCloseTo(0.3, 9));
  });
  it('moves no joint faster than asked, begins at rest and ends at neutral or a limit', () => {
    const motion = powerUpMotion(plan);
    let [before, out] = [poseAt(motion, 0), poseAt(motion, 0)];
    expect([...before]).toEqual([...restPose(rig, mechanism)]);
    const dt = 0.01;
    for (let t = dt; t < plan.durationS + dt; t += dt) {
      out = poseAt(motion, t);
      for (let s = 0; s < mechanism.m; s++)
        expect(Math.abs(out[s] - before[s]) / mechanism.siPerUnit[s]).toBeLessThanOrEqual(20 * dt + 1e-9);
      before = out;
    }
    for (let s = 0; s < mechanism.m; s++) {
      expect(out[s]).toBeGreaterThanOrEqual(mechanism.lower[s] - 1e-12);
      expect(out[s]).toBeLessThanOrEqual(mechanism.upper[s] + 1e-12);
    }
  });
  it('shows the sweep that happens: bare to where the servo’s middle really is, by the plan no further than the limit', () => {
    for (const [joint, min, max] of [
      ['elbow', 100, 135],
      ['shoulder', 30, 60],
      ['wrist', -80, -40],
    ] as const) {
      const narrow = structuredClone(rig) as Rig;
      const own = narrow.mechanism.joints.find((j) => j.id === joint)!;
      if (own.type !== 'revolute') throw new Error('no turning joint');
      own.limits = { ...own.limits, min, max };
      own.home = min;
      narrow.poses = [];
      narrow.powerUp.rest = null;
      const made = compiled(narrow.mechanism);
      const slot = made.slotOf.get(joint)!;
      const map = driveMaps(narrow, made, narrow.builds[0]).find((m) => m.drive.id === `m-${joint}`)!;
      if (map.drive.kind !== 'servo') throw new Error('no servo');
      // Where its middle pulse puts the joint, through the calibration alone.
      const neutral = fromNative(nativeOf(map.drive, narrow.builds[0])!, map.drive.centreUs);
      const really = map.coupling.toJoints([neutral])![0];
      expect(really < min || really > max).toBe(true);
      const end = (planned: boolean): number => {
        const power = planPowerUp(narrow, made, narrow.builds[0], planned);
        return poseAt(powerUpMotion(power), power.durationS + 1)[slot] / made.siPerUnit[slot];
      };
      expect(end(false)).toBeCloseTo(really, 9);
      const limit = really < min ? min : max;
      expect(Math.abs(end(true) - limit)).toBeLessThan(0.2);
      // The board is sent just that, and the page says where it would go without a plan.
      const q = poseAt(powerUpMotion(planPowerUp(narrow, made, narrow.builds[0])), 1e9);
      expect([map.native.low, map.native.high]).toContain(nativeAt(map, made, q));
      const said = checkDrives(narrow, made, narrow.builds[0]).filter((f) => f.code === 'neutral-past-limit');
      expect(said.find((f) => f.place.joint === joint)?.data).toMatchObject({
        limit: expect.closeTo(limit, 9),
        unit: '°',
      });
      expect(said.find((f) => f.place.joint === joint)!.data.at).toBeCloseTo(really, 6);
    }
  });
  it('draws less at once than without a plan, and a limp or holding drive stays', () => {
    const [servos] = plan.rails;
    expect(servos.plannedA).toBeLessThan(servos.atOnceA);
    expect(servos.unknown).toEqual([]);
    // A motor whose currents nobody gave is in no sum, and said.
    const bare = structuredClone(rig);
    bare.drives.forEach(
      (d, k) => k < 2 && ['stallA', 'movingA', 'idleA'].forEach((key) => delete (d as Record<string, unknown>)[key]),
    );
    const [some] = planPowerUp(bare, mechanism, bare.builds[0]).rails;
    expect(some.unknown).toEqual(bare.drives.slice(0, 2).map((d) => d.name));
    expect(some.atOnceA).toBeLessThan(servos.atOnceA);
    const limp = planPowerUp(
      { ...rig, powerUp: { ...rig.powerUp, at: { 'm-turn': 'limp' } } },
      mechanism,
      rig.builds[0],
    );
    const turn = limp.starts.find((s) => s.maps[0].drive.id === 'm-turn')!;
    expect(turn.to).toEqual(turn.from);
    expect(limp.rails[0].atOnceA).toBeLessThan(servos.atOnceA);
  });
  it('a jump takes as long as the slowest motor at its own speed', () => {
    const jump = planPowerUp(rig, mechanism, rig.builds[0], false);
    for (const { maps, seconds, from, to, slots } of jump.starts) {
      const { drive } = maps[0];
      if (drive.kind !== 'servo' || to[0] === from[0]) continue;
      const deg = Math.abs(to[0] - from[0]) / mechanism.siPerUnit[slots[0]];
      expect(seconds).toBeCloseTo(Math.max(0.01, deg / drive.speedDegPerS), 6);
    }
  });
});

describe('homing', () => {
  const rig = kilnLoader();
  const mechanism = compiled(rig.mechanism);
  const start = mechanism.home.slice();
  const plan = planHoming(rig, mechanism, start);
  const motion = homingMotion(plan, mechanism);
  it('ends with every axis where its switch trips, one axis beginning when those before are done unless together', () => {
    const end = poseAt(motion, plan.durationS + 1);
    rig.homing.axes.forEach((axis, k) => {
      const waitsLater = rig.homing.axes.slice(k + 1).some((later) => Object.hasOwn(later.waits, axis.joint));
      const slot = mechanism.slotOf.get(axis.joint)!;
      if (!waitsLater) expect(end[slot] / mechanism.siPerUnit[slot]).toBeCloseTo(axis.at, 9);
      if (k > 0 && !axis.together)
        expect(plan.axes[k].startS).toBeGreaterThanOrEqual(plan.axes[k - 1].startS + plan.axes[k - 1].seconds - 1e-9);
      if (axis.together) expect(plan.axes[k].startS).toBe(plan.axes[k - 1].startS);
    });
  });
  it('moves without a jump', () => {
    let before = poseAt(motion, 0);
    const dt = 0.02;
    for (let t = dt; t <= plan.durationS; t += dt) {
      const out = poseAt(motion, t);
      for (let s = 0; s < mechanism.m; s++) {
        const axis = rig.homing.axes.find((a) => a.joint === mechanism.slotIds[s])!;
        const top = Math.max(axis.fast, (0.25 * mechanism.speed[s]) / mechanism.siPerUnit[s]);
        // Two moves may meet inside one look.
        expect(Math.abs(out[s] - before[s]) / mechanism.siPerUnit[s]).toBeLessThanOrEqual(top * dt + 1e-9);
      }
      before = out;
    }
  });
  it('takes no longer together than one by one', () => {
    const { oneByOne, asSet, together } = homingWhatIf(rig, mechanism, start);
    expect(asSet).toBeCloseTo(plan.durationS, 9);
    expect(together).toBeLessThan(asSet);
    expect(asSet).toBeLessThan(oneByOne);
  });
});

describe('placing a drive', () => {
  it('takes a free pin that can do the job, and a rig without boards gets one', () => {
    fc.assert(
      fc.property(fc.constantFrom(...catalogue), fc.integer({ min: 0, max: 6 }), (entry, others) => {
        const rig = structuredClone(tileDipper());
        rig.wiring = rig.wiring.slice(0, others);
        if (others === 0) rig.boards = [];
        const drive = { ...entry.figures, id: 'new', name: 'new' } as Drive;
        rig.drives.push(drive);
        const taken = rig.boards.length ? takenPins(rig, rig.boards[0].id) : new Set<number>();
        placeWire(rig, drive);
        const wire = rig.wiring.find((w) => w.drive === 'new');
        const able = rig.boards[0].pins.filter((p) => p.can.some((a) => pinJobs[drive.kind].any.includes(a)));
        if (!able.length) {
          expect(wire).toBeUndefined();
          return;
        }
        expect(able.map((p) => p.pin)).toContain(wire!.channel);
        expect(taken.has(wire!.channel)).toBe(false);
      }),
    );
  });
});

describe('taking a joint out', () => {
  it('leaves a rig that is still a rig, with nothing said about it, whichever joint it is', () => {
    const loader = kilnLoader();
    for (const { id } of loader.mechanism.joints) {
      const draft = structuredClone(loader);
      draft.builds[0].backlash[id] = { slack: 1, takenOn: '' };
      forgetJoint(draft, id);
      expect(parseRig(draft).ok).toBe(true);
      const { mechanism: _m, poses: _p, ...rest } = draft;
      expect(
        JSON.stringify([rest.drives, rest.wiring, rest.powerUp, rest.homing, rest.builds, rest.leaders]),
      ).not.toContain(`"m-${id}"`);
      expect(draft.homing.axes.some((axis) => axis.joint === id || id in axis.waits)).toBe(false);
      expect(draft.sensors.some((s) => s.joint === id)).toBe(false);
      expect(id in draft.builds[0].backlash).toBe(false);
    }
  });
});

describe('the wiring sheet', () => {
  it('names every motor, used pin, colour and supply once drawn, with what people type escaped', () => {
    const rig = kilnLoader();
    rig.name = 'Loader <two> & "three"';
    const [{ content: sheet }] = wiringSheets(rig);
    expect(sheet).toContain('Loader &lt;two&gt; &amp; &quot;three&quot;');
    for (const drive of rig.drives) expect(sheet).toContain(drive.name);
    for (const wire of rig.wiring) {
      const pin = rig.boards[0].pins.find((p) => p.pin === wire.channel)!;
      expect(sheet).toContain(`>${pin.label}<`);
      expect(sheet).toContain(wire.colour);
    }
    for (const signal of rig.signals) expect(sheet).toContain(signal.name);
    rig.wiring = rig.wiring.slice(1);
    expect(wiringSheets(rig)[0].content).toContain('Not wired yet: Rail stepper.');
  });
});
