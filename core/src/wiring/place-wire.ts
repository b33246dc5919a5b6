/** Where a drive goes on the boards that there are, and what goes with it when it leaves. */
import {
  freeId,
  type Ability,
  type Board,
  type Drive,
  type Pin,
  type Rig,
  type Sensor,
  type Signal,
  type Wire,
} from '../rig';
import { newBoard } from './boards';
import { furtherPins, pinJobs, roleJobs, rolesOf } from './wire-pins';

/** Abilities that do for the pin of a plain input or output, and of a sensor. */
export const signalJobs = ({ way }: Pick<Signal, 'way'>): readonly Ability[] => [way === 'in' ? 'input' : 'output'];
export const sensorJobs = ({ address, kind }: Pick<Sensor, 'address' | 'kind'>): readonly Ability[] => [
  address !== null ? 'bus' : kind === 'encoder' ? 'input' : 'analog',
];

/** The kind of board that a first drive of a kind asks for. */
const boardFor: Record<Drive['kind'], Board['kind']> = {
  servo: 'servo-board',
  'continuous-servo': 'servo-board',
  'bus-servo': 'large-8-bit',
  stepper: 'step-board',
  'dc-encoder': 'large-8-bit',
};

/** Pins of a board that something is on. */
export function takenPins(rig: Rig, board: string): Set<number> {
  const pins = new Set<number>();
  const add = (pin: number | null | undefined): void => void (pin !== null && pin !== undefined && pins.add(pin));
  for (const wire of rig.wiring)
    if (wire.board === board) [wire.channel, ...furtherPins(wire).map(({ pin }) => pin)].forEach(add);
  for (const { board: on, channel } of [...rig.signals, ...rig.sensors]) if (on === board) add(channel);
  return pins;
}

/** Pins of a board that a bus is on already: what speaks on it joins the others there. */
function busPins(rig: Rig, board: string): Set<number> {
  const servos = rig.wiring.filter(
    (w) => w.board === board && rig.drives.some((d) => d.id === w.drive && d.kind === 'bus-servo'),
  );
  const sensors = rig.sensors.filter((s) => s.board === board && s.address !== null);
  return new Set([...servos, ...sensors].flatMap(({ channel }) => (channel === null ? [] : [channel])));
}

/** Pins of a board that can do a job, free ones that do nothing at power-on first; `shares`: where its bus is already before them. */
export function fittingPins(rig: Rig, board: Board, any: readonly Ability[], shares = false): Pin[] {
  const taken = takenPins(rig, board.id);
  const bus = shares ? busPins(rig, board.id) : new Set<number>();
  const rank = (pin: Pin): number =>
    (bus.has(pin.pin) ? -100 : taken.has(pin.pin) ? 100 : 0) +
    (pin.reserved ? 50 : 0) +
    (pin.boot === 'pulses' ? 20 : 0) +
    Math.max(
      0,
      any.findIndex((ability) => pin.can.includes(ability)),
    ) +
    // What can do more is left to those who need it.
    0.01 * pin.can.length;
  return board.pins
    .filter((pin) => any.some((ability) => pin.can.includes(ability)))
    .sort((a, b) => rank(a) - rank(b) || a.pin - b.pin);
}

/** Those of them that are free, not kept for something else and quiet while the board starts. `shares`: lines of a bus. */
export function freePins(rig: Rig, board: Board, any: readonly Ability[], shares = false): Pin[] {
  const taken = takenPins(rig, board.id);
  return fittingPins(rig, board, any, shares).filter(
    (p) => (shares || !taken.has(p.pin)) && !p.reserved && p.boot !== 'pulses',
  );
}

/** The best free pin of a board for a job; where none is free the first that can. */
export const bestPin = (rig: Rig, board: Board, any: readonly Ability[], shares = false): Pin | undefined =>
  freePins(rig, board, any, shares)[0] ?? fittingPins(rig, board, any, shares)[0];

/**
 * Puts a drive of a draft on the first fitting free pin of the first board that has one; a rig without boards gets one that
 * suits. `onBoards`: only those come into question. Leaves it unwired where nothing is free. Pins that may be shared (bus servos) are.
 */
export function placeWire(
  draft: Rig,
  drive: Drive,
  rail: string | null = draft.rails[0]?.id ?? null,
  onBoards?: readonly Board[],
): void {
  const { any } = pinJobs[drive.kind];
  if (!draft.boards.length) draft.boards.push(newBoard(boardFor[drive.kind], 'board'));
  const shares = any.includes('serial');
  for (const board of onBoards ?? draft.boards) {
    const taken = takenPins(draft, board.id);
    const [pin] = fittingPins(draft, board, any, shares).filter((p) => (shares || !taken.has(p.pin)) && !p.reserved);
    if (!pin) continue;
    taken.add(pin.pin);
    const wire: Wire = {
      id: freeId(
        `w-${drive.id}`,
        draft.wiring.map((w) => w.id),
      ),
      drive: drive.id,
      board: board.id,
      channel: pin.pin,
      rail,
      colour: '',
      note: '',
    };
    // Drivers commonly have an enable line together, or none: that is left to the builder.
    for (const role of rolesOf(drive.kind).filter((r) => r !== 'enable')) {
      const free = fittingPins(draft, board, roleJobs[role].any).find(
        (p) => !taken.has(p.pin) && !p.reserved && !/enable/.test(p.label),
      );
      if (!free) continue;
      taken.add(free.pin);
      wire[role] = free.pin;
    }
    draft.wiring.push(wire);
    return;
  }
}
