import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { nextTick } from 'vue';
import { kilnLoader, tileDipper, twinCarriers } from '../../../../demo';
import { forward } from '@cork-elbow/core/kinematics';
import { axisOf, positionOf, vec3, type Vec3 } from '@cork-elbow/core/linear';
import type { Rig } from '@cork-elbow/core/rig';
import { checked, inComponent, opened } from '../../opened.testkit';
import { BASE, WORLD } from './target-frame';
import { createReach } from './useReach';

let leave: () => void = () => undefined;
afterEach(() => leave());

let count = 0;
/** Each under an id of its own: what was asked last of a rig is remembered. */
async function station(rig: Rig) {
  const stores = await opened(rig, `arm-${count++}`);
  const { made: reach, leave: unmount } = inComponent(createReach);
  leave = unmount;
  const answered = async (): Promise<void> => {
    for (let turns = 0; turns < 2000; turns++) {
      await nextTick();
      await new Promise((next) => setTimeout(next));
      if (!reach.isAsking.value) return;
    }
    throw new Error('no answer');
  };
  await answered();
  const tip = (): Float64Array =>
    forward(stores.mechanism, stores.view.editQ).tools.get(reach.tool.value!.id)!.slice();
  return { ...stores, reach, answered, tip };
}
const inMm = (frame: Float64Array): number[] => positionOf(frame).map((v) => v * 1000);

/** The dipper with a named frame beside the jar, turned and tilted. */
function withFrame(): Rig {
  const rig = structuredClone(tileDipper());
  rig.frames.push({ id: 'tray', name: 'Tray', fixedTo: 'world', xyzMm: [120, -60, 20], rpyDeg: [10, -20, 35] });
  return checked(rig);
}

describe('a target on the Reach page', () => {
  it('begins where the tool is, and that is in reach', async () => {
    for (const rig of [tileDipper(), kilnLoader(), twinCarriers()]) {
      const { reach, tip } = await station(rig);
      expect(reach.answer.value?.reachable).toBe(true);
      inMm(tip()).forEach((v, k) => expect(reach.target.value[k]).toBeCloseTo(v, 4));
      leave();
    }
  });
  it('that is typed brings the arm there', async () => {
    const { reach, answered, tip } = await station(tileDipper());
    reach.move([190, 40, 120]);
    await answered();
    expect(vec3.distance(positionOf(tip()), [0.19, 0.04, 0.12])).toBeLessThan(1e-6);
    expect(reach.answer.value!.isFree).toBe(true);
  });
  it('out of reach leaves the arm where it is and gives the closest pose', async () => {
    const { reach, answered, view } = await station(tileDipper());
    const before = view.editQ.slice();
    reach.move([900, 0, 100]);
    await answered();
    expect(view.editQ).toEqual(before);
    expect(reach.answer.value!.reasons[0].code).toBe('too-far');
    expect(reach.answer.value!.closest).toBeDefined();
  });
  it('stands at the same place in the world in whatever frame it is given', async () => {
    const { reach, answered } = await station(withFrame());
    const frames = reach.frames.value.map((f) => f.value);
    expect(frames).toEqual([WORLD, BASE, 'tray']);
    await fc.assert(
      fc.asyncProperty(fc.array(fc.constantFrom(...frames), { minLength: 1, maxLength: 6 }), async (walk) => {
        const place = reach.worldTarget.value;
        const direction = reach.direction.value;
        for (const id of walk) reach.setFrame(id);
        expect(vec3.distance(reach.worldTarget.value, place)).toBeLessThan(1e-7);
        if (direction) expect(vec3.angleBetween(reach.direction.value!, direction)).toBeLessThan(1e-6);
        await answered();
      }),
    );
  });
  it('keeps its whole rotation from frame to frame', async () => {
    const { reach, answered } = await station(checked({ ...kilnLoader(), frames: withFrame().frames }));
    reach.setAim('full');
    reach.turned.value = [170, 12, -35];
    const before = reach.task.value;
    if (before.kind !== 'full') throw new Error('not a full pose');
    reach.setFrame('tray');
    expect(reach.turned.value[0]).not.toBeCloseTo(170, 1);
    const after = reach.task.value;
    if (after.kind !== 'full') throw new Error('not a full pose');
    for (let k = 0; k < 9; k++) expect(after.rotation[k]).toBeCloseTo(before.rotation[k], 6);
    await answered();
  });
  it('is turned step by step: a tilt turns the direction, a roll leaves it', async () => {
    const { reach, answered } = await station(kilnLoader());
    reach.setAim('full');
    await answered();
    const before = reach.direction.value!;
    reach.turnBy(before, 0.1);
    expect(vec3.angleBetween(reach.direction.value!, before)).toBeLessThan(1e-6);
    expect(reach.aim.value).toBe('full');
    const across = vec3.unit(vec3.cross(before, [0.3, 0.9, 0.1]))!;
    reach.turnBy(across, 0.1);
    expect(vec3.angleBetween(reach.direction.value!, before)).toBeCloseTo(0.1, 6);
    await answered();
    expect(reach.answer.value?.reachable).toBe(true);
  });
  it('goes on along the world’s axes whatever frame it is given in', async () => {
    const { reach, answered } = await station(withFrame());
    reach.setFrame('tray');
    const before = reach.worldTarget.value;
    reach.shift([0, 0, 12]);
    expect(vec3.distance(reach.worldTarget.value, vec3.add(before, [0, 0, 0.012]))).toBeLessThan(1e-8);
    await answered();
  });
  it('is there again after a walk to another station', async () => {
    const { reach, answered } = await station(tileDipper());
    reach.move([200, 30, 90]);
    reach.setAim('level');
    await answered();
    leave();
    const again = inComponent(createReach);
    leave = again.leave;
    expect(again.made.target.value).toEqual([200, 30, 90]);
    expect(again.made.aim.value).toBe('level');
  });
});

describe('joints and tools that stay', () => {
  it('a held joint keeps its value to the last digit', async () => {
    const { reach, answered, view, mechanism } = await station(tileDipper());
    const slot = mechanism.slotOf.get('turn')!;
    const before = view.editQ[slot];
    reach.hold('turn');
    reach.move([190, 0, 120]);
    await answered();
    expect(reach.answer.value?.reachable).toBe(true);
    expect(view.editQ[slot]).toBe(before);
    reach.move([190, 60, 120]);
    await answered();
    expect(reach.answer.value?.reachable).toBe(false);
    reach.hold('turn');
    await answered();
    expect(view.editQ[slot]).not.toBe(before);
  });
  it.each(['stay', 'along'] as const)('the other hand: %s', async (way) => {
    const { reach, answered, view, mechanism } = await station(twinCarriers());
    const hands = (): [Vec3, Vec3] => {
      const { tools } = forward(mechanism, view.editQ);
      return [positionOf(tools.get('hand-l')!), positionOf(tools.get('hand-r')!)].map((p) => [...p]) as never;
    };
    const [l0, r0] = hands();
    reach.setOthers(way);
    await answered();
    reach.move(reach.target.value.map((v, k) => v + (k === 2 ? 12 : 0)));
    await answered();
    const [l1, r1] = hands();
    expect(vec3.distance(l1, vec3.add(l0, [0, 0, 0.012]))).toBeLessThan(2e-6);
    if (way === 'stay') expect(vec3.distance(r1, r0)).toBeLessThan(2e-6);
    else {
      // Carried along, the hands keep their distance.
      expect(vec3.distance(l1, r1)).toBeCloseTo(vec3.distance(l0, r0), 5);
      expect(vec3.distance(r1, r0)).toBeGreaterThan(0.005);
    }
  });
});

describe('an edit of the rig while tools are kept', () => {
  it('is followed: what the other hand keeps to is told in the arm as it now is', async () => {
    const { reach, answered, rigs } = await station(twinCarriers());
    reach.setOthers('along');
    await answered();
    const result = rigs.commit('Longer hand', (draft) => {
      draft.mechanism.tools.find((t) => t.id === 'hand-l')!.origin.xyzMm = [0, 0, -70];
    });
    expect(result.ok).toBe(true);
    await answered();
    const [own, other] = reach.asks.value;
    expect(own.toolId).toBe('hand-l');
    const now = rigs.mechanism!.tools.find((t) => t.id === 'hand-l')!;
    expect(other.on).toEqual({ joint: now.parent, local: now.local });
    expect(reach.othersWay.value).toBe('along');
  });
});

describe('a drag', () => {
  it('follows in small steps, ends at the edge of reach inside every limit, and is answered when let go', async () => {
    const { reach, answered, view, mechanism, tip } = await station(tileDipper());
    reach.setAim('free');
    await answered();
    const from = positionOf(tip()).slice() as unknown as Vec3;
    let before = view.editQ.slice();
    for (let k = 1; k <= 40; k++) {
      reach.drag(vec3.add(from, [0.012 * k, 0.004 * k, 0]));
      expect(Math.max(...view.editQ.map((v, s) => Math.abs(v - before[s])))).toBeLessThan(0.6);
      view.editQ.forEach((v, s) => {
        expect(v).toBeGreaterThanOrEqual(mechanism.lower[s]);
        expect(v).toBeLessThanOrEqual(mechanism.upper[s]);
      });
      before = view.editQ.slice();
    }
    expect(reach.isHit.value).toBe(false);
    expect(reach.isDragging.value).toBe(true);
    reach.drop();
    await answered();
    expect(reach.isDragging.value).toBe(false);
    expect(reach.answer.value?.reachable).toBe(false);
  });
  it('keeps the tool pointing as asked', async () => {
    const { reach, answered, tip } = await station(tileDipper());
    reach.setAim('down');
    reach.move([180, 0, 120]);
    await answered();
    for (let k = 1; k <= 20; k++) {
      reach.drag([0.18, 0.004 * k, 0.12 - 0.001 * k]);
      expect(vec3.angleBetween(axisOf(tip(), 2), [0, 0, -1])).toBeLessThan(1e-4);
    }
  });
});

describe('spots', () => {
  it('are gone to turned as they ask; who points at things goes on pointing', async () => {
    const { reach, answered, rigs, tip } = await station(tileDipper());
    const spot = rigs.rig!.spots[1];
    reach.goTo(spot.xyzMm, spot.direction as Vec3);
    await answered();
    expect(reach.aim.value).toBe('down');
    inMm(tip()).forEach((v, k) => expect(v).toBeCloseTo(spot.xyzMm[k], 3));
    reach.setAim('spot');
    await answered();
    reach.goTo([400, 100, 200], null);
    await answered();
    expect(reach.aim.value).toBe('spot');
    const towards = vec3.unit(vec3.sub([0.4, 0.1, 0.2], positionOf(tip())))!;
    expect(vec3.angleBetween(axisOf(tip(), 2), towards)).toBeLessThan(1e-5);
  });
});
