import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { catalogue } from '@cork-elbow/core/actuators';
import { seededRandom } from '@cork-elbow/core/linear';
import { standing } from '@cork-elbow/core/admit';
import { planRoutine, runFindings } from '@cork-elbow/core/routine';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { spinningDipper } from '../../../core/src/actuators/spin.testkit';
import {
  asked,
  bench,
  end,
  extremes,
  lit,
  output,
  signals,
  step,
  turnTo,
  type Bench,
  type Step,
} from './bench.testkit';

const deg = Math.PI / 180;
function known(rig: Rig) {
  const stands = standing(rig, 'b1');
  if (!stands.ok) throw new Error('not admitted');
  return stands;
}
const start = (b: Bench, rig: Rig): void => b.loop.start(asked(rig, 'lit'), rig, b.now);
const turn = (b: Bench): number => {
  const last = b.events.findLast((e) => e.type === 'telemetry');
  if (last?.type !== 'telemetry') throw new Error('no telemetry');
  return last.telemetry.commanded.turn * deg;
};
const stops = (b: Bench): string[] =>
  b.events.flatMap((e) => (e.type === 'refused' ? e.findings.map(({ message }) => message) : []));

/** The turn goes round while another routine waits beside it. */
function beside(other: Step[], long = 3, wait: Partial<Rig['routines'][number]> = {}): Rig {
  const moves = [
    step('b', 'alongside', { routine: 'other' }),
    { ...turnTo('a', 40), pace: { durationS: long } } as Step,
  ];
  const rig = lit([...moves, step('e', 'end', {}), turnTo('z', 25)]);
  rig.routines.push({ ...rig.routines[0], id: 'other', name: 'Other', ...wait, steps: other });
  return rig;
}
const waits = (more: object = {}): Step =>
  step('x', 'wait-input', { signal: 'door', is: true, timeoutS: null, otherwise: 'stop', ...more });
const pause = (id: string, durationS: number): Step => step(id, 'wait', { durationS });

describe('an input that is waited for while joints move', () => {
  it('brings the arm to a stand there inside its accelerations, holds it, and lets it go on; one that is there already slows nothing', () => {
    let [held, slow] = [0, 0];
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
        const random = seededRandom(seed);
        const rig = beside(
          [pause('w', 0.4 + 2 * random()), waits(), output('o', 'lamp', true), pause('y', 0.1)],
          2.2 + 2 * random(),
        );
        const b = bench(rig);
        b.loop.tellEvery = 2;
        const isThere = random() < 0.3;
        if (isThere) b.loop.force('door', true);
        start(b, rig);
        expect(stops(b)).toEqual([]);
        const poses: Float64Array[] = [];
        const look = (): void => {
          b.to(20);
          poses.push(Float64Array.of(turn(b)));
        };
        let waitedFor = 0;
        // It flickers on the way, and comes for good some time after it is waited for.
        for (let k = 0; k < 400 && !['finished', 'failed'].includes(b.loop.state.run); k++) {
          look();
          if (b.loop.state.waits) waitedFor++;
          if (!isThere && random() < 0.05) b.loop.force('door', random() < 0.3);
          if (waitedFor > 30) b.loop.force('door', true);
        }
        expect(b.loop.state.run).toBe('finished');
        if (waitedFor > 20) held++;
        const [speed, accel] = extremes(poses, 0);
        expect(accel).toBeLessThan(b.mechanism.accel[0] * 1.15);
        expect(speed).toBeLessThan(b.mechanism.speed[0] * 1.01);
        expect(signals(b).lamp).toBe(true);
        if (isThere) {
          expect(waitedFor).toBe(0);
          slow++;
        }
      }),
      { numRuns: 25 },
    );
    expect(held).toBeGreaterThan(3);
    expect(slow).toBeGreaterThan(2);
  });
  it('goes on by what was said where it would have had to brake, though the input drops right behind that', () => {
    const rig = beside([pause('w', 1.2), waits(), pause('y', 0.3)]);
    let through = 0;
    for (let before = 20; before <= 600; before += 40) {
      const b = bench(rig);
      b.loop.tellEvery = 2;
      b.loop.force('door', true);
      b.to(60);
      start(b, rig);
      const poses: Float64Array[] = [];
      for (let k = 0; k < 300 && b.loop.state.run !== 'finished'; k++) {
        if (b.loop.state.runS > 1.2 - before / 1000) b.loop.force('door', b.loop.state.waits !== null);
        b.to(20);
        poses.push(Float64Array.of(turn(b)));
      }
      expect(b.loop.state.run).toBe('finished');
      expect(extremes(poses, 0)[1], `${before} ms before`).toBeLessThan(b.mechanism.accel[0] * 1.15);
      through++;
    }
    expect(through).toBe(15);
  });
  it('ends the run where its time is up, or lets it go on, as the step says', () => {
    for (const [otherwise, state] of [
      ['stop', 'stopped'],
      ['go-on', 'finished'],
    ] as const) {
      const rig = beside([pause('w', 1), waits({ timeoutS: 0.5, otherwise })]);
      const b = bench(rig);
      start(b, rig);
      end(b);
      expect(b.loop.state.run).toBe(state);
    }
  });
  it('stands still to let a joint go in the same way', () => {
    const rig = beside([pause('w', 1), step('s', 'let-go', { joints: ['wrist'] }), pause('v', 0.5)]);
    const b = bench(rig);
    b.loop.tellEvery = 2;
    start(b, rig);
    expect(stops(b)).toEqual([]);
    const poses: Float64Array[] = [];
    for (let k = 0; k < 200; k++) {
      b.to(20);
      poses.push(Float64Array.of(turn(b)));
    }
    expect(b.loop.state.limp).toEqual(['wrist']);
    expect(extremes(poses, 0)[1]).toBeLessThan(b.mechanism.accel[0] * 1.15);
  });
  it('is refused where it decides between two ways', () => {
    const jump = waits({ timeoutS: 1, otherwise: { jump: 'there' } });
    const rig = beside([pause('w', 1), jump, step('m', 'marker', { name: 'there' }), pause('v', 0.5)]);
    const b = bench(rig);
    start(b, rig);
    expect(stops(b)[0]).toContain('takes one of two ways by an input while something moves');
  });
});

describe('a spin until an input', () => {
  const spun = (until: object, change: (rig: Rig) => void = () => undefined): Rig => {
    const { rig } = spinningDipper((_, draft) => {
      const [first] = draft.routines;
      const like = lit([]);
      draft.boards = like.boards;
      draft.signals = like.signals;
      draft.homing = { ...draft.homing, axes: [] };
      draft.routines = [
        {
          ...first,
          id: 'lit',
          name: 'Lit',
          steps: [step('s', 'spin', { joint: 'turn', speed: 90, until }), pause('p', 0.5)],
        },
      ];
      change(draft);
    });
    const parsed = parseRig(rig);
    if (!parsed.ok) throw new Error(parsed.faults[0].message);
    return parsed.value;
  };
  const pulse = (b: Bench): number => {
    const last = b.events.findLast((e) => e.type === 'telemetry');
    if (last?.type !== 'telemetry') throw new Error('no telemetry');
    return last.telemetry.wire['m-turn'];
  };
  it('turns at its speed until the input is there, then stops', () => {
    const rig = spun({ signal: 'door', is: true, atMostS: 60 });
    const b = bench(rig);
    const still = 1500;
    start(b, rig);
    expect(stops(b)).toEqual([]);
    b.to(4000);
    const turning = pulse(b);
    expect(Math.abs(turning - still)).toBeGreaterThan(30);
    b.to(5000);
    expect([b.loop.state.run, pulse(b)]).toEqual(['running', turning]);
    expect(b.loop.state.waits).toEqual({ signal: 'door', is: true });
    b.loop.force('door', true);
    end(b);
    expect(b.loop.state.run).toBe('finished');
    b.to(200);
    expect(Math.abs(pulse(b) - still)).toBeLessThan(30);
  });
  it('ends when its time is up, and the routine goes on', () => {
    const rig = spun({ signal: 'door', is: true, atMostS: 2 });
    const b = bench(rig);
    start(b, rig);
    const from = b.now();
    end(b);
    expect(b.loop.state.run).toBe('finished');
    expect(b.now() - from).toBeGreaterThan(2000);
    expect(b.now() - from).toBeLessThan(5500);
  });
  it('stops turning for a pause, and goes on after it', () => {
    const rig = spun({ signal: 'door', is: true, atMostS: 600 });
    const b = bench(rig);
    start(b, rig);
    b.to(3000);
    const turning = pulse(b);
    b.loop.pause();
    b.to(2500);
    expect(b.loop.state.run).toBe('paused');
    expect(Math.abs(pulse(b) - turning)).toBeGreaterThan(40);
    b.loop.resume(b.now());
    b.to(3000);
    expect(pulse(b)).toBe(turning);
  });
  it('is refused beside other motion, which would have to stand while it turns', () => {
    const rig = spun({ forS: 1 }, (draft) => {
      const [first] = draft.routines;
      const until = { signal: 'door', is: true, atMostS: 5 };
      const spin = { ...first.steps[0], id: 'u', until } as Step;
      const lift = { ...turnTo('m', 0), pace: { durationS: 4 }, target: { joints: { shoulder: 10 } } } as Step;
      draft.routines.push({ ...first, id: 'other', name: 'Other', steps: [spin, pause('q', 0.2)] });
      first.steps = [step('b', 'alongside', { routine: 'other' }), lift, step('e', 'end', {})];
    });
    const { mechanism, build } = known(rig);
    const found = runFindings(rig, planRoutine(rig, mechanism, build, rig.routines[0]));
    expect(found.map(({ message }) => message).join()).toContain('spins until an input while something else moves');
  });
  it('is refused for a motor that is sent places, which would stand while the run waits', () => {
    const rig = spun({ signal: 'door', is: true, atMostS: 5 }, (draft) => {
      const k = draft.drives.findIndex(({ id }) => id === 'm-turn');
      const stepper = catalogue.find(({ figures }) => figures.kind === 'stepper')!.figures;
      draft.drives[k] = { ...structuredClone(stepper), id: 'm-turn', name: 'Turn motor' } as Rig['drives'][number];
    });
    const { mechanism, build } = known(rig);
    const found = runFindings(rig, planRoutine(rig, mechanism, build, rig.routines[0]));
    expect(found.map(({ message }) => message).join()).toContain('spins a motor that is sent places until an input');
  });
});
