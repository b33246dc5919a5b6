import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { RecordingEvent, RecordingHead } from '@cork-elbow/core/contract';
import { fromSlots } from '@cork-elbow/core/mechanism';
import { poseAt } from '@cork-elbow/core/motion';
import { gapsOf, Track } from '@cork-elbow/core/recording';
import { bench, changes, driven, end, lit, output, step, turnTo, type Bench } from './bench.testkit';
import { prepareRun } from './prepare';

/** What was handed over of the last run. */
function recorded(b: Bench): {
  track: Track;
  events: RecordingEvent[];
  pieces: number[];
  worst: Record<string, number>;
} {
  expect(b.refusals()).toEqual([]);
  const begun = b.events.findLastIndex(({ type }) => type === 'started');
  const own = b.events.slice(begun);
  const started = own[0] as Extract<(typeof own)[number], { type: 'started' }>;
  const head: RecordingHead = { ...started.head, program: 't' };
  const pieces = own.flatMap((e) => (e.type === 'recorded' ? [e] : []));
  expect(pieces.every(({ runId }) => runId === started.run.id)).toBe(true);
  const ended = own.find((e) => e.type === 'ended');
  return {
    track: new Track(head, Int32Array.from(pieces.flatMap(({ piece }) => [...piece.rows]))),
    events: pieces.flatMap(({ piece }) => piece.events),
    pieces: pieces.map(({ no }) => no),
    worst: ended?.type === 'ended' ? ended.worst : {},
  };
}
const asked = (routineId: string, more: object = {}) => ({
  ...{ id: `run ${routineId}`, rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true },
  ...more,
});
const withRuns = driven.filter(([, rig]) => rig.routines.length > 0);

describe('the recording of a run', () => {
  it('has a row each 20 ms, in order, and is handed over in pieces of a second', () => {
    const b = bench(lit([turnTo('a', 20), turnTo('b', -10), turnTo('c', 0)]));
    b.loop.start(asked('lit'), lit([turnTo('a', 20), turnTo('b', -10), turnTo('c', 0)]), b.now);
    end(b);
    const { track, pieces, events } = recorded(b);
    expect(pieces).toEqual([...pieces.keys()]);
    expect(pieces.length).toBeGreaterThanOrEqual(Math.floor(track.durationS));
    for (let row = 1; row < track.length; row++) {
      const gap = track.atS(row) - track.atS(row - 1);
      // The last one is when it ended.
      if (row < track.length - 1) expect(Math.abs(gap - 0.02)).toBeLessThan(0.0031);
      expect(track.ownS(row)).toBeGreaterThanOrEqual(track.ownS(row - 1));
    }
    expect(events.flatMap((e) => (e.kind === 'step' ? [e.stepId] : []))).toEqual(['a', 'b', 'c']);
    expect(events.findLast(({ kind }) => kind === 'state')).toMatchObject({ run: 'finished' });
    expect(events[0]).toMatchObject({ kind: 'state', atS: expect.closeTo(0, 1) as number });
  });

  it('of every rig says where its joints were told to be at each moment of the plan, and its widest gaps are those of its rows', () => {
    expect(withRuns.length).toBeGreaterThan(2);
    for (const [name, rig] of withRuns) {
      const routine = rig.routines.find(({ id }) => {
        const course = prepareRun(asked(id), rig, () => bench(rig).mechanism.home, true);
        return course.ok && !course.ask && !course.round && !course.sudden && course.totalS < 60;
      });
      if (!routine) continue;
      const b = bench(rig);
      b.loop.start(asked(routine.id), rig, b.now);
      for (const { id, way } of rig.signals) if (way === 'in') b.loop.force(id, true);
      end(b);
      if (b.loop.state.run !== 'finished') continue;
      const { track, worst } = recorded(b);
      const stood = b.mechanism.home.slice();
      const course = prepareRun(asked(routine.id), rig, () => stood, true);
      if (!course.ok) throw new Error(name);
      for (let row = 0; row < track.length; row++) {
        if (track.ownS(row) <= 0) continue;
        const told = track.pose(row, 'commanded');
        // Within what joints do in the time between two reports of the board.
        const before = fromSlots(b.mechanism, poseAt(course.motion, course.lead + track.ownS(row) - 0.03));
        const after = fromSlots(b.mechanism, poseAt(course.motion, course.lead + track.ownS(row) + 0.03));
        for (const [id, value] of Object.entries(told)) {
          const leeway = 0.15;
          expect(value, `${name}, ${id}, row ${row}`).toBeGreaterThan(Math.min(before[id], after[id]) - leeway);
          expect(value, `${name}, ${id}, row ${row}`).toBeLessThan(Math.max(before[id], after[id]) + leeway);
        }
      }
      for (const { joint, worst: most } of gapsOf(track)) expect(worst[joint]).toBeCloseTo(most, 9);
      expect(Object.keys(worst).length).toBe(gapsOf(track).length);
    }
  });

  it('stands in its own time while the run does: paused, slower, waiting, it is the same motion', () => {
    const steps = [turnTo('a', 20), output('on', 'lamp', true), step('w', 'wait-input', wait), turnTo('b', -10)];
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 900 }),
        fc.integer({ min: 50, max: 800 }),
        fc.constantFrom(0.5, 1, 1.4),
        (at, pause, pace) => {
          const b = bench(lit(steps));
          b.loop.force('door', false);
          b.loop.start(asked('lit'), lit(steps), b.now);
          b.to(at);
          b.loop.pause();
          while (b.loop.state.run !== 'paused') b.to(20);
          b.to(pause);
          b.loop.setPace(pace);
          b.loop.resume(b.now());
          b.to(2000);
          b.loop.force('door', true);
          end(b);
          expect(b.loop.state.run).toBe('finished');
          const { track, events } = recorded(b);
          const last = b.events.findLast((e) => e.type === 'ended');
          expect(track.ownS(track.length - 1)).toBeCloseTo(last?.type === 'ended' ? last.ranMs / 1000 : NaN, 3);
          expect(events.some((e) => e.kind === 'waits' && e.signal === 'door')).toBe(true);
          expect(events.some((e) => e.kind === 'pace' && e.share === pace)).toBe(pace !== 1);
          expect(events.some((e) => e.kind === 'state' && e.run === 'paused')).toBe(true);
          const lamp = events.find((e) => e.kind === 'signal' && e.signal === 'lamp' && e.on);
          const shown = changes(b).find(({ id, on }) => id === 'lamp' && on);
          expect(track.planS(track.rowAt(lamp!.atS))).toBeCloseTo(shown!.at, 0);
        },
      ),
      { numRuns: 6 },
    );
  });

  it('goes on in its own time lap after lap, while the time of the plan begins anew', () => {
    const steps = [step('r', 'repeat', { times: null }), turnTo('a', 15), turnTo('b', -15), step('e', 'end')];
    const b = bench(lit(steps));
    b.loop.start(asked('lit'), lit(steps), b.now);
    b.to(9000);
    const { track } = recorded(b);
    const last = track.length - 1;
    expect(track.ownS(last)).toBeGreaterThan(6);
    const plan = Array.from({ length: track.length }, (_, row) => track.planS(row));
    expect(Math.max(...plan)).toBeLessThan(4.5);
    expect(plan.filter((t, row) => row > 0 && t < plan[row - 1] - 0.5).length).toBeGreaterThan(1);
  });

  it('ends with why: a board that is gone, a run that was stopped; and what comes next is another one', () => {
    const steps = [turnTo('a', 20), turnTo('b', -10)];
    const b = bench(lit(steps));
    b.loop.start(asked('lit', { id: 'first' }), lit(steps), b.now);
    b.to(900);
    b.loop.stop(b.now());
    end(b);
    expect(recorded(b).events.at(-1)).toMatchObject({ kind: 'state', run: 'stopped' });
    b.loop.clear();
    b.loop.start(asked('lit', { id: 'second' }), lit(steps), b.now);
    b.to(1200);
    expect(recorded(b).pieces[0]).toBe(0);
    b.loop.trouble('cut', null, 0);
    b.to(100);
    const { events } = recorded(b);
    expect(events.find(({ kind }) => kind === 'notice')).toMatchObject({
      text: expect.stringContaining('was cut') as string,
    });
    expect(events.findLast(({ kind }) => kind === 'state')).toMatchObject({ run: 'failed', atS: events.at(-1)!.atS });
  });
});
const wait = { signal: 'door', is: true, timeoutS: null, otherwise: 'stop' };
