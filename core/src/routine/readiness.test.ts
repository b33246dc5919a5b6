import { describe, expect, it } from 'vitest';
import { demoRigs, dotPainter, heronGreeter, kilnLoader, tileDipper, twinCarriers } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { presets, rigFromPreset } from '../presets';
import type { Rig, Step } from '../rig';
import { planRoutine, preflight, readinessOf, checkRig, runFindings } from './index';

const findingsOf = (rig: Rig) => checkRig(rig, compiled(rig.mechanism), rig.builds[0]);
const stateOf = (rig: Rig): string => readinessOf(findingsOf(rig)).state;

describe('how far a rig is ready', () => {
  it('does not hang on a routine: an arm without wires is fit for no board, whether it has one or not', () => {
    const whole = tileDipper();
    const bare: Rig = { ...whole, wiring: [], routines: [] };
    expect(findingsOf(bare).map((f) => f.code)).toContain('motor-unwired');
    expect(stateOf(bare)).toBe('stopped');
    const { missing } = readinessOf(findingsOf(bare));
    expect(missing.map(({ code }) => code)).toEqual(['motors-nowhere']);
  });
  it('is for a real board only with every motor calibrated, supplied, wired, and a way to its start', () => {
    const rig = tileDipper();
    expect(stateOf(rig)).toBe('real');
    const [build] = rig.builds;
    const lacking: [string, Rig][] = [
      ['motors', { ...rig, drives: [], transmissions: [], wiring: [] }],
      ['a motor of one joint', { ...rig, transmissions: rig.transmissions.slice(1) }],
      ['wires', { ...rig, wiring: rig.wiring.slice(1) }],
      ['supply', { ...rig, wiring: rig.wiring.map((w) => ({ ...w, rail: null })) as Rig['wiring'] }],
      ['calibration', { ...rig, builds: [{ ...build, calibrations: [] }] }],
      ['a rest pose', { ...rig, powerUp: { ...rig.powerUp, rest: null } }],
    ];
    for (const [what, without] of lacking) expect([what, stateOf(without)]).not.toEqual([what, 'real']);
  });
  it('asks homing of motors that are moved by counted steps', () => {
    const rig = kilnLoader();
    expect(findingsOf(rig).map((f) => f.code)).not.toContain('start-unhomed');
    const without = { ...rig, homing: { ...rig.homing, axes: rig.homing.axes.slice(1) } };
    const found = findingsOf(without).filter((f) => f.code === 'start-unhomed');
    expect(found.map((f) => f.place.joint)).toEqual([rig.homing.axes[0].joint]);
  });
  it('is stopped by what stops a run, and an arm just made is not called fit for a real board', () => {
    const rig = tileDipper();
    const twice = { ...rig, wiring: rig.wiring.map((w) => ({ ...w, channel: rig.wiring[0].channel })) };
    expect(stateOf(twice)).toBe('stopped');
    for (const preset of presets) {
      const made = rigFromPreset(preset, preset.name);
      if (made.ok) expect([preset.id, stateOf(made.value)]).not.toEqual([preset.id, 'real']);
    }
  });
});

describe('what a run cannot do yet', () => {
  const own = { enabled: true, note: '' };
  const asks = { ...own, id: 'x', kind: 'if', when: { signal: 'lamp', is: true } } as Step;
  const jumps = {
    ...{ ...own, id: 'x', kind: 'wait-input', signal: 'lamp', is: true, timeoutS: 1 },
    otherwise: { jump: 'there' },
  } as Step;
  const end = (id: string): Step => ({ ...own, id, kind: 'end' }) as Step;
  const pause = (id: string): Step => ({ ...own, id, kind: 'wait', durationS: 0.3 }) as Step;
  const beside = { ...own, id: 'b', kind: 'alongside', routine: 'other' } as Step;
  /** What a run of the dipper's routine with these steps behind its first one does not do yet; `other` runs alongside. */
  function refusedWith(steps: Step[], other: Step[] = []): { message: string; place: object }[] {
    const rig = tileDipper();
    rig.signals = [
      {
        ...{ id: 'lamp', name: 'Lamp', way: 'in', board: rig.boards[0].id },
        ...{ channel: 18, activeLow: false, pull: 'down', note: '' },
      } as Rig['signals'][number],
    ];
    const [first] = rig.routines;
    const routine = { ...first, steps: [first.steps[0], ...steps, ...first.steps.slice(1)] };
    rig.routines = [routine, { ...first, id: 'other', name: 'Other', steps: other }];
    const mechanism = compiled(rig.mechanism);
    const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
    return preflight(rig, mechanism, rig.builds[0], plan).filter((f) => f.code === 'run-not-yet');
  }
  it('stands in the list before a run: a step that asks for an input beside others that move', () => {
    const [asked] = refusedWith([beside, pause('p'), end('e')], [pause('q'), asks, pause('r'), end('f')]);
    expect(asked.message).toContain('Step 2 takes one of two ways by an input while something moves');
    expect(asked.place).toMatchObject({ routine: 'other', step: 'x' });
  });
  it('is no step that takes one of two ways by an input where the arm stands', () => {
    expect(refusedWith([asks, pause('p'), end('e')])).toEqual([]);
    expect(refusedWith([jumps, { ...own, id: 'm', kind: 'marker', name: 'there' } as Step])).toEqual([]);
  });
  it('lets no joint go without those that share its motors: each of them alone is told of, all together are let go', () => {
    let shared = 0;
    const made = presets.flatMap((preset) => {
      const one = rigFromPreset(preset, preset.name);
      return one.ok ? [one.value] : [];
    });
    for (const rig of [...made, ...demoRigs().map((demo) => demo.rig)]) {
      const mechanism = compiled(rig.mechanism);
      const told = (joints: readonly string[]): string[] => {
        const steps = [{ ...own, id: 'x', kind: 'let-go', joints } as Step, pause('p')];
        const routine = { ...tileDipper().routines[0], id: 'r', steps };
        const all = { ...rig, routines: [routine] } as Rig;
        const plan = planRoutine(all, mechanism, rig.builds[0], routine);
        return preflight(all, mechanism, rig.builds[0], plan).flatMap((f) =>
          f.code === 'power-shared' ? [f.message] : [],
        );
      };
      for (const { joints } of rig.transmissions) {
        expect(told(joints)).toEqual([]);
        if (joints.length < 2) continue;
        shared++;
        for (const id of joints) expect(told([id])).toHaveLength(1);
      }
    }
    expect(shared).toBeGreaterThan(0);
  });
  it('is an output that no board switches; one on a pin is switched', () => {
    const rig = tileDipper();
    const [first] = rig.routines;
    const step = { id: 'x', kind: 'output', enabled: true, note: '', signal: 'lamp', on: true } as Step;
    const routine = { ...first, steps: [first.steps[0], step, step, ...first.steps.slice(1)] };
    const mechanism = compiled(rig.mechanism);
    const { pin } = rig.boards[0].pins.at(-1)!;
    const codes = (channel: number | null): string[] => {
      rig.signals = [
        {
          ...{ id: 'lamp', name: 'Lamp', way: 'out', board: channel === null ? null : rig.boards[0].id },
          ...{ channel, activeLow: false, pull: 'none', note: '' },
        } as Rig['signals'][number],
      ];
      const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
      return preflight(rig, mechanism, rig.builds[0], plan).flatMap(({ code, severity, message }) =>
        code === 'signal-nowhere' ? [`${severity}: ${message}`] : [],
      );
    };
    expect(codes(pin)).toEqual([]);
    const told = [2, 3].map((k) => `stop: Step ${k} has to do with “Lamp”, which is on no pin of a board.`);
    expect(codes(null)).toEqual(told);
    expect(codes(9999)).toEqual(told);
  });
  it('tells of each output of a called routine that is on no pin, whatever it is called', () => {
    const rig = tileDipper();
    const [first] = rig.routines;
    // Two of one name, and one that is called as another hindrance is told apart.
    rig.signals = ['a', 'b', 'asks'].map((id) => ({
      ...{ id, name: id === 'asks' ? id : 'Lamp', way: 'out', board: null, channel: null },
      ...{ activeLow: false, pull: 'none', note: '' },
    })) as Rig['signals'];
    const outputs = rig.signals.map(({ id }): Step => ({ ...own, id, kind: 'output', signal: id, on: true }) as Step);
    const call = { ...own, id: 'call', kind: 'call', routine: 'other', arguments: {} } as unknown as Step;
    const routine = { ...first, steps: [first.steps[0], call] };
    rig.routines = [routine, { ...first, id: 'other', name: 'Other', steps: outputs }];
    const mechanism = compiled(rig.mechanism);
    const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
    expect(runFindings(rig, plan).map(({ data }) => data.id)).toEqual(['a', 'b', 'asks']);
  });
  it('is nothing in routines that only move', () => {
    for (const rig of [tileDipper(), dotPainter(), heronGreeter(), twinCarriers()]) {
      const mechanism = compiled(rig.mechanism);
      for (const routine of rig.routines) {
        const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
        const moves = plan.events.every((e) => e.kind === 'counter');
        expect(runFindings(rig, plan).length > 0).toBe(!moves);
      }
    }
  });
});
