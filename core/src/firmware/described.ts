/** What a board's firmware must know of a rig: its motors, pins and signals, as numbers. */
import { boardsOn, isSpin, linePins, nativeAt, type CommandMap } from '../actuators';
import { FARTHEST } from '../board';
import { planPowerUp, restPose } from '../bring-up';
import { Channels, fingerprint, levelOf, sensorPins, signalPins } from '../commands';
import { confirmedLimits, type Mechanism } from '../mechanism';
import type { Board, Build, Rig, Wire } from '../rig';

export type FirmwareMotorKind = 'pulse-pin' | 'pulse-driver' | 'stepper' | 'counted';
export interface FirmwareMotor {
  readonly map: CommandMap;
  readonly kind: FirmwareMotorKind;
  /** As the line numbers it, and the pin (of its driver, where it hangs on one). */
  readonly channel: number;
  readonly pin: number;
  /** Pin of the direction of a stepper or counted motor, bus address of a driver. */
  readonly second: number;
  readonly enable: number | null;
  /** Pins of the tracks of a counted motor: its count rises while the first one leads. */
  readonly tracks: readonly [number, number] | null;
  /** What its joints' limits leave of its range, and where it stands before it is told anything (native numbers). */
  readonly low: number;
  readonly high: number;
  /** Its own range: what a bridge holds to, since steppers are anywhere before they are homed. */
  readonly own: { readonly low: number; readonly high: number };
  readonly rest: number;
  /** It is sent speeds. */
  readonly turns: boolean;
}
export interface FirmwareSignal {
  readonly id: string;
  readonly name: string;
  readonly pin: number;
  readonly isOutput: boolean;
  /** Of an output the level at which it is off, of an input the one at which it is on. */
  readonly level: 0 | 1;
  readonly pullsUp: boolean;
  /** It freezes the arm while it is on. */
  readonly stops: boolean;
}
export interface Described {
  readonly rig: Rig;
  readonly build: Build;
  readonly mechanism: Mechanism;
  readonly board: Board;
  /** Boards that hang on it. */
  readonly hanging: readonly Board[];
  readonly motors: readonly FirmwareMotor[];
  /** Motors on its line that such firmware does not drive. */
  readonly strange: readonly CommandMap[];
  readonly signals: readonly FirmwareSignal[];
  readonly sensorCount: number;
  /** Pins of the board itself that may switch or be read, but for those of motors. */
  readonly freePins: readonly number[];
  /** Pins of all its boards. */
  readonly channelCount: number;
  /** Pulses a second of drivers. */
  readonly driverHz: number;
  /** Motors (places in `motors`) in the order in which they come on. */
  readonly order: readonly number[];
  /** Where its joints are expected to stand as power comes (slots, SI). */
  readonly rest: Float64Array;
  readonly fingerprint: string;
  /** Of the saved rig; null: it is not saved. */
  readonly revision: number | null;
}

/** Whether it counts its way, and is anywhere until it is told where it is. */
export const doesCount = ({ kind }: Pick<FirmwareMotor, 'kind'>): boolean => kind === 'stepper' || kind === 'counted';
/** Counts a second of a motor with an encoder at its full speed. */
export const fullCountsPerS = ({ countsPerTurn, speedDegPerS }: Encoded): number =>
  (countsPerTurn * speedDegPerS) / 360;
type Encoded = Extract<Rig['drives'][number], { kind: 'dc-encoder' }>;
/** Pins of its board that a motor is on. */
export const pinsOf = (motor: FirmwareMotor): number[] => {
  const { kind, pin, second, enable, tracks } = motor;
  if (kind === 'pulse-driver') return [];
  return [pin, ...(doesCount(motor) ? [second] : []), ...(enable === null ? [] : [enable]), ...(tracks ?? [])];
};

/** A pin that is none. */
export const NO_PIN = 255;
const SWITCHES = ['output', 'input', 'analog', 'bus'] as const;

/** Its limits are those that are confirmed on the build. */
export function describe(
  rig: Rig,
  designed: Mechanism,
  build: Build,
  boardId: string,
  revision: number | null,
): Described {
  const mechanism = confirmedLimits(designed, build);
  const [board, ...hanging] = boardsOn(rig, boardId);
  const maps = new Channels(rig, mechanism, build).on(boardId);
  const rest = restPose(rig, mechanism);
  const place = linePins(rig);
  const made = maps.map((map) => motorOf(map));
  const motors = made.filter((motor) => motor !== null);
  const taken = new Set(motors.flatMap(pinsOf));
  const starts = planPowerUp(rig, mechanism, build).starts.flatMap((start) =>
    start.maps.map(({ drive }) => drive.id),
  );
  const order = motors
    .map((motor, k) => ({ k, at: starts.indexOf(motor.map.drive.id) }))
    .sort((a, b) => a.at - b.at)
    .map(({ k }) => k);
  return {
    ...{ rig, build, mechanism, board, hanging, motors, order, rest, revision },
    strange: maps.filter((_, k) => made[k] === null),
    signals: signalPins(rig)
      .filter(({ line, channel }) => line === boardId && channel < 256)
      .map(({ signal, channel }) => ({
        ...{
          id: signal.id,
          name: signal.name,
          pin: channel,
          isOutput: signal.way === 'out',
          pullsUp: signal.pull === 'up',
        },
        ...{ level: levelOf(signal, signal.way === 'in'), stops: signal.way === 'in' && signal.stops === true },
      })),
    sensorCount: sensorPins(rig).filter(({ line }) => line === boardId).length,
    freePins: board.pins
      .filter(({ pin, can, reserved }) => !taken.has(pin) && !reserved && SWITCHES.some((able) => can.includes(able)))
      .map(({ pin }) => pin),
    channelCount: [board, ...hanging].reduce((sum, { pins }) => sum + pins.length, 0),
    driverHz: Math.min(
      ...motors.flatMap(({ kind, map }) =>
        kind === 'pulse-driver' && 'updateHz' in map.drive ? [map.drive.updateHz] : [],
      ),
      ...hanging.map(({ pulses }) => pulses.mostHz),
      ...(motors.some(({ kind }) => kind === 'pulse-driver') ? [] : [50]),
    ),
    fingerprint: fingerprint(maps, mechanism),
  };

  function motorOf(map: CommandMap): FirmwareMotor | null {
    const wire = rig.wiring.find((w) => w.drive === map.drive.id);
    if (!wire || map.channel === undefined || map.channel === null) return null;
    const value = isSpin(map) ? map.stopUs : nativeAt(map, mechanism, rest);
    const { low, high } = isSpin(map) ? map : map.native;
    const common = {
      ...{ map, channel: map.channel, enable: wire.enable ?? null, tracks: null, low, high },
      ...{ rest: value ?? 0, turns: isSpin(map) },
    };
    switch (map.drive.kind) {
      case 'servo':
      case 'continuous-servo': {
        const { minUs, maxUs } = map.drive;
        const own = { low: Math.ceil(minUs), high: Math.floor(maxUs) };
        const driver = driverOf(wire);
        return driver
          ? { ...common, own, kind: 'pulse-driver', pin: wire.channel, second: driver.address ?? 64 }
          : wire.board === boardId
            ? { ...common, own, kind: 'pulse-pin', pin: wire.channel, second: NO_PIN }
            : null;
      }
      case 'stepper': {
        const own = { low: -FARTHEST, high: FARTHEST };
        return wire.board === boardId && wire.direction !== undefined && !isSpin(map)
          ? { ...common, own, kind: 'stepper', pin: wire.channel, second: wire.direction }
          : null;
      }
      case 'dc-encoder': {
        const { channel: pin, direction, firstTrack, secondTrack } = wire;
        const isWired = direction !== undefined && firstTrack !== undefined && secondTrack !== undefined;
        if (wire.board !== boardId || !isWired || isSpin(map)) return null;
        const own = { low: -FARTHEST, high: FARTHEST };
        return { ...common, own, kind: 'counted', pin, second: direction, tracks: [firstTrack, secondTrack] };
      }
      default:
        return null;
    }
  }
  /** The driver a motor's wire goes to, on a bus of this very board. */
  function driverOf(wire: Wire): Board | undefined {
    return hanging.find(
      (b) => b.id === wire.board && b.kind === 'pwm-driver' && place(b.id, wire.channel) !== undefined,
    );
  }
}
