import { describe, expect, it } from 'vitest';
import { kilnLoader } from '@cork-elbow/demo';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { bench, changes, end, output, step, type Bench } from './bench.testkit';

const to = (id: string, turn: number) =>
  step(id, 'joint-move', { pace: { speedShare: 0.6 }, target: { joints: { turn } } });
/** Swaps its cup for the fork, with the lamp on from then on. */
function swapping(more: object = {}): Rig {
  const rig = structuredClone(kilnLoader()) as Rig;
  const steps = [
    to('a', 20),
    step('s', 'swap-tool', { off: 'cup', on: 'fork' }),
    output('l', 'lamp', true),
    to('b', 0),
  ];
  const parsed = parseRig({ ...rig, routines: [{ ...rig.routines[0], id: 'swap', steps, ...more }] });
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return parsed.value;
}
const begin = (b: Bench, rig: Rig): void =>
  b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId: 'swap', asDrawn: true }, rig, () =>
    b.now(),
  );
const stands = (b: Bench): void => {
  for (let k = 0; k < 1000 && b.loop.state.run !== 'paused'; k++) b.to(50);
};

describe('a step that swaps a tool', () => {
  it('makes the run stand where it is, for as long as it takes, with nothing behind it done, and go on when it is told', () => {
    const rig = swapping();
    const b = bench(rig);
    begin(b, rig);
    stands(b);
    expect(b.loop.state).toMatchObject({ run: 'paused', swap: { off: 'cup', on: 'fork' } });
    const stood = b.pose();
    expect((stood[b.mechanism.slotOf.get('turn')!] * 180) / Math.PI).toBeCloseTo(20, 2);
    b.to(20_000);
    expect(b.pose()).toEqual(stood);
    expect(changes(b).some(({ id }) => id === 'lamp')).toBe(false);
    b.loop.resume(b.now());
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'running', swap: null });
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', notice: '', swap: null });
    expect(changes(b).filter(({ id }) => id === 'lamp')).toHaveLength(1);
  });
  it('does so each time round', () => {
    const round = [
      step('r', 'repeat', { times: null }),
      to('a', 20),
      step('s', 'swap-tool', { off: 'cup', on: null }),
      to('b', 0),
      step('e', 'end'),
    ];
    const rig = swapping({ steps: round });
    const b = bench(rig);
    begin(b, rig);
    for (let lap = 0; lap < 3; lap++) {
      stands(b);
      expect(b.loop.state.swap, `lap ${lap}`).toEqual({ off: 'cup', on: null });
      b.loop.resume(b.now());
      b.to(200);
      expect(b.loop.state.run).toBe('running');
    }
  });
  it('may be stopped there', () => {
    const rig = swapping();
    const b = bench(rig);
    begin(b, rig);
    stands(b);
    b.loop.stop(b.now());
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'stopped', swap: null });
  });
});
