/** Findings about wires: pins that cannot do their job or do something at power-on, buses, supplies, the boards' time. */
import type { Finding, Place } from '../findings';
import { finding } from './findings';
import { inUnit, type Mechanism } from '../mechanism';
import type { Ability, Board, Drive, Pin, Rig, Wire } from '../rig';
import { resolutionAt, shaftSpeed, type DriveMap } from '../actuators/drive-map';
import { stepsPerDeg } from '../actuators/native';
import { ownSlot } from '../actuators/tied';
import { sensorJobs, signalJobs } from './place-wire';
import { missingTracks, wirePins } from './wire-pins';

/** Share by which a motor may have more, or less, than its voltage. */
const TOO_HIGH = 0.2;
const TOO_LOW = 0.25;
/** Where the wiring is mended: in the table of wires for a motor, else in the list of what is named. */
type List = 'wires' | 'boards' | 'rails' | 'signals' | 'sensors';
const place = (part: List, drive?: string, item?: string): Place => ({
  ...{ station: 'motors', part },
  ...(drive ? { drive } : {}),
  ...(item ? { item } : {}),
});

/** One thing on one pin. */
interface Use {
  readonly who: string;
  readonly board: Board;
  readonly pin: number;
  readonly any: readonly Ability[];
  readonly words: string;
  readonly drive: Drive | null;
  /** An enable line, which several drivers commonly have together. */
  readonly isEnable?: boolean;
  readonly at: Place;
}

export function checkWiring(rig: Rig, mechanism: Mechanism, maps: readonly DriveMap[]): Finding[] {
  const uses = usesOf(rig);
  return [
    ...uses.flatMap((use) => checkPin(use, mechanism, maps)),
    ...pinsTwice(uses),
    ...rig.wiring.flatMap((wire) => checkCounter(rig, wire)),
    ...checkSignals(rig),
    ...checkBuses(rig),
    ...rig.wiring.flatMap((wire) => checkSupply(rig, wire)),
    ...checkGrounds(rig),
    ...rig.boards.flatMap((board) => checkPulses(rig, board)),
    ...rig.boards.flatMap((board) => checkTime(rig, mechanism, board, maps)),
    ...checkHoming(rig, mechanism),
  ];
}

function usesOf(rig: Rig): Use[] {
  const boards = new Map(rig.boards.map((board) => [board.id, board]));
  const uses: Use[] = [];
  for (const wire of rig.wiring) {
    const board = boards.get(wire.board);
    const drive = rig.drives.find((d) => d.id === wire.drive);
    if (!board || !drive) continue;
    const at = place('wires', drive.id);
    for (const { role, pin, name, job } of wirePins(wire, drive.kind))
      uses.push(
        role === null
          ? { who: drive.name, board, pin, ...job, drive, at }
          : {
              ...{ who: `${drive.name}, ${name}`, board, pin, ...job, drive: null },
              ...{ isEnable: role === 'enable', at: { ...at, role } },
            },
      );
  }
  for (const signal of rig.signals) {
    const board = signal.board === null ? undefined : boards.get(signal.board);
    if (!board || signal.channel === null) continue;
    const any = signalJobs(signal);
    const words = signal.way === 'in' ? 'read a level' : 'give out a level';
    const at = place('signals', undefined, signal.id);
    uses.push({ who: signal.name, board, pin: signal.channel, any, words, drive: null, at });
  }
  for (const sensor of rig.sensors) {
    const board = sensor.board === null ? undefined : boards.get(sensor.board);
    if (!board || sensor.channel === null) continue;
    const any = sensorJobs(sensor);
    const words =
      sensor.address !== null
        ? 'speak on the two-wire bus'
        : any[0] === 'input'
          ? 'count pulses'
          : 'measure a voltage';
    const at = place('sensors', undefined, sensor.id);
    uses.push({ who: sensor.name, board, pin: sensor.channel, any, words, drive: null, at });
  }
  return uses;
}

function checkPin(use: Use, mechanism: Mechanism, maps: readonly DriveMap[]): Finding[] {
  const { who, board, drive, at } = use;
  const pin = board.pins.find((p) => p.pin === use.pin);
  const data = { what: who, board: board.name, pin: pin?.label ?? `${use.pin}` };
  if (!pin) return [finding('channel-missing', at, { drive: who, channel: use.pin, board: board.name })];
  const found: Finding[] = [];
  if (!use.any.some((ability) => pin.can.includes(ability)))
    found.push(finding('pin-unable', at, { ...data, job: use.words, fit: pinsThat(board, use.any) }));
  else if (use.any.includes('pulse') && !pin.can.includes('pulse')) {
    const map = maps.find((m) => m.drive.id === drive?.id);
    const per = map ? (resolutionAt(map, mechanism, mechanism.home)?.[0] ?? 0) : 0;
    const unit = map ? mechanism.units[mechanism.jointOfSlot[map.slots[0]]] : '°';
    found.push(finding('pin-jitters', at, { ...data, jitter: board.jitterUs, value: per * board.jitterUs, unit }));
  }
  if (pin.reserved) found.push(finding('pin-reserved', at, { ...data, reserved: pin.reserved }));
  if (drive && pin.boot === 'pulses') found.push(finding('pin-boot', at, data));
  return found;
}

/** A counted motor knows where it stands by both tracks of its counter; with one it cannot tell which way it goes. */
function checkCounter(rig: Rig, wire: Wire): Finding[] {
  const drive = rig.drives.find((d) => d.id === wire.drive);
  const [role, other] = drive?.kind === 'dc-encoder' ? missingTracks(wire) : [];
  if (!drive || !role) return [];
  const on = other ? 'no pin' : 'one pin only';
  return [finding('counter-unwired', { ...place('wires', drive.id), role }, { drive: drive.name, on })];
}

/** Labels of a board's pins that could do a job, a few of them. */
function pinsThat(board: Board, any: readonly Ability[]): string {
  const fit = board.pins.filter((p) => any.some((a) => p.can.includes(a)) && !p.reserved && p.boot !== 'pulses');
  if (!fit.length) return 'none of its pins can';
  const named = fit
    .slice(0, 4)
    .map((p) => p.label)
    .join(', ');
  return `pins that can: ${named}${fit.length > 4 ? ' and more' : ''}`;
}

/** Abilities by which several devices may share a pin. */
const shared: readonly Ability[] = ['serial', 'bus'];
function pinsTwice(uses: readonly Use[]): Finding[] {
  const taken = new Map<string, Use>();
  return uses.flatMap((use) => {
    if (use.any.every((ability) => shared.includes(ability))) return [];
    const key = `${use.board.id}/${use.pin}`;
    const first = taken.get(key);
    taken.set(key, first ?? use);
    if (first?.isEnable && use.isEnable) return [];
    const label = use.board.pins.find((p) => p.pin === use.pin)?.label ?? `${use.pin}`;
    return first
      ? [
          finding('channel-twice', use.at, {
            first: first.who,
            second: use.who,
            channel: label,
            board: use.board.name,
          }),
        ]
      : [];
  });
}

/** The level of a line until the program runs: what the resistor or the pin makes of it; null: anybody's guess. */
export function bootLevel(pin: Pin | undefined, pull: 'none' | 'up' | 'down'): 'low' | 'high' | null {
  if (pin?.boot === 'low' || pin?.boot === 'high') return pin.boot;
  if (pin?.boot === 'pulses') return null;
  return pull === 'up' ? 'high' : pull === 'down' ? 'low' : null;
}

function checkSignals(rig: Rig): Finding[] {
  return rig.signals.flatMap((signal) => {
    const board = rig.boards.find((b) => b.id === signal.board);
    const pin = board?.pins.find((p) => p.pin === signal.channel);
    const found: Finding[] = [];
    const at = place('signals', undefined, signal.id);
    if (!board || signal.channel === null) found.push(finding('signal-unwired', at, { signal: signal.name }));
    if (signal.activeLow === null) found.push(finding('polarity-unknown', at, { signal: signal.name }));
    if (!board || !pin) return found;
    if (signal.way === 'in') {
      if (signal.pull === 'none') found.push(finding('input-floats', at, { signal: signal.name }));
      return found;
    }
    if (signal.activeLow === null) return found;
    const level = bootLevel(pin, signal.pull);
    const on = signal.activeLow ? 'low' : 'high';
    // A resistor decides a line that nothing drives; a pin that drives it wins.
    const pull = `Put a resistor that pulls ${signal.activeLow ? 'up' : 'down'} on the line`;
    const other = `Choose a pin that is ${signal.activeLow ? 'high' : 'low'} or undriven while the board starts`;
    const isDriven = pin.boot === 'low' || pin.boot === 'high' || pin.boot === 'pulses';
    const advice = isDriven ? `${other}; this one drives the line, and no resistor wins against it.` : `${pull}.`;
    if (level === null)
      found.push(finding('output-boot-unknown', at, { signal: signal.name, pin: pin.label, advice }));
    else if (level === on)
      found.push(finding('output-boot-on', at, { signal: signal.name, pin: pin.label, level, advice }));
    return found;
  });
}

/** Devices of one two-wire bus, or of one bus servo line, with the same address. */
function checkBuses(rig: Rig): Finding[] {
  const found: Finding[] = [];
  const taken = new Map<string, string>();
  const take = (bus: string, address: number, who: string, at: Place): void => {
    const key = `${bus}/${address}`;
    const first = taken.get(key);
    if (first === undefined) taken.set(key, who);
    else found.push(finding('address-twice', at, { first, second: who, address }));
  };
  for (const wire of rig.wiring) {
    const drive = rig.drives.find((d) => d.id === wire.drive);
    if (drive?.kind === 'bus-servo')
      take(`serial/${wire.board}/${wire.channel}`, drive.address, drive.name, place('wires', drive.id));
  }
  for (const board of rig.boards) {
    if (board.kind === 'pwm-driver' && (board.host === null || !rig.boards.some((b) => b.id === board.host)))
      found.push(finding('board-without-host', place('boards', undefined, board.id), { board: board.name }));
    if (board.host !== null && board.address !== null)
      take(`bus/${board.host}/`, board.address, board.name, place('boards', undefined, board.id));
  }
  for (const { id, board, address, port, name } of rig.sensors)
    if (board !== null && address !== null)
      take(`bus/${board}/${port ?? ''}`, address, name, place('sensors', undefined, id));
  return found;
}

function checkSupply(rig: Rig, wire: Wire): Finding[] {
  const drive = rig.drives.find((d) => d.id === wire.drive);
  if (!drive) return [];
  const at = place('wires', drive.id);
  const rail = rig.rails.find((r) => r.id === wire.rail);
  if (!rail) return rig.rails.length ? [finding('rail-missing', at, { drive: drive.name })] : [];
  const found: Finding[] = [];
  const { voltageV: wants } = drive;
  if (wants !== undefined) {
    const data = { drive: drive.name, wants, rail: rail.name, volts: rail.volts };
    const at = place('rails', drive.id);
    // Steppers behind a current-limiting driver take what the driver takes.
    if (rail.volts > wants * (1 + TOO_HIGH) && drive.kind !== 'stepper')
      found.push(finding('voltage-high', at, data));
    if (rail.volts < wants * (1 - TOO_LOW)) found.push(finding('voltage-low', at, data));
  }
  if (rail.source === 'board') {
    const board = rig.boards.find((b) => b.id === rail.board);
    found.push(
      finding('rail-on-board', place('rails', drive.id), {
        drive: drive.name,
        board: board?.name ?? 'the board',
        gives: board?.regulatorA ?? 0,
        takes: drive.stallA ?? drive.movingA ?? 0,
      }),
    );
  }
  return found;
}

function checkGrounds(rig: Rig): Finding[] {
  const used = new Set(rig.wiring.map((wire) => wire.rail));
  return rig.rails
    .filter((rail) => used.has(rail.id) && rail.source !== 'board' && !rail.groundJoined)
    .map((rail) => finding('ground-open', place('rails'), { rail: rail.name }));
}

/** Servos that want more pulses a second than the board makes, or different rates where it has one for all. */
function checkPulses(rig: Rig, board: Board): Finding[] {
  const servos = rig.wiring.flatMap((wire) => {
    const drive = rig.drives.find((d) => d.id === wire.drive);
    return wire.board === board.id && drive && 'minUs' in drive ? [drive] : [];
  });
  const { mostHz, oneRate } = board.pulses;
  const found = servos
    .filter((servo) => servo.updateHz > mostHz)
    .map((servo) =>
      finding('pulse-rate-over', place('wires', servo.id, board.id), {
        drive: servo.name,
        wants: servo.updateHz,
        board: board.name,
        most: mostHz,
      }),
    );
  const [slow] = [...servos].sort((a, b) => a.updateHz - b.updateHz);
  const fast = servos.find((servo) => servo.updateHz > slow.updateHz);
  if (oneRate && fast)
    found.push(
      finding('pulse-rates-differ', place('wires', fast.id, board.id), {
        board: board.name,
        first: fast.name,
        fast: fast.updateHz,
        second: slow.name,
        slow: slow.updateHz,
      }),
    );
  return found;
}

/** Axes that trip outside their joint's limits. */
function checkHoming(rig: Rig, mechanism: Mechanism): Finding[] {
  return rig.homing.axes.flatMap((axis) => {
    const slot = mechanism.slotOf.get(axis.joint);
    if (slot === undefined) return [];
    const at: Place = { station: 'motors', part: 'homing', joint: axis.joint };
    const j = mechanism.jointOfSlot[slot];
    const joint = mechanism.names[j];
    let [low, high] = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => inUnit(mechanism, slot, v));
    // A hard stop lies past the limits that keep the joint from it.
    const own = rig.mechanism.joints.find((joint) => joint.id === axis.joint);
    if (axis.by === 'end-stop' && own && 'physical' in own && own.physical)
      [low, high] = [Math.min(low, own.physical.min), Math.max(high, own.physical.max)];
    return axis.at < low - 1e-9 || axis.at > high + 1e-9
      ? [finding('homing-outside', at, { joint, at: axis.at, low, high, unit: mechanism.units[j] })]
      : [];
  });
}

/** Step rates under the shared ceiling, and the time of one round of the board's program. */
function checkTime(rig: Rig, mechanism: Mechanism, board: Board, maps: readonly DriveMap[]): Finding[] {
  const found: Finding[] = [];
  const rates = stepRates(mechanism, board, maps);
  const total = rates.reduce((sum, { perS }) => sum + perS, 0);
  if (board.stepsPerS > 0 && total > board.stepsPerS * (1 + 1e-9)) {
    const most = rates.reduce((a, b) => (b.perS > a.perS ? b : a));
    const j = mechanism.jointOfSlot[most.slot];
    const top = inUnit(mechanism, most.slot, mechanism.speed[most.slot]);
    found.push(
      finding(
        'steps-over-ceiling',
        { ...place('boards', most.map.drive.id, board.id), joint: mechanism.ids[j] },
        {
          board: board.name,
          wanted: total,
          most: board.stepsPerS,
          joint: mechanism.names[j],
          top,
          speed: (top * board.stepsPerS) / total,
          unit: mechanism.units[j] === 'mm' ? 'mm/s' : '°/s',
        },
      ),
    );
  }
  const budget = loopBudget(rig, mechanism, board, maps);
  if (budget.usedMs > board.loop.everyMs)
    found.push(
      finding('loop-over', place('boards', undefined, board.id), {
        board: board.name,
        used: budget.usedMs,
        every: board.loop.everyMs,
        reads: budget.readsMs,
        maths: budget.mathsMs,
        steps: budget.stepsMs,
      }),
    );
  return found;
}

/** Step pulses per second of every stepper on a board with its joint at top speed. */
export function stepRates(
  mechanism: Mechanism,
  board: Board,
  maps: readonly DriveMap[],
): { map: DriveMap; slot: number; perS: number }[] {
  return maps.flatMap((map) => {
    if (map.board !== board.id || map.drive.kind !== 'stepper') return [];
    const slot = ownSlot(map);
    const speeds = new Float64Array(mechanism.m);
    speeds[slot] = mechanism.speed[slot];
    const wanted = shaftSpeed(map, mechanism, mechanism.home, speeds);
    return wanted ? [{ map, slot, perS: Math.abs(wanted.degPerS) * stepsPerDeg(map.drive) }] : [];
  });
}

export interface LoopBudget {
  readonly readsMs: number;
  readonly mathsMs: number;
  readonly stepsMs: number;
  readonly usedMs: number;
}

/** Time (ms) of one round of a board's program: sensors read, joints computed, steps made at top speed. */
export function loopBudget(rig: Rig, mechanism: Mechanism, board: Board, maps: readonly DriveMap[]): LoopBudget {
  const { everyMs, mathsUs, analogUs, busUs, stepUs } = board.loop;
  const sensors = rig.sensors.filter((s) => s.board === board.id);
  const readsMs = sensors.reduce((sum, s) => sum + (s.address === null ? analogUs : busUs), 0) / 1000;
  const joints = maps.filter(
    (m) => m.board === board.id || rig.boards.find((b) => b.id === m.board)?.host === board.id,
  );
  const mathsMs = (joints.length * mathsUs) / 1000;
  const perS = stepRates(mechanism, board, maps).reduce((sum, rate) => sum + rate.perS, 0);
  const stepsMs = (perS * (everyMs / 1000) * stepUs) / 1000;
  return { readsMs, mathsMs, stepsMs, usedMs: readsMs + mathsMs + stepsMs };
}
