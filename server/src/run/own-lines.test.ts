import { describe, expect, it } from 'vitest';
import { usualTemplate, type LineTemplate } from '@cork-elbow/core/own-lines';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { fromSlots } from '@cork-elbow/core/mechanism';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { planRoutine, runFindings } from '@cork-elbow/core/routine';
import type { LoopEvent } from './events';
import { bench, driven, end, lit, output, signals, step, turnTo, type Bench } from './bench.testkit';

const lines = (change: Partial<LineTemplate> = {}) => ({ lines: { ...usualTemplate, ...change } });
/** How far (° or mm) joints really stand from where they are commanded to be. */
function astray(b: Bench): number {
  b.to(1500);
  const [real, told] = [b.world().joints, b.pose()].map((pose) => fromSlots(b.mechanism, pose));
  return Math.max(...Object.keys(told).map((id) => Math.abs(real[id] - told[id])));
}
const isRefusal = (event: LoopEvent): event is Extract<LoopEvent, { type: 'refused' }> => event.type === 'refused';
const run = (b: Bench, routineId: string, rig: Rig): void =>
  b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId }, rig, b.now);

describe('a board with firmware of its builder', () => {
  it('is armed, run and laid off by lines alone, and stands where it was sent', () => {
    for (const each of ['{channel}:{value}', '{id}={joint:.3}']) {
      const rig = lit([turnTo('a', 15), turnTo('b', -10)]);
      const b = bench(rig, true, lines({ each, on: 'E{channel}', off: 'D{channel}' }));
      expect(b.loop.state).toMatchObject({
        armed: true,
        ownLines: [{ confirms: false, switches: false, single: true, letsGo: true, turnsOff: true }],
      });
      run(b, 'lit', rig);
      end(b);
      expect(b.loop.state.run).toBe('finished');
      // A hobby servo rests inside its dead band.
      expect(astray(b)).toBeLessThan(1);
      const told = b.events.findLast((event) => event.type === 'telemetry');
      expect(told?.type === 'telemetry' && told.telemetry.measured).toEqual({});
      b.loop.disarm(b.now());
      b.to(200);
      expect(b.loop.state).toMatchObject({ armed: false, notice: '' });
    }
  });
  it('says where joints are by the motors as they are calibrated now, also if that was done while it was connected', () => {
    const rig = lit([turnTo('a', 15), turnTo('b', -10)]);
    for (const joint of rig.mechanism.joints)
      if (joint.id === 'turn' && joint.type === 'revolute') joint.limits = { ...joint.limits!, min: -60, max: 60 };
    const written: string[] = [];
    const b = bench(rig, true, lines({ each: '{id}={joint:.3}' }), (link) => ({
      ...link,
      get failure() {
        return link.failure;
      },
      write(bytes) {
        written.push(new TextDecoder().decode(bytes));
        link.write(bytes);
      },
    }));
    const moved = structuredClone(rig) as Rig;
    moved.builds[0].trims[rig.transmissions.find(({ joints }) => joints[0] === 'turn')!.drives[0]] = -40;
    run(b, 'lit', moved);
    expect(b.events.flatMap((e) => (e.type === 'refused' ? [e.message] : []))).toEqual([]);
    end(b);
    expect(b.loop.state.run).toBe('finished');
    b.to(500);
    const { turn } = fromSlots(b.mechanism, b.pose());
    expect(turn).toBeCloseTo(-10, 3);
    // A µs is about a tenth of a degree.
    expect(Math.abs(Number(/turn=(-?[\d.]+)/.exec(written.at(-1)!)![1]) - turn)).toBeLessThan(0.15);
  });
  it('arms for every rig that has boards, whatever motors hang on them', () => {
    for (const [id, rig] of driven) {
      const b = bench(rig, true, lines());
      expect([id, b.loop.state.armed, b.refusals(), b.loop.state.notice]).toEqual([id, true, [], '']);
    }
  });
  it('goes to where a run begins more slowly while nothing confirms where the arm stands', () => {
    const took = (change: Partial<LineTemplate>): number => {
      const rig = lit([turnTo('a', 15)]);
      const b = bench(rig, true, lines(change));
      run(b, 'lit', rig);
      end(b);
      // Back to where it begins, from where it ended.
      const from = b.now();
      run(b, 'lit', rig);
      end(b);
      expect(b.loop.state.run).toBe('finished');
      return b.now() - from;
    };
    expect(took({})).toBeGreaterThan(1.2 * took({ reply: 'ok' }));
  });
  it('says what its lines cannot do before anything moves', () => {
    const rig = lit([turnTo('a', 10), output('o', 'lamp', true)]);
    const b = bench(rig, true, lines());
    run(b, 'lit', rig);
    const reason = (): string => b.events.flatMap((e) => (e.type === 'refused' ? [e.message] : [])).at(-1)!;
    expect(reason()).toMatch(/Step 2 switches an output.*own lines/);
    b.loop.switch('lamp', true, b.now());
    expect(reason()).toMatch(/cannot switch outputs/);
    for (const [kind, more, what] of [
      ['wait-input', { signal: 'door', is: true, timeoutS: 1, otherwise: 'go-on' }, /reads an input/],
      ['let-go', { joints: ['turn'] }, /lets joints go/],
    ] as const) {
      const other = lit([turnTo('a', 10), step('w', kind, more)]);
      const c = bench(other, true, lines());
      run(c, 'lit', other);
      expect(c.events.flatMap((e) => (e.type === 'refused' ? [e.message] : [])).at(-1)).toMatch(what);
      expect(c.loop.state.run).toBe('idle');
      // The page says the same before, from what it is told of the line.
      const { ownLines } = c.loop.state;
      const plan = planRoutine(other, c.mechanism, other.builds[0], other.routines[0]);
      const [lack] = runFindings(other, plan, new Map(ownLines.map((known) => [known.board, known])));
      expect(c.events.findLast(isRefusal)?.findings).toEqual([lack]);
    }
    b.loop.line('pwm', 'P 3:1000', b.now());
    expect(b.refusals().at(-1)).toBe('line-armed');
    b.loop.disarm(b.now());
    b.to(200);
    expect(b.loop.state.notice).toMatch(/hold until their supply is cut/);
    b.loop.line('pwm', 'P 3:1000', b.now());
    expect(b.refusals().at(-1)).toBe('line-own');
  });
  it('switches outputs by lines that say so', () => {
    const rig = lit([turnTo('a', 10), output('o', 'lamp', true), turnTo('c', 0)]);
    const b = bench(rig, true, lines({ output: 'O{id} {level}' }));
    run(b, 'lit', rig);
    end(b);
    expect(b.loop.state.run).toBe('finished');
    expect(signals(b)).toMatchObject({ lamp: true });
  });
  it('does not home, and is sent no motor alone where its lines name none', () => {
    const rig = parseRig(kilnLoader());
    if (!rig.ok) throw new Error('not read');
    const b = bench(rig.value, true, lines());
    b.loop.home(null, b.now());
    expect(b.refusals()).toEqual(['lines-cannot']);
    const dipper = tileDipper() as Rig;
    const c = bench(dipper, false, lines({ each: '{value}', separator: ',' }));
    c.loop.motorOn(dipper.drives[0].id, 1500, c.now());
    expect(c.refusals()).toEqual(['lines-cannot']);
    expect(c.loop.state.mode).toBe('normal');
  });
  it('ends a run with a sentence as answers fail to come', () => {
    const rig = lit([turnTo('a', 15), turnTo('b', -15), turnTo('c', 15)]);
    const b = bench(rig, true, lines({ reply: 'ok' }));
    run(b, 'lit', rig);
    b.to(600);
    // The stand-in is deaf from now on.
    b.loop.trouble('cut', null, 0);
    b.to(2500);
    expect(b.loop.state).toMatchObject({ link: 'lost', run: 'failed', armed: false });
    expect(b.loop.state.notice).toMatch(/cut/);
  });
});
