import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { buildSchema, driveSchema, type Board, type Drive, type Rig } from '../rig';
import { between } from '../units/between.testkit';
import {
  boardsOn,
  catalogue,
  driveMaps,
  driveSpeed,
  fitCalibration,
  fitLine,
  fitMonotone,
  geared,
  linedBoards,
  linePins,
  mapGroups,
  motorName,
  nativeOf,
  pinCount,
  renamedFor,
  shaftSpeed,
  shaftTorques,
  wiredMaps,
} from './index';

/** Boards of which any may hang on any other, on itself, or on one that is not there. */
const anyBoards = fc
  .array(fc.record({ host: fc.option(fc.nat(7)), pins: fc.uniqueArray(fc.nat(40), { maxLength: 5 }) }), {
    minLength: 1,
    maxLength: 6,
  })
  .map((list) =>
    list.map(({ host, pins }, k) => ({
      ...{ id: `b${k}`, host: host === null ? null : `b${host}` },
      pins: pins.map((pin) => ({ pin })),
    })),
  );

describe('boards and the lines that reach them', () => {
  it('are together with what they hang on in the end; in a ring, or on what is not there, each by itself', () => {
    fc.assert(
      fc.property(anyBoards, (list) => {
        const boards = list as unknown as Board[];
        const rig = { boards };
        const byId = new Map(boards.map((b) => [b.id, b]));
        // The end of the way, found by going on for longer than any way is.
        const endOf = (board: Board): Board => {
          let at = board;
          for (let k = 0; k <= boards.length; k++) {
            const next = byId.get(at.host ?? '');
            if (!next) return at;
            at = next;
          }
          return board;
        };
        const lines = linedBoards(rig);
        expect(lines).toEqual(boards.filter((b) => endOf(b) === b));
        const pinAt = linePins(rig);
        const taken = new Set<string>();
        for (const line of lines) {
          const on = boardsOn(rig, line.id);
          expect(on[0]).toBe(line);
          expect(on.slice(1)).toEqual(boards.filter((b) => b !== line && endOf(b) === line));
          expect(pinCount(rig, line.id)).toBe(on.reduce((n, b) => n + b.pins.length, 0));
          for (const board of on)
            for (const { pin } of board.pins) {
              const at = pinAt(board.id, pin)!;
              expect(at.line).toBe(line.id);
              // Pins of the board itself keep their numbers; no two pins are one channel.
              if (board === line) expect(at.channel).toBe(pin);
              const place = `${at.line} ${at.channel}`;
              expect(taken.has(place)).toBe(false);
              taken.add(place);
            }
        }
        expect(pinAt(boards[0].id, 99)).toBeUndefined();
        expect(pinAt('none', 0)).toBeUndefined();
      }),
      { numRuns: 200 },
    );
  });
});

describe('figures of motors', () => {
  it('counts and steps are sent as many to the degree as the motor has, corrected by what was measured', () => {
    let looked = 0;
    for (const { figures } of catalogue) {
      const drive = { ...figures, id: 'm', name: 'm' } as Drive;
      const build = buildSchema.parse({ id: 'b', name: 'b', turns: { m: { asked: 60, moved: 58, takenOn: '' } } });
      const native = nativeOf(drive, build);
      if (!native || native.unit === 'µs') continue;
      looked++;
      const turn =
        drive.kind === 'stepper'
          ? drive.stepsPerTurn * drive.microsteps
          : (drive as Extract<Drive, { countsPerTurn: number }>).countsPerTurn;
      const { direction } = drive as Extract<Drive, { direction: number }>;
      expect(native.unit).toBe(drive.kind === 'stepper' ? 'steps' : 'counts');
      // 60 degrees asked for, and that much really moved.
      expect(58 * native.perDeg).toBeCloseTo((direction * 60 * turn) / 360, 9);
    }
    expect(looked).toBeGreaterThan(2);
  });
  it('a gear multiplies what a servo holds by its ratio and its efficiency, and makes up nothing that was not told', () => {
    const servo = driveSchema.parse({
      ...catalogue.find((e) => e.figures.kind === 'servo')!.figures,
      id: 's',
      name: 's',
    });
    if (servo.kind !== 'servo') throw new Error();
    const { holdNm, ...without } = { ...servo, holdNm: 0.4 };
    expect(geared({ ...without, holdNm }, 3, 0.8).holdNm).toBeCloseTo(0.96, 12);
    expect('holdNm' in geared(without, 3, 0.8)).toBe(false);
  });
  it('a name that ends in the word for its kind ends in the new one’s; a name of somebody’s own stays', () => {
    expect(renamedFor(motorName('Elbow', 'servo'), 'servo', 'stepper')).toBe(motorName('Elbow', 'stepper'));
    expect(renamedFor('Elbow stepper', 'stepper', 'dc-encoder')).toBe('Elbow motor');
    expect(renamedFor('Big Bertha', 'servo', 'stepper')).toBe('Big Bertha');
    expect(renamedFor('stepper Elbow', 'stepper', 'servo')).toBe('stepper Elbow');
  });
});

describe('work and speed through a transmission', () => {
  const rigs = demoRigs().map(({ rig }) => ({ rig, mechanism: compiled(rig.mechanism) }));
  it('what the motors do is what the joints do, whatever mixes and slides', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(between(-3, 3), between(-3, 3)), { minLength: 2, maxLength: 2 }),
        fc.tuple(between(-5, 5), between(-5, 5)),
        fc.tuple(between(-40, 40), between(-40, 40)),
        fc.tuple(fc.constantFrom<'°' | 'mm'>('°', 'mm'), fc.constantFrom<'°' | 'mm'>('°', 'mm')),
        (rates, loads, motors, units) => {
          const torques = shaftTorques(rates, loads, units);
          // Degrees and millimetres a second, as watts.
          const si = units.map((unit) => (unit === 'mm' ? 1e-3 : Math.PI / 180));
          const joints = rates.map((row) => row.reduce((sum, r, k) => sum + r * motors[k], 0));
          const done = joints.reduce((sum, v, k) => sum + v * si[k] * loads[k], 0);
          const given = torques.reduce((sum, t, k) => sum + t * motors[k] * (Math.PI / 180), 0);
          expect(given).toBeCloseTo(done, 9);
        },
      ),
    );
  });
  it('a motor’s share is of its own top speed, whichever way it turns', () => {
    for (const { rig, mechanism } of rigs)
      for (const map of driveMaps(rig, mechanism, rig.builds[0]))
        for (const way of [1, -1]) {
          const speeds = new Float64Array(mechanism.m).fill(way * 0.01);
          const shaft = shaftSpeed(map, mechanism, mechanism.home, speeds);
          if (!shaft) continue;
          expect(shaft.share * driveSpeed(map.drive)).toBeCloseTo(Math.abs(shaft.degPerS), 9);
          expect(shaft.share).toBeGreaterThanOrEqual(0);
        }
  });
  it('goes over the line where all motors of it are on pins, and nowhere else', () => {
    const { rig, mechanism } = { rig: kilnLoader(), mechanism: compiled(kilnLoader().mechanism) };
    const bare = (keep: (drive: string) => boolean): Rig => ({
      ...rig,
      wiring: rig.wiring.filter(({ drive }) => keep(drive)),
    });
    const mapsOf = (own: Rig) => driveMaps(own, mechanism, rig.builds[0]);
    expect(wiredMaps(mapsOf(rig)).map((m) => m.drive.id)).toEqual(mapsOf(rig).map((m) => m.drive.id));
    for (const group of mapGroups(mapsOf(rig))) {
      const [{ drive }] = group;
      const left = wiredMaps(mapsOf(bare((id) => id !== drive.id))).map((m) => m.transmission.id);
      expect(left).not.toContain(group[0].transmission.id);
      expect(left.length).toBe(mapsOf(rig).length - group.length);
    }
    expect(wiredMaps(mapsOf(bare(() => false)))).toEqual([]);
  });
});

describe('a line through readings', () => {
  const readings = fc
    .uniqueArray(fc.integer({ min: -90, max: 90 }), { minLength: 3, maxLength: 9 })
    .chain((ats) => fc.tuple(...ats.map((at) => between(-20, 20).map((off) => ({ at, us: 1500 + 9 * at + off })))));
  it('is the one that misses them least: any other misses by more', () => {
    const missed = (points: readonly { at: number; us: number }[], zero: number, per: number): number =>
      points.reduce((sum, { at, us }) => sum + (us - zero - per * at) ** 2, 0);
    fc.assert(
      fc.property(readings, between(-3, 3), between(-0.1, 0.1), (points, zero, per) => {
        const { atZeroUs, usPerDeg } = fitLine({ points });
        const least = missed(points, atZeroUs, usPerDeg);
        expect(missed(points, atZeroUs + zero, usPerDeg + per)).toBeGreaterThanOrEqual(least - 1e-6);
        const { rmsDeg, worstDeg, offDeg, nodes } = fitCalibration({ points: [...points], fit: 'line' } as never);
        expect(nodes).toBeNull();
        points.forEach(({ at, us }, k) => expect(offDeg[k]).toBeCloseTo(at - (us - atZeroUs) / usPerDeg, 9));
        expect(rmsDeg).toBeCloseTo(Math.sqrt(least / points.length) / Math.abs(usPerDeg), 9);
        expect(worstDeg).toBeCloseTo(Math.max(...offDeg.map((v) => Math.abs(v))), 12);
      }),
    );
  });
  it('an angle that was measured twice counts as its mean, there and for its neighbours', () => {
    const twice = [
      { at: -40, us: 1100 },
      { at: 10, us: 1590 },
      { at: 10, us: 1610 },
      { at: 60, us: 2050 },
    ];
    expect(fitMonotone(twice)).toEqual([
      { at: -40, us: 1100 },
      { at: 10, us: 1600 },
      { at: 60, us: 2050 },
    ]);
    // Three below one that is lower still: they become one step, each counted as often as it was measured.
    const points = [
      { at: 0, us: 1500 },
      { at: 10, us: 1700 },
      { at: 10, us: 1700 },
      { at: 20, us: 1640 },
      { at: 60, us: 2100 },
    ];
    const fell = fitMonotone(points);
    expect(2 * fell[1].us + fell[2].us).toBeCloseTo(2 * 1700 + 1640, 6);
    expect(fell[2].us - fell[1].us).toBeCloseTo(0.2 * 10 * fitLine({ points }).usPerDeg, 6);
  });
  it('a reading is named as odd from four times the others’ spread on, and not before', () => {
    // Off the line by turns: the others spread by half a degree.
    const points = [-60, -40, -20, 0, 20, 40, 60].map((at, k) => ({ at, us: 1500 + 10 * at + (k % 2 ? 8 : -8) }));
    const odd = (deg: number): readonly number[] =>
      fitCalibration({
        points: [...points, { at: 0, us: 1500 + 10 * deg }],
        fit: 'line',
      } as never).outliers;
    const others = fitLine({ points });
    const off = (at: number, us: number): number => at - (us - others.atZeroUs) / others.usPerDeg;
    const spread = Math.sqrt(points.reduce((sum, p) => sum + off(p.at, p.us) ** 2, 0) / points.length);
    // By how much the odd one is to be off the line of the others.
    const at = (times: number): number => (times * spread * others.usPerDeg + others.atZeroUs - 1500) / 10;
    expect(odd(at(3.9))).toEqual([]);
    expect(odd(at(4.1))).toEqual([7]);
    expect(odd(at(-4.1))).toEqual([7]);
  });
});
