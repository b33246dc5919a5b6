import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { nextTick, watch } from 'vue';
import { tileDipper } from '../../../demo';
import { signalSchema, type Rig, type Step } from '@cork-elbow/core/rig';
import { inComponent, opened } from '../opened.testkit';
import { createPlan } from './usePlan';
import { tipPath } from '@cork-elbow/core/kinematics';
import { poseAt } from '@cork-elbow/core/motion';
import { planCommands, planMotion } from '@cork-elbow/core/routine';

const frames = {
  requestAnimationFrame: globalThis.requestAnimationFrame,
  cancelAnimationFrame: globalThis.cancelAnimationFrame,
};
let leave: () => void = () => undefined;
let frame: ((t: number) => void) | null = null;
beforeEach(() => {
  frame = null;
  vi.stubGlobal('requestAnimationFrame', (f: (t: number) => void) => ((frame = f), 1));
  vi.stubGlobal('cancelAnimationFrame', () => (frame = null));
});
afterEach(() => {
  leave();
  Object.assign(globalThis, frames);
});
const tick = async (t: number): Promise<void> => {
  const due = frame;
  frame = null;
  due?.(t);
  await nextTick();
};

/** The dipper with a second routine, which waits for a door. */
function twoRoutines(): Rig {
  const rig = structuredClone(tileDipper()) as Rig;
  rig.signals.push(signalSchema.parse({ id: 'door', name: 'Door', way: 'in' }));
  const wait = { kind: 'wait-input', id: 'door', enabled: true, note: '', signal: 'door', is: true } as const;
  const move = { id: 'turn', enabled: true, note: '', kind: 'joint-move', target: { joints: { turn: 20 } } } as const;
  rig.routines.push({
    ...{ id: 'guard', name: 'Guard', note: '', role: null, profile: 's-curve' },
    steps: [
      { ...wait, timeoutS: null, otherwise: 'stop' },
      { ...move, pace: { speedShare: 0.5 } },
    ] as Step[],
  });
  return rig;
}

async function workspace(rig: Rig) {
  const stores = await opened(rig);
  const { made: plan, leave: unmount } = inComponent(createPlan);
  leave = unmount;
  /** Waits for what the page itself announces: a plan, another plan, findings. */
  const until = async (holds: () => boolean): Promise<void> => {
    for (let turns = 0; turns < 5000 && !holds(); turns++) {
      await nextTick();
      await new Promise((next) => setTimeout(next));
    }
    if (!holds()) throw new Error('it never came');
  };
  await until(() => plan.plan.value !== null);
  return { ...stores, plan, until };
}

describe('the plan on show', () => {
  it('is not called current from an edit on until a plan of that very edit is there', async () => {
    const { rigs, plan, until } = await workspace(twoRoutines());
    await until(() => plan.isCurrent.value);
    const add = (id: string, durationS: number): void =>
      void rigs.commit('Wait', (draft) =>
        draft.routines[0].steps.unshift({ kind: 'wait', id, enabled: true, note: '', durationS }),
      );
    // So soon after the last one it is not planned yet, and is not current all the same.
    const clock = vi.spyOn(Date, 'now').mockReturnValue(Date.now() + 1000);
    add('zero', 1);
    await nextTick();
    await until(() => plan.isCurrent.value);
    const before = plan.plan.value!;
    add('one', 3);
    await nextTick();
    expect([plan.isCurrent.value, plan.plan.value]).toEqual([false, before]);
    clock.mockRestore();
    // Another edit while the first is being planned: that plan comes, and is of no use any more.
    const seen: [current: boolean, longer: number][] = [];
    const stop = watch(
      [plan.plan, plan.isCurrent],
      () => seen.push([plan.isCurrent.value, plan.plan.value!.durationS - before.durationS]),
      { flush: 'sync' },
    );
    add('two', 4);
    await until(() => plan.isCurrent.value);
    stop();
    expect(plan.plan.value!.durationS - before.durationS).toBeCloseTo(7, 6);
    for (const [current, longer] of seen) if (current) expect(longer).toBeCloseTo(7, 6);
  });
  it('is of the first routine until another is chosen, and follows every edit', async () => {
    const { rigs, plan, until } = await workspace(twoRoutines());
    expect(plan.plan.value!.routineId).toBe(rigs.rig!.routines[0].id);
    const second = rigs.rig!.routines[1];
    plan.routineId.value = second.id;
    await until(() => plan.plan.value!.routineId === second.id);
    const before = plan.plan.value!;
    rigs.commit('Wait', (draft) =>
      draft.routines[1].steps.unshift({ kind: 'wait', id: 'pause', enabled: true, note: '', durationS: 3 }),
    );
    await until(() => plan.plan.value !== before);
    expect(plan.plan.value!.durationS).toBeCloseTo(before.durationS + 3, 6);
  });
  it('goes by the inputs that are tried, each routine its own', async () => {
    const { rigs, plan, until } = await workspace(twoRoutines());
    const load = rigs.rig!.routines.find((r) => r.steps.some((s) => s.kind === 'wait-input'))!;
    plan.routineId.value = load.id;
    await until(() => plan.plan.value!.routineId === load.id);
    const soon = plan.plan.value!;
    plan.tried.value = { [load.id]: { door: { from: false, changesS: [9] } } };
    await until(() => plan.plan.value !== soon);
    expect(plan.plan.value!.durationS).toBeGreaterThan(soon.durationS + 5);
    const late = plan.plan.value!;
    plan.tried.value = { other: { door: { from: false, changesS: [9] } } };
    await until(() => plan.plan.value !== late);
    expect(plan.plan.value!.durationS).toBeCloseTo(soon.durationS, 9);
  });
  it('plays, draws and carries what motors are told by the rig’s own choice', async () => {
    const rig = tileDipper();
    const smooth = { ...rig, motion: { ...rig.motion, school: 'low-pass' as const, timeConstantS: 0.3 } };
    const { view, mechanism, rigs, plan } = await workspace(smooth);
    const made = plan.plan.value!;
    const told = planCommands(smooth, mechanism, rigs.motors, made);
    expect(told.durationS).toBeGreaterThan(made.durationS);
    const t = made.durationS * 0.4;
    plan.show(t);
    expect(view.q).toEqual(poseAt(told, t));
    expect(view.q).not.toEqual(poseAt(planMotion(made), t));
    plan.show(1e6);
    expect(plan.time.value).toBe(told.durationS);
    expect(plan.trace.value).toEqual(tipPath(mechanism, told, plan.trace.value!.length / 3 - 1));
  });
  it('shows the pose and the step of a moment, held inside the plan', async () => {
    const { view, plan } = await workspace(tileDipper());
    const made = plan.plan.value!;
    for (const share of [0, 0.31, 0.77, 1]) {
      plan.show(share * made.durationS);
      expect(view.q).toEqual(poseAt(planMotion(made), share * made.durationS));
    }
    plan.show(1e6);
    expect(plan.time.value).toBe(made.durationS);
    plan.show(-4);
    expect(plan.time.value).toBe(0);
    expect(plan.step.value).toBeDefined();
  });
  it('keeps its place in time when a shorter plan comes', async () => {
    const { rigs, plan, until } = await workspace(tileDipper());
    const before = plan.plan.value!;
    plan.show(before.durationS);
    rigs.commit('Shorter', (draft) => void draft.routines[0].steps.splice(2));
    await until(() => plan.plan.value !== before);
    expect(plan.time.value).toBeLessThanOrEqual(plan.plan.value!.durationS);
  });
  it('plays in real time from where it stands, stops at the end, and begins again from the start', async () => {
    const { plan } = await workspace(tileDipper());
    const { durationS } = plan.plan.value!;
    plan.show(durationS - 0.15);
    vi.spyOn(performance, 'now').mockReturnValue(1000);
    plan.play();
    await tick(1050);
    expect(plan.time.value).toBeCloseTo(durationS - 0.1, 6);
    expect(plan.isPlaying.value).toBe(true);
    await tick(1140);
    await tick(1200);
    expect(plan.time.value).toBe(durationS);
    expect(plan.isPlaying.value).toBe(false);
    plan.play();
    expect(plan.time.value).toBe(0);
    // By the clock, also with three pictures a second.
    for (const at of [1333, 1667, 2000]) await tick(at);
    expect(plan.time.value).toBeCloseTo(1, 6);
    // What nobody can have looked at is left out: the page was hidden, or the machine slept.
    vi.mocked(performance.now).mockReturnValue(4000);
    document.dispatchEvent(new Event('visibilitychange'));
    await tick(4100);
    expect(plan.time.value).toBeCloseTo(1.1, 6);
    await tick(9000);
    await tick(9050);
    expect(plan.time.value).toBeCloseTo(1.15, 6);
    vi.mocked(performance.now).mockRestore();
  });
  it('of another routine is played as soon as it is there', async () => {
    const { rigs, plan, until } = await workspace(twoRoutines());
    const other = rigs.rig!.routines[1];
    plan.show(2);
    plan.playRoutine(other.id);
    await until(() => plan.plan.value!.routineId === other.id);
    await nextTick();
    expect(plan.isPlaying.value).toBe(true);
    expect(plan.time.value).toBe(0);
    plan.pause();
    plan.playRoutine(other.id);
    expect(plan.isPlaying.value).toBe(true);
  });
  it('draws the way of the tool’s point with dots evenly in time', async () => {
    const { plan } = await workspace(tileDipper());
    const { durationS } = plan.plan.value!;
    expect(plan.trace.value!.length % 3).toBe(0);
    const dots = plan.beats.value!.length / 3 - 1;
    expect(Math.abs(dots - durationS / Math.max(0.1, durationS / 250))).toBeLessThanOrEqual(1);
    expect(plan.beats.value!.slice(0, 3)).toEqual(plan.trace.value!.slice(0, 3));
    expect(plan.beats.value!.slice(-3)).toEqual(plan.trace.value!.slice(-3));
  });
  it('shows payloads where they stand at that moment', async () => {
    const { plan } = await workspace(tileDipper());
    const [{ timeS, payload }] = plan.plan.value!.carries;
    plan.show(0);
    const before = plan.payloads.value.get(payload!)!;
    plan.show(timeS + 1);
    const after = plan.payloads.value.get(payload!)!;
    expect(Math.hypot(...[9, 10, 11].map((k) => after[k] - before[k]))).toBeGreaterThan(0.005);
  });
});

describe('findings on the page', () => {
  it('are those of the rig too where there is no routine, and none is lost when one comes', async () => {
    const rig = structuredClone(tileDipper()) as Rig;
    rig.routines = [];
    rig.wiring = [];
    const stores = await opened(rig);
    const { made: plan, leave: unmount } = inComponent(createPlan);
    leave = unmount;
    await nextTick();
    expect(plan.plan.value).toBeNull();
    const codes = stores.view.findings.map((f) => f.code);
    expect(codes).toContain('motor-unwired');
  });
  it('of contact come a little later, and go with the plan that they were of', async () => {
    const rig = structuredClone(tileDipper()) as Rig;
    rig.obstacles.push({
      ...{ kind: 'box', id: 'crate', name: 'Crate', xyzMm: [150, 0, 0], rpyDeg: [0, 0, 0], sizeMm: [80, 300, 200] },
      fixedTo: 'world',
    });
    // Its third step meets it.
    rig.routines[0].steps.splice(3);
    const { rigs, view, plan, until } = await workspace(rig);
    await until(() => view.findings.some((f) => f.message.includes('Crate')));
    const before = plan.plan.value!;
    rigs.commit('Take the crate away', (draft) => void draft.obstacles.pop());
    await until(() => plan.plan.value !== before);
    await until(() => !view.findings.some((f) => f.message.includes('Crate')));
  });
});
