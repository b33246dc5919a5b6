import fc from 'fast-check';
import Papa from 'papaparse';
import { describe, expect, it } from 'vitest';
import { compile } from '../mechanism';
import { poseAt } from '../motion';
import { presetById, presets, rigFromPreset } from '../presets';
import { idleStatus, type Status } from '../contract';
import {
  bytesOfRows,
  folded,
  gapsOf,
  partingOf,
  partings,
  Recorder,
  recordingColumns,
  recordingFiles,
  rowLength,
  rowsOfBytes,
  thinned,
  Track,
  trackMotion,
  unfolded,
  UNKNOWN,
  type Moment,
  type RecordingHead,
} from '.';

const headWith = (units: readonly ('°' | 'mm')[]): RecordingHead => ({
  ...{ version: 1, program: 't', sampleMs: 20, boards: [] },
  joints: units.map((unit, k) => ({ id: `j${k}`, name: `Joint ${k}`, unit })),
  signals: [{ id: 'lamp', name: 'Lamp', way: 'out' }],
});
const units = fc.array(fc.constantFrom('°' as const, 'mm' as const), { minLength: 1, maxLength: 7 });
const anyInt = fc.oneof(
  fc.integer({ min: -2_147_483_648, max: 2_147_483_647 }),
  fc.constantFrom(UNKNOWN, 0, -1, 2_147_483_647),
);
const anyRows = units.chain((list) =>
  fc
    .array(fc.array(anyInt, { minLength: 3 + 2 * list.length, maxLength: 3 + 2 * list.length }), { maxLength: 30 })
    .map((rows) => ({ head: headWith(list), rows: Int32Array.from(rows.flat()) })),
);
/** Rows of times that go on, and of joints that are read back or not. */
const run = fc
  .tuple(
    units,
    fc.array(
      fc.tuple(
        fc.integer({ min: 1, max: 90 }),
        fc.boolean(),
        fc.infiniteStream(fc.integer({ min: -180_000, max: 180_000 })),
      ),
      {
        minLength: 1,
        maxLength: 60,
      },
    ),
  )
  .map(([list, moments]) => {
    const head = headWith(list);
    let atMs = 0;
    const rows = moments.flatMap(([ms, isRead, values]) => {
      atMs += ms;
      const told = list.map(() => values.next().value!);
      return [atMs * 10, atMs * 10, atMs * 10, ...told, ...told.map(() => (isRead ? values.next().value! : UNKNOWN))];
    });
    return new Track(head, Int32Array.from(rows));
  });

describe('rows of a recording', () => {
  it('come back from their bytes and from their folded form as they were, whatever the numbers', () => {
    fc.assert(
      fc.property(anyRows, ({ head, rows }) => {
        expect(rowsOfBytes(bytesOfRows(rows))).toEqual(rows);
        expect(unfolded(head, folded(head, rows))).toEqual(rows);
      }),
    );
  });
  it('are found by time: the last one at or before it', () => {
    fc.assert(
      fc.property(run, fc.double({ min: -1, max: 6, noNaN: true }), (track, atS) => {
        const row = track.rowAt(atS);
        if (track.atS(0) <= atS) expect(track.atS(row)).toBeLessThanOrEqual(atS + 1e-9);
        else expect(row).toBe(0);
        if (row + 1 < track.length) expect(track.atS(row + 1)).toBeGreaterThan(atS);
      }),
    );
  });
});

describe('a recording that is played', () => {
  it('stands where its joints stood: read back, else as commanded; those it does not have at home', () => {
    const made = rigFromPreset(presetById('servo-arm-4')!, 'a');
    const known = made.ok ? compile(made.value.mechanism) : null;
    if (!known?.ok) throw new Error('not compiled');
    const { mechanism } = known;
    const [first, second] = mechanism.slotIds;
    const head: RecordingHead = {
      ...headWith([]),
      joints: [first, 'of another rig', second].map((id) => ({ id, name: id, unit: '°' })),
    };
    const rows = [
      [0, 0, 0, 10_000, 1, 20_000, 11_000, 1, UNKNOWN],
      [200, 200, 200, 12_000, 1, 22_000, UNKNOWN, 1, 21_000],
    ];
    const track = new Track(head, Int32Array.from(rows.flat()));
    const motion = trackMotion(track, mechanism);
    expect(motion.durationS).toBeCloseTo(0.02, 9);
    const degrees = (t: number): number[] => [...poseAt(motion, t)].map((q, s) => q / mechanism.siPerUnit[s]);
    expect(degrees(0.01).slice(0, 2)).toEqual([expect.closeTo(11, 6), expect.closeTo(20, 6)]);
    expect(degrees(5).slice(0, 2)).toEqual([expect.closeTo(12, 6), expect.closeTo(21, 6)]);
    expect(poseAt(motion, 0)[2]).toBe(mechanism.home[2]);
    expect(trackMotion(new Track(head, new Int32Array(0)), mechanism).durationS).toBe(0);
  });
});

describe('a curve of a recording', () => {
  it('is made of few of its points, in order, with the lowest and the highest of any stretch of time', () => {
    fc.assert(
      fc.property(run, fc.integer({ min: 1, max: 40 }), fc.nat(), fc.nat(), (track, stretches, a, b) => {
        const [from, to] = [track.atS(a % track.length), track.atS(b % track.length)].sort((x, y) => x - y);
        const value = (row: number): number => track.value(row, 0, 'measured');
        const points = thinned(track, value, from, to, stretches);
        expect(points.length).toBeLessThanOrEqual(2 * stretches + 4);
        const rows = Array.from({ length: track.length }, (_, row) => row).filter(
          (row) => track.atS(row) >= from && track.atS(row) <= to && !Number.isNaN(value(row)),
        );
        const all = points.map(({ x, y }) => `${x} ${y}`);
        for (const pick of [Math.min, Math.max]) {
          if (!rows.length) continue;
          const peak = pick(...rows.map(value));
          expect(points.some(({ y }) => pick(y, peak) === y)).toBe(true);
        }
        for (let k = 1; k < points.length; k++) expect(points[k].x).toBeGreaterThan(points[k - 1].x);
        const known = new Set(Array.from({ length: track.length }, (_, row) => `${track.atS(row)} ${value(row)}`));
        for (const point of all) expect(known).toContain(point);
      }),
    );
  });
});

describe('files of a recording', () => {
  it('hold every number of every row, in however many pieces it came', () => {
    fc.assert(
      fc.property(anyRows, fc.nat(), ({ head, rows }, cut) => {
        const width = rowLength(head);
        const at = width * (cut % (rows.length / width + 1));
        const pieces = [rows.subarray(0, at), rows.subarray(at)].filter(({ length }) => length);
        const told = (kind: 'csv' | 'json'): string => {
          const file = recordingFiles[kind];
          return (
            file.begin(head, { id: 'r' }, []) + pieces.map((p, k) => file.rows(head, p, k === 0)).join('') + file.end
          );
        };
        const table = Papa.parse<string[]>(told('csv').trimEnd()).data;
        const json = JSON.parse(told('json')) as { columns: string[]; rows: (number | null)[][] };
        expect(table[0]).toEqual(recordingColumns(head));
        expect(json.columns).toEqual(table[0]);
        expect(table).toHaveLength(1 + rows.length / width);
        expect(json.rows).toHaveLength(rows.length / width);
        json.rows.forEach((row, k) =>
          row.forEach((value, column) => {
            const raw = rows[k * width + column];
            const isJoint = column > 2;
            const meant = isJoint && raw === UNKNOWN ? null : raw / (isJoint ? 1000 : 10_000);
            expect(value).toBe(meant);
            expect(table[k + 1][column] === '' ? null : Number(table[k + 1][column])).toBe(meant);
          }),
        );
      }),
    );
  });
});

describe('two recordings of one motion', () => {
  /** Sampled from one law of joints over the run's own time: with pauses, at other paces, at other moments. */
  const sampled = (head: RecordingHead, steps: readonly (readonly [ms: number, pace: number])[], off = 0): Track => {
    let [at, own] = [0, 0];
    const rows = steps.flatMap(([ms, pace]) => {
      at += ms;
      own += ms * pace;
      const joints = head.joints.map((_, k) => Math.round(1000 * (40 * Math.sin(own / 900 + k) + off)));
      return [at * 10, Math.round(own * 10), Math.round(own * 10), ...joints, ...joints];
    });
    return new Track(head, Int32Array.from(rows));
  };
  const steps = fc.array(fc.tuple(fc.integer({ min: 10, max: 30 }), fc.constantFrom(0, 0.5, 1, 1, 1, 1.5)), {
    minLength: 5,
    maxLength: 200,
  });
  it('do not part by their pauses and paces, and part by what they stood off', () => {
    fc.assert(
      fc.property(units, steps, steps, fc.double({ min: 1, max: 5, noNaN: true }), (list, a, b, off) => {
        const head = headWith(list);
        const [first, same, other] = [sampled(head, a), sampled(head, b), sampled(head, b, off)];
        for (const { worst } of partings(first, same)) expect(worst).toBeLessThan(0.03);
        const parted = partings(first, other);
        for (const { worst, usual } of parted) {
          expect(Math.abs(worst - off)).toBeLessThan(0.03);
          expect(Math.abs(usual - off)).toBeLessThan(0.03);
        }
        const by = partingOf(first, other, 'j0');
        for (let row = 0; row < first.length; row++)
          if (!Number.isNaN(by(row))) expect(by(row) + off).toBeCloseTo(0, 1);
      }),
    );
  });
  it('are compared only where both went, joint by joint of the same name and unit', () => {
    const head = headWith(['°', 'mm']);
    const long = sampled(
      head,
      Array.from({ length: 100 }, () => [20, 1] as const),
    );
    const short = sampled(
      head,
      Array.from({ length: 10 }, () => [20, 1] as const),
    );
    expect(Number.isNaN(partingOf(long, short, 'j0')(99))).toBe(true);
    expect(partingOf(long, short, 'j0')(5)).toBeCloseTo(0, 3);
    const renamed = new Track(
      {
        ...head,
        joints: [
          { ...head.joints[0], unit: 'mm' },
          { ...head.joints[1], id: 'x' },
        ],
      },
      new Int32Array(0),
    );
    expect(partings(long, renamed)).toEqual([]);
  });
});

describe('the recorder', () => {
  const mechanisms = presets.flatMap(({ id }) => {
    const made = rigFromPreset(presetById(id)!, id);
    const compiled = made.ok ? compile(made.value.mechanism) : null;
    return compiled?.ok ? [compiled.mechanism] : [];
  });
  const status = (change: Partial<Status>): Status => ({ ...idleStatus, ...change });
  it('takes poses of every kind of arm down in people’s units, to a thousandth, and the widest gap of them', () => {
    expect(mechanisms.length).toBeGreaterThan(10);
    fc.assert(
      fc.property(
        fc.nat({ max: mechanisms.length - 1 }),
        fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })), {
          minLength: 1,
          maxLength: 12,
        }),
        (k, shares) => {
          const mechanism = mechanisms[k];
          const joints = mechanism.slotIds.map((id, slot) => ({
            ...{ id, name: id },
            unit: mechanism.units[mechanism.jointOfSlot[slot]],
          }));
          const head: RecordingHead = { ...headWith([]), joints };
          const recorder = new Recorder(head, mechanism, (id) => id);
          const at = (share: number): Float64Array =>
            mechanism.lower.map((low, s) => {
              const [from, to] = [Math.max(low, -7), Math.min(mechanism.upper[s], 7)];
              return from + share * (to - from);
            });
          const moments = shares.map(([told, stands], row): Moment => ({
            ...{ atS: row / 50, ownS: row / 50, planS: row / 50, commanded: at(told), measured: at(stands) },
            ...{ known: new Set(row % 2 ? [] : [0]), status: status({ run: 'running' }), signals: new Map() },
          }));
          moments.forEach((moment) => recorder.look(moment));
          const track = new Track(head, recorder.piece()!.rows);
          expect(track.length).toBe(moments.length);
          moments.forEach(({ commanded, measured, known }, row) =>
            joints.forEach((_, slot) => {
              const si = mechanism.siPerUnit[slot];
              expect(Math.abs(track.value(row, slot, 'commanded') - commanded[slot] / si)).toBeLessThan(5.1e-4);
              const read = track.value(row, slot, 'measured');
              if (known.has(slot)) expect(Math.abs(read - measured[slot] / si)).toBeLessThan(5.1e-4);
              else expect(read).toBeNaN();
            }),
          );
          const gaps = Object.fromEntries(gapsOf(track).map(({ joint, worst }) => [joint, worst]));
          expect(Object.keys(recorder.worst)).toEqual(Object.keys(gaps));
          for (const [id, worst] of Object.entries(recorder.worst)) expect(worst).toBeCloseTo(gaps[id], 9);
          expect(recorder.piece()).toBeNull();
        },
      ),
    );
  });
  it('tells each change once, at its time', () => {
    const [mechanism] = mechanisms;
    const recorder = new Recorder(headWith([]), mechanism, (id) => `does ${id}`);
    const pace = { wished: 1, now: 1 };
    const look = (atS: number, change: Partial<Status>, lamp?: boolean): void =>
      recorder.look({
        ...{ atS, ownS: 0, planS: 0, commanded: mechanism.home, measured: mechanism.home, known: new Set() },
        ...{ status: status({ pace, ...change }), signals: new Map(lamp === undefined ? [] : [['lamp', lamp]]) },
      });
    look(0, { run: 'starting' }, false);
    look(1, { run: 'running', stepId: 's1' }, false);
    look(2, { run: 'running', stepId: 's1', waits: { signal: 'door', is: true } }, true);
    look(3, { run: 'running', stepId: 's1', waits: { signal: 'door', is: true }, notice: 'Late.' }, true);
    look(4, { run: 'running', stepId: 's2', pace: { wished: 0.5, now: 1 } });
    look(5, { run: 'running', stepId: 's1', pace: { wished: 0.5, now: 0.6 } }, true);
    look(6, { run: 'finished', stepId: null, pace: null }, false);
    expect(recorder.piece()!.events).toEqual([
      { kind: 'state', atS: 0, run: 'starting' },
      { kind: 'signal', atS: 0, signal: 'lamp', on: false },
      { kind: 'state', atS: 1, run: 'running' },
      { kind: 'step', atS: 1, stepId: 's1', words: 'does s1' },
      { kind: 'waits', atS: 2, signal: 'door', is: true },
      { kind: 'signal', atS: 2, signal: 'lamp', on: true },
      { kind: 'notice', atS: 3, text: 'Late.' },
      { kind: 'step', atS: 4, stepId: 's2', words: 'does s2' },
      { kind: 'pace', atS: 4, share: 0.5 },
      { kind: 'step', atS: 5, stepId: 's1', words: 'does s1' },
      { kind: 'state', atS: 6, run: 'finished' },
      { kind: 'signal', atS: 6, signal: 'lamp', on: false },
    ]);
  });
});
