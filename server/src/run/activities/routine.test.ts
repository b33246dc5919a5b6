import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Channels } from '@cork-elbow/core/commands';
import { restPose } from '@cork-elbow/core/bring-up';
import { compile } from '@cork-elbow/core/mechanism';
import { poseAt } from '@cork-elbow/core/motion';
import type { Rig } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';
import { PERIOD } from '../pacer';
import { prepareRun, type Course } from '../prepare';
import { CUSHION, RoutineRun } from './routine';

/** After the last point: the cushion and a period are played out, and the motors come to rest. */
const REST = 250;

function courseOf(rig: Rig, routineId: string, more: object = {}): Course {
  const compiled = compile(rig.mechanism);
  if (!compiled.ok) throw new Error('does not compile');
  const request = { id: 'r', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId, ...more };
  const made = prepareRun(request, rig, () => restPose(rig, compiled.mechanism));
  if (!made.ok) throw new Error(made.message);
  return made;
}
const short = structuredClone(tileDipper()) as Rig;
short.routines.push({
  ...{ id: 'short', name: 'Short', note: '', role: null, profile: 's-curve' },
  steps: [
    {
      id: 'a',
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { joints: { turn: 40 } },
      pace: { speedShare: 0.5 },
    },
    {
      id: 'b',
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { joints: { turn: -10 } },
      pace: { speedShare: 0.5 },
    },
  ],
});
short.routines.push({
  ...{ id: 'round', name: 'Round', note: '', role: null, profile: 's-curve' },
  steps: [
    {
      id: 'in',
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { joints: { turn: 20 } },
      pace: { durationS: 1 },
    },
    { id: 'r', kind: 'repeat', enabled: true, note: '', times: null },
    {
      id: 'u',
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { joints: { turn: 40 } },
      pace: { durationS: 1 },
    },
    {
      id: 'v',
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { joints: { turn: 20 } },
      pace: { durationS: 1 },
    },
    { id: 'e', kind: 'end', enabled: true, note: '' },
  ],
});
const course = courseOf(short, 'short');
const endless = courseOf(short, 'round');

/** A run whose time goes by beat by beat; `now` is the time of the last beat. */
function going(of = course) {
  const run = new RoutineRun('r1', 'short', of, new Channels(short, of.mechanism, of.build));
  let now = 1000;
  const beat = (times = 1): void => {
    for (let k = 0; k < times; k++) run.beat((now += PERIOD));
  };
  const until = (holds: () => boolean): void => {
    for (let k = 0; !holds(); k++) {
      if (k > 100_000) throw new Error('it never comes');
      beat();
    }
  };
  return { run, beat, until, now: () => now };
}
/** Share of full speed at which its time goes now, from what it says of the time of the plan. */
const rateOf = ({ run, beat }: ReturnType<typeof going>): number => {
  const before = run.planTime();
  beat();
  return (run.planTime() - before) / (PERIOD / 1000);
};

describe('a routine under way', () => {
  it('goes through all of its plan, never back, and is finished when the last point has been played', () => {
    const g = going();
    const times = [g.run.planTime()];
    while (g.run.isMoving) {
      expect(g.run.outcome(g.now())).toBeNull();
      g.beat();
      times.push(g.run.planTime());
    }
    for (let k = 1; k < times.length; k++) expect(times[k]).toBeGreaterThanOrEqual(times[k - 1]);
    expect(times[0]).toBe(0);
    expect(times.at(-1)).toBe(course.plan.durationS);
    expect(g.run.totalS).toBe(course.plan.durationS);
    expect(times.length - 1).toBe(Math.ceil((course.motion.durationS * 1000) / PERIOD));
    const over = g.now() + CUSHION + PERIOD + REST;
    expect([g.run.outcome(over - 1), g.run.outcome(over), g.run.outcome(over + 5000)]).toEqual([
      null,
      'finished',
      'finished',
    ]);
    expect(g.run.ranMs).toBeCloseTo((course.motion.durationS - course.lead) * 1000, 6);
    // What has ended cannot be held or let go on.
    expect(g.run.resume()).toBe(false);
    expect(g.run.wakes()).toEqual([]);
  });
  it('stopped anywhere slows down inside every joint’s acceleration, plays that out, and has stopped', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 200 }), (beats) => {
        const g = going();
        g.beat(beats);
        if (!g.run.isMoving) return;
        expect(g.run.stop()).toBe(true);
        expect(g.run.status().run).toBe('stopping');
        // Asked once more: the loop halts instead.
        expect(g.run.stop()).toBe(false);
        const rates = [1];
        while (g.run.isMoving) {
          expect(g.run.outcome(g.now())).toBeNull();
          rates.push(rateOf(g));
          expect(g.run.status().run).toBe('stopping');
        }
        for (let k = 1; k < rates.length; k++) expect(rates[k]).toBeLessThanOrEqual(rates[k - 1] + 1e-9);
        const { speed, accel, m } = course.mechanism;
        const least = Math.max(0.1, ...Array.from({ length: m }, (_, s) => speed[s] / accel[s]));
        if (g.run.planTime() < course.plan.durationS)
          expect((rates.length - 1) * (PERIOD / 1000)).toBeGreaterThanOrEqual(least - PERIOD / 1000);
        const isAtEnd = g.run.planTime() === course.plan.durationS;
        const over = g.now() + CUSHION + PERIOD + (isAtEnd ? REST : 0);
        expect([g.run.outcome(over - 1), g.run.outcome(over)]).toEqual([null, 'stopped']);
      }),
      { numRuns: 60 },
    );
  });
  it('held stands still where it is, goes on from there, and arrives at the same end', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 120 }), fc.integer({ min: 0, max: 200 }), (first, wait) => {
        const g = going();
        g.beat(first);
        if (!g.run.isMoving) return;
        g.run.pause();
        expect(g.run.status().run).toBe('pausing');
        // Before it stands it is only told to go on.
        g.until(() => !g.run.isMoving);
        if (g.run.planTime() === course.plan.durationS) return;
        expect(g.run.status().run).toBe('paused');
        const [at, pose] = [g.run.planTime(), g.run.pointAt(g.now()).pose];
        g.beat(wait);
        expect([g.run.planTime(), g.run.outcome(g.now() + 1e6)]).toEqual([at, null]);
        expect(g.run.pointAt(g.now() + 500).pose).toEqual(pose);
        expect(g.run.resume()).toBe(true);
        expect(g.run.isMoving).toBe(true);
        g.until(() => g.run.outcome(g.now() + CUSHION + PERIOD + REST) !== null);
        expect(g.run.outcome(g.now() + 1e6)).toBe('finished');
        const end = poseAt(course.motion, course.motion.durationS);
        g.run.pointAt(g.now()).pose!.forEach((v, s) => expect(v).toBeCloseTo(end[s], 9));
      }),
      { numRuns: 40 },
    );
  });
  it('told to go on while it still slows down, goes on without a stand; stopped while it stands, has stopped at once', () => {
    const g = going();
    g.beat(30);
    g.run.pause();
    g.beat();
    expect(g.run.resume()).toBe(false);
    expect(g.run.status().run).not.toBe('pausing');
    expect(g.run.resume()).toBe(false);
    g.run.pause();
    g.until(() => !g.run.isMoving);
    expect(g.run.stop()).toBe(true);
    expect(g.run.outcome(g.now())).toBe('stopped');
    // Neither held nor let go on any more.
    g.run.pause();
    expect([g.run.resume(), g.run.status().run]).toEqual([false, 'stopping']);
  });
  it('between two beats other boards are told where it is by then, and never further than its next beat', () => {
    const g = going();
    g.beat(40);
    const at = (ms: number): number => g.run.pointAt(g.now() + ms).pose![0];
    const of = (ms: number): number => {
      const begun = course.lead + g.run.planTime() + ms / 1000;
      return poseAt(course.motion, begun)[0];
    };
    for (const ms of [0, 3, 7, PERIOD]) expect(at(ms)).toBeCloseTo(of(ms), 9);
    expect(at(PERIOD + 50)).toBe(at(PERIOD));
    expect(at(-5)).toBe(at(0));
    // The computer was away: its time stood still until now.
    g.run.stall(g.now() + 400);
    expect(g.run.pointAt(g.now() + 400).pose![0]).toBe(at(0));
  });
  it('is on its way to its begin first, and says which step it is at from then on', () => {
    const g = going(courseOf(short, 'short', { fromStep: 'b' }));
    expect(g.run.status()).toMatchObject({ run: 'starting', stepId: null });
    const begun = g.run.planTime();
    expect(begun).toBeGreaterThan(0);
    g.until(() => g.run.status().run === 'running');
    expect(g.run.status().stepId).toBe('b');
    expect(g.run.ranMs).toBeLessThanOrEqual(PERIOD);
    const late = going();
    late.beat(3);
    expect(late.run.status()).toMatchObject({ run: 'running', stepId: 'a' });
  });
});

describe('a routine that comes again for ever', () => {
  it('goes round in its lap, counts all of its laps, and never ends by itself', () => {
    const { round, lead } = endless;
    const g = going(endless);
    const laps = 5;
    const beats = Math.round(((round!.atS + laps * round!.lapS) * 1000) / PERIOD);
    let most = 0;
    for (let k = 0; k < beats; k++) {
      const before = g.run.ranMs;
      g.beat();
      expect(g.run.ranMs - before).toBeCloseTo(g.run.ranMs < 1e-9 ? 0 : PERIOD, 6);
      most = Math.max(most, g.run.planTime());
      expect(g.run.outcome(g.now() + 1e6)).toBeNull();
      // The time of the plan and what the motors are told are the same place of the lap.
      const told = g.run.pointAt(g.now()).pose![0];
      const { plan } = endless;
      const meant = poseAt(endless.motion, lead + g.run.planTime())[0];
      expect(told).toBeCloseTo(meant, 6);
      expect(g.run.planTime()).toBeLessThanOrEqual(plan.durationS + 1e-9);
      if (k * PERIOD > (round!.atS + 1) * 1000) expect(g.run.planTime()).toBeGreaterThanOrEqual(round!.againS - 1e-9);
    }
    expect(most).toBeGreaterThan(round!.againS + round!.lapS * 0.9);
    expect(g.run.ranMs).toBeCloseTo(beats * PERIOD - lead * 1000, 3);
    g.run.stop();
    g.until(() => !g.run.isMoving);
    expect(g.run.outcome(g.now() + CUSHION + PERIOD)).toBe('stopped');
  });
});
