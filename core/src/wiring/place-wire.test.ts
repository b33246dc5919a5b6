import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { abilities, parseRig, removeDrives, type Ability, type Board, type Drive, type Pin, type Rig } from '../rig';
import { boardKinds, fittingPins, freePins, newBoard, placeWire, takenPins, wirePins } from './index';
import { driveMaps, firstOfKind, ownSlot, pinWords, tiedDrives, wiredMaps } from '../actuators';

const anyPin: fc.Arbitrary<Omit<Pin, 'pin' | 'label'>> = fc.record({
  can: fc.uniqueArray(fc.constantFrom(...abilities), { maxLength: 5 }),
  boot: fc.constantFrom('off', 'low', 'high', 'floats', 'pulses'),
  reserved: fc.constantFrom('', '', '', 'the debug port'),
});
const anyBoard = fc.array(anyPin, { minLength: 1, maxLength: 24 }).map((pins): Board => ({
  ...newBoard('servo-board', 'b'),
  pins: pins.map((pin, k) => ({ ...pin, pin: k, label: `P${k}` })),
}));
const jobs = fc.uniqueArray(fc.constantFrom<Ability>('pulse', 'soft-pulse', 'output', 'input', 'step', 'serial'), {
  minLength: 1,
  maxLength: 2,
});
const bare = (board: Board, taken: readonly number[]): Rig => {
  const rig = structuredClone(tileDipper()) as Rig;
  rig.boards = [board];
  rig.sensors = [];
  rig.wiring = [];
  rig.signals = taken.map((pin, k) => ({
    ...{ id: `s${k}`, name: `S${k}`, way: 'out', board: 'b', channel: pin, activeLow: false, pull: 'none', note: '' },
  })) as Rig['signals'];
  return rig;
};

describe('pins for a job', () => {
  it('are all that can do it, and the free ones are those that nothing is on, nothing keeps and that are quiet at start', () => {
    fc.assert(
      fc.property(anyBoard, jobs, fc.uniqueArray(fc.nat(23), { maxLength: 10 }), (board, any, taken) => {
        const rig = bare(board, taken);
        const can = board.pins.filter((p) => any.some((a) => p.can.includes(a)));
        const fitting = fittingPins(rig, board, any);
        expect(new Set(fitting)).toEqual(new Set(can));
        expect(takenPins(rig, 'b')).toEqual(new Set(taken));
        const free = can.filter((p) => !taken.includes(p.pin) && !p.reserved && p.boot !== 'pulses');
        expect(new Set(freePins(rig, board, any))).toEqual(new Set(free));
        // A free pin comes before any that is not.
        if (free.length) expect(free).toContain(fitting[0]);
        // Lines of a bus may be shared.
        const shared = can.filter((p) => !p.reserved && p.boot !== 'pulses');
        expect(new Set(freePins(rig, board, any, true))).toEqual(new Set(shared));
        // What does the job best comes first among the free ones.
        const rank = (p: Pin): number => any.findIndex((a) => p.can.includes(a));
        const ranks = freePins(rig, board, any).map(rank);
        expect(ranks).toEqual([...ranks].sort((a, b) => a - b));
      }),
    );
  });
  it('count every wire, signal and sensor of that board, and of no other', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    const [board] = rig.boards;
    const used = new Set<number>();
    Object.assign(rig.wiring[0], { firstTrack: 20, secondTrack: 21 });
    for (const { board: on, channel, direction, enable, firstTrack, secondTrack } of rig.wiring)
      if (on === board.id)
        for (const pin of [channel, direction, enable, firstTrack, secondTrack]) if (pin !== undefined) used.add(pin);
    for (const { board: on, channel } of [...rig.signals, ...rig.sensors])
      if (on === board.id && channel !== null) used.add(channel);
    expect(takenPins(rig, board.id)).toEqual(used);
    expect(used.size).toBeGreaterThan(10);
    expect(takenPins(rig, 'no-board')).toEqual(new Set());
  });
});

describe('a motor that is wired', () => {
  it.each(boardKinds.map(({ id }) => id))('on a board of the kind %s gets a free pin that can, or none', (kind) => {
    for (const base of [tileDipper, kilnLoader]) {
      const rig = structuredClone(base()) as Rig;
      rig.boards = [newBoard(kind, 'b')];
      rig.wiring = [];
      rig.signals = [];
      rig.sensors = [];
      rig.homing.axes = [];
      rig.leaders = [];
      for (const drive of rig.drives) placeWire(rig, drive);
      const pins = rig.wiring.flatMap((w) => [w.channel, ...(w.direction === undefined ? [] : [w.direction])]);
      expect(new Set(pins).size).toBe(pins.length);
      for (const wire of rig.wiring) {
        const pin = rig.boards[0].pins.find((p) => p.pin === wire.channel)!;
        expect(pin.reserved).toBe('');
        const isServo = rig.drives.find((d) => d.id === wire.drive)!.kind === 'servo';
        expect(pin.can.some((a) => (isServo ? ['pulse', 'soft-pulse'] : ['step']).includes(a))).toBe(true);
      }
      expect(parseRig({ ...rig, routines: [] }).ok).toBe(true);
    }
  });
  it.each(boardKinds.map(({ id }) => id))(
    'with an encoder, on %s, has every pin apart and fit for its job',
    (kind) => {
      const rig = structuredClone(tileDipper()) as Rig;
      Object.assign(rig, { boards: [newBoard(kind, 'b')], wiring: [], signals: [], sensors: [] });
      rig.drives = rig.drives.map(({ id, name }) => ({ ...firstOfKind('dc-encoder'), id, name }) as Drive);
      for (const drive of rig.drives) placeWire(rig, drive);
      const all = rig.wiring.flatMap((wire) => wirePins(wire, 'dc-encoder'));
      expect(new Set(all.map(({ pin }) => pin)).size).toBe(all.length);
      for (const { pin, job } of all) {
        const own = rig.boards[0].pins.find((p) => p.pin === pin)!;
        expect([own.reserved, own.can.some((a) => job.any.includes(a))]).toEqual(['', true]);
      }
      // As many as have a pin for their duty; the counters of the first of them as far as there are inputs.
      const duties = rig.boards[0].pins.filter((p) => p.can.includes('pwm') && !p.reserved).length;
      expect(rig.wiring).toHaveLength(Math.min(duties, rig.drives.length));
      for (const wire of rig.wiring.slice(0, 1))
        expect([wire.direction, wire.firstTrack, wire.secondTrack].every((pin) => pin !== undefined)).toBe(
          kind !== 'pwm-driver',
        );
    },
  );
  it('brings a board along where there is none, and takes all that was said of it with it when it goes', () => {
    const rig = structuredClone(tileDipper()) as Rig;
    rig.boards = [];
    rig.wiring = [];
    rig.signals = [];
    rig.sensors = [];
    placeWire(rig, rig.drives[0]);
    expect(rig.boards).toHaveLength(1);
    expect(rig.wiring).toMatchObject([{ drive: rig.drives[0].id, board: rig.boards[0].id }]);
    const full = structuredClone(tileDipper()) as Rig;
    full.powerUp.order = full.drives.map((d) => d.id);
    full.powerUp.at = { 'm-elbow': 'limp' };
    full.builds[0].trims['m-elbow'] = 4;
    removeDrives(full, ['m-elbow']);
    expect(JSON.stringify({ ...full, mechanism: 0 })).not.toContain('m-elbow');
    expect(full.transmissions.some((t) => (t.joints as readonly string[]).includes('elbow'))).toBe(false);
    expect(full.drives).toHaveLength(4);
  });
});

describe('drives with what ties them', () => {
  it('are named as their boards name their pins, and those that hang half are not on the line', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    const mechanism = compiled(rig.mechanism as never);
    const tied = tiedDrives(rig, mechanism);
    expect(tied.map((t) => t.drive.id).sort()).toEqual(rig.drives.map((d) => d.id).sort());
    for (const t of tied) {
      const words = pinWords(rig, t)!;
      const board = rig.boards.find((b) => b.id === t.board)!;
      expect(words).toEqual({ board: board.name, pin: board.pins.find((p) => p.pin === t.pin)!.label });
      expect(mechanism.slotIds[ownSlot(t)]).toBe(t.transmission.joints[t.index]);
    }
    expect(pinWords(rig, { board: null, pin: 3 })).toBeNull();
    expect(pinWords(rig, { board: rig.boards[0].id, pin: null })).toBeNull();
    expect(pinWords(rig, { board: rig.boards[0].id, pin: 250 })).toEqual({ board: rig.boards[0].name, pin: '250?' });
    rig.wiring = rig.wiring.filter((w) => w.drive !== 'm-nod');
    const maps = driveMaps(rig, mechanism, rig.builds[0]);
    const left = wiredMaps(maps).map((m) => m.drive.id);
    expect(left).not.toContain('m-nod');
    expect(left).not.toContain('m-spin');
    expect(left).toHaveLength(maps.length - 2);
  });
});
