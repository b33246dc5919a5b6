import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import type { Finding } from '../findings';
import { compile } from '../mechanism';
import { parseRig, type Board, type Drive, type Rig } from '../rig';
import { firstOfKind } from '../actuators';
import { fixOf } from '../routine';
import { boardKinds, newBoard, placeWire, wiringMends } from './index';
import { checkDrives } from '../bring-up';

const findingsOf = (rig: Rig): Finding[] => {
  const made = compile(rig.mechanism);
  if (!made.ok) throw new Error(made.faults[0].message);
  return checkDrives(rig, made.mechanism, rig.builds[0]);
};
const key = (f: Finding): string =>
  `${f.code} ${f.place.drive ?? ''} ${f.place.item ?? ''} ${f.place.role ?? ''} ${f.place.joint ?? ''}`;

/** Rigs wired by somebody in a hurry: any pins, kept or missing ones too, two things on one, any boards. */
const hurried = fc
  .record({
    kinds: fc.array(fc.constantFrom(...boardKinds.map(({ id }) => id)), { minLength: 1, maxLength: 3 }),
    base: fc.constantFrom(tileDipper, kilnLoader),
    pins: fc.array(fc.nat(40), { minLength: 24, maxLength: 24 }),
    on: fc.array(fc.nat(2), { minLength: 24, maxLength: 24 }),
    outputs: fc.array(
      fc.record({
        way: fc.constantFrom('in' as const, 'out' as const),
        activeLow: fc.constantFrom(true, false, null),
        pull: fc.constantFrom('none' as const, 'up' as const, 'down' as const),
        isWired: fc.boolean(),
      }),
      { maxLength: 4 },
    ),
    rates: fc.array(fc.constantFrom(50, 60, 333, 900), { minLength: 12, maxLength: 12 }),
    sensors: fc.nat(3),
    unwired: fc.nat(2),
    counted: fc.nat(3),
  })
  .map(({ kinds, base, pins, on, outputs, rates, sensors, unwired, counted }): Rig => {
    const rig = structuredClone(base()) as Rig;
    rig.boards = kinds.map((kind, k) => newBoard(kind, `b${k}`));
    for (const board of rig.boards) if (board.kind === 'pwm-driver') board.address = 64;
    const board = (k: number): Board => rig.boards[on[k] % rig.boards.length];
    rig.wiring = rig.wiring.slice(unwired).map(({ direction: _d, enable: _e, ...wire }, k) => ({
      ...wire,
      board: board(k).id,
      channel: pins[k],
      ...(k % 3 === 0 ? { direction: pins[k + 1] } : {}),
      ...(k % 3 === 1 ? { firstTrack: pins[k + 2], ...(k % 2 ? { secondTrack: pins[k + 3] } : {}) } : {}),
    }));
    // Some of its steppers are motors with an encoder.
    rig.drives = rig.drives.map((drive, k) =>
      drive.kind === 'stepper' && k < 2 * counted
        ? ({ ...firstOfKind('dc-encoder'), voltageV: drive.voltageV, id: drive.id, name: drive.name } as Drive)
        : drive,
    );
    rig.drives.forEach((drive, k) => 'updateHz' in drive && (drive.updateHz = rates[k % rates.length]));
    rig.signals = outputs.map(({ isWired, ...signal }, k) => ({
      ...signal,
      id: `s${k}`,
      name: `Signal ${k}`,
      board: isWired ? board(k + 8).id : null,
      channel: isWired ? pins[k + 8] : null,
      note: '',
    }));
    rig.sensors = Array.from({ length: sensors }, (_, k) => ({
      ...{ id: `e${k}`, name: `Encoder ${k}`, kind: 'encoder' as const, joint: null, side: 'joint' as const },
      ...{
        countsPerTurn: 4096,
        wraps: true,
        board: board(k + 14).id,
        channel: null,
        address: 54,
        port: null,
        note: '',
      },
    }));
    rig.homing.axes = [];
    rig.leaders = [];
    rig.routines = [];
    const parsed = parseRig(rig);
    if (!parsed.ok) throw new Error(parsed.faults[0].message);
    return parsed.value;
  });

describe('mends of motors and wires', () => {
  it('end what they are offered for, bring nothing worse, and leave a document that opens', () => {
    const offered = new Set<string>();
    fc.assert(
      fc.property(hurried, (rig) => {
        const before = findingsOf(rig);
        const known = new Set(before.map(key));
        for (const found of before) {
          const fix = fixOf(rig, found);
          if (!fix) continue;
          offered.add(found.code);
          const draft = structuredClone(rig);
          fix.apply(draft);
          const parsed = parseRig(draft);
          expect(parsed.ok, fix.label).toBe(true);
          const after = findingsOf(draft);
          const own = key(found);
          expect(after.filter((f) => key(f) === own).length, `${found.message} | ${fix.label}`).toBeLessThan(
            before.filter((f) => key(f) === own).length,
          );
          const fresh = after.filter((f) => f.severity === 'stop' && !known.has(key(f)));
          expect(fresh.map((f) => f.message)).toEqual([]);
        }
      }),
      { numRuns: 70 },
    );
    for (const code of [
      'channel-missing',
      'channel-twice',
      'pin-unable',
      'pin-reserved',
      'motor-unwired',
      'counter-unwired',
      'signal-unwired',
      'address-twice',
      'pulse-rate-over',
    ])
      expect(offered).toContain(code);
  });
  it('put a motor on the first fitting free pin, and offer none where none is free', () => {
    const rig = structuredClone(tileDipper()) as Rig;
    rig.wiring = rig.wiring.filter((w) => w.drive !== 'm-jaw');
    const [found] = findingsOf(rig).filter((f) => f.code === 'motor-unwired');
    fixOf(rig, found)!.apply(rig);
    expect(rig.wiring.at(-1)).toMatchObject({ drive: 'm-jaw', board: 'pwm' });
    expect(findingsOf(rig).filter((f) => f.place.drive === 'm-jaw' && f.code === 'motor-unwired')).toEqual([]);
    const full = structuredClone(tileDipper()) as Rig;
    full.boards[0].pins = full.boards[0].pins.slice(0, 4);
    full.wiring = full.wiring.filter((w) => w.drive !== 'm-jaw');
    expect(fixOf(full, found)).toBeNull();
  });
  it('never say what only the bench can show', () => {
    for (const code of [
      'polarity-unknown',
      'input-floats',
      'ground-open',
      'uncalibrated',
      'stop-unmeasured',
    ] as const)
      expect(wiringMends[code]).toBeUndefined();
    expect(typeof placeWire).toBe('function');
  });
});
