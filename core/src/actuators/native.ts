/**
 * Native numbers of drives: what goes over the wire for an angle of the motor's shaft, as whole pulses (µs), counts or
 * microsteps, and the same in the other ways people write it.
 */
import { FARTHEST } from '../board';
import { entryOf, type Build, type Drive, type DriveFigures, type ServoDrive } from '../rig';
import { nodesAt, nodesUs, type Node } from './calibration';
import { servoLine, servoNodes } from './servo-line';

export type NativeUnit = 'µs' | 'counts' | 'steps';

/** native = atZero + perDeg · shaft angle (°), rounded to whole numbers within [low, high]. */
export interface Native {
  readonly unit: NativeUnit;
  readonly perDeg: number;
  readonly atZero: number;
  readonly low: number;
  readonly high: number;
  /** Corners of a calibrated many-piece map, which then stands for the line. */
  readonly nodes?: readonly Node[] | null;
}

/** A turn in degrees. */
const TURN = 360;
/** Counter positions of 12-bit PWM chips. */
export const TICKS = 4096;

/** Null for a motor that is sent speeds, not places. */
export function nativeOf(drive: Drive, build: Build): Native | null {
  const measured = turnScale(build, drive.id);
  switch (drive.kind) {
    case 'servo': {
      const { atZeroUs, usPerDeg } = servoLine(drive, build);
      return {
        unit: 'µs',
        perDeg: usPerDeg,
        atZero: atZeroUs,
        low: Math.ceil(drive.minUs),
        high: Math.floor(drive.maxUs),
        nodes: servoNodes(drive, build),
      };
    }
    case 'bus-servo':
      return {
        unit: 'counts',
        perDeg: (drive.direction * drive.countsPerTurn * measured) / TURN,
        atZero: drive.centreCount,
        low: Math.ceil(drive.minCount),
        high: Math.floor(drive.maxCount),
      };
    case 'stepper':
      return {
        unit: 'steps',
        perDeg: drive.direction * stepsPerDeg(drive) * measured,
        atZero: 0,
        // Counts and steps have no ends of their own.
        low: -FARTHEST,
        high: FARTHEST,
      };
    case 'dc-encoder':
      return {
        unit: 'counts',
        perDeg: (drive.direction * drive.countsPerTurn * measured) / TURN,
        atZero: 0,
        // Counts and steps have no ends of their own.
        low: -FARTHEST,
        high: FARTHEST,
      };
    default:
      return null;
  }
}

/** By how much more a drive must be sent than its nominal figures say: a joint asked for 60° that went 58° wants 60/58. */
export const turnScale = (build: Build, driveId: string): number => {
  const turn = entryOf(build.turns, driveId);
  return turn ? turn.asked / turn.moved : 1;
};

/** Microsteps per degree of a stepper's shaft. */
export const stepsPerDeg = (drive: Extract<Drive, { kind: 'stepper' }>): number =>
  (drive.stepsPerTurn * drive.microsteps) / TURN;

/** Top speed of a motor's shaft, °/s. */
export const driveSpeed = (drive: Drive): number =>
  drive.kind === 'stepper' ? drive.maxStepHz / stepsPerDeg(drive) : drive.speedDegPerS;

/** Most native units that a degree of the shaft comes to. */
export const steepest = ({ perDeg, nodes }: Native): number =>
  (nodes ?? []).reduce(
    (most, { at, us }, k, all) => (k ? Math.max(most, Math.abs((us - all[k - 1].us) / (at - all[k - 1].at))) : most),
    Math.abs(perDeg),
  );

/** Whether a motor can only be told how fast to turn. */
export const isSpeedOnly = (drive: Drive): boolean => drive.kind === 'continuous-servo' && !drive.feedback;

/** Whole numbers from the lowest to the highest of `ends` that are inside the drive's own range, rounded inward. */
export function rangeFor({ low, high }: Native, ends: readonly number[]): { low: number; high: number } {
  // A thousandth of slack: a limit that is a whole number but for rounding stays that number.
  return {
    low: Math.max(low, Math.ceil(Math.min(...ends) - 1e-3)),
    high: Math.min(high, Math.floor(Math.max(...ends) + 1e-3)),
  };
}

/** A number kept inside a range. */
export const held = ({ low, high }: Pick<Native, 'low' | 'high'>, value: number): number =>
  Math.min(high, Math.max(low, value));

/** What a shaft angle (°) comes to, not yet a whole number. */
export const exactNative = ({ perDeg, atZero, nodes }: Native, deg: number): number =>
  nodes ? nodesUs(nodes, deg) : atZero + perDeg * deg;
/** The whole number sent for a shaft angle, never outside the drive's own range. */
export const toNative = (native: Native, deg: number): number => held(native, Math.round(exactNative(native, deg)));
export const fromNative = ({ perDeg, atZero, nodes }: Native, value: number): number =>
  nodes ? nodesAt(nodes, value) : (value - atZero) / perDeg;

/** One pulse in the ways people write it. */
export interface PulseForms {
  readonly us: number;
  /** Share of the frame that is high. */
  readonly dutyPercent: number;
  /** Of 4096 per frame. */
  readonly ticks: number;
  /** Between the shortest and the longest pulse, 0 to 1. */
  readonly fraction: number;
}

export function pulseForms(drive: Pick<ServoDrive, 'updateHz' | 'minUs' | 'maxUs'>, us: number): PulseForms {
  const frame = 1e6 / drive.updateHz;
  return {
    us,
    dutyPercent: (100 * us) / frame,
    ticks: (us / frame) * TICKS,
    fraction: (us - drive.minUs) / (drive.maxUs - drive.minUs),
  };
}

/** The pulse (µs) of any one of its forms. */
export function pulseFrom(
  drive: Pick<ServoDrive, 'updateHz' | 'minUs' | 'maxUs'>,
  form: keyof PulseForms,
  value: number,
): number {
  const frame = 1e6 / drive.updateHz;
  if (form === 'us') return value;
  if (form === 'dutyPercent') return (value * frame) / 100;
  if (form === 'ticks') return (value * frame) / TICKS;
  return drive.minUs + value * (drive.maxUs - drive.minUs);
}

/**
 * A motor behind a reduction (gear : 1) seen as one motor: travel and speed divide by it, torque multiplies by it and the
 * efficiency, a pulse or count turns it less far. For positional servos.
 */
export function geared(drive: ServoDrive, gear: number, efficiency = 1): ServoDrive {
  return {
    ...drive,
    travelDeg: drive.travelDeg / gear,
    usPerDeg: drive.usPerDeg * gear,
    speedDegPerS: drive.speedDegPerS / gear,
    stallNm: drive.stallNm * gear * efficiency,
    ...(drive.holdNm === undefined ? {} : { holdNm: drive.holdNm * gear * efficiency }),
  };
}

const kindWords: Record<Drive['kind'], string> = {
  servo: 'servo',
  'continuous-servo': 'servo',
  'bus-servo': 'servo',
  stepper: 'stepper',
  'dc-encoder': 'motor',
};
/** What a motor is called until somebody names it: whose it is, and what. */
export const motorName = (of: string, kind: Drive['kind']): string => `${of} ${kindWords[kind]}`;
/** The name of a motor that becomes one of another kind: a name that ended in the old kind's word ends in the new one's. */
export function renamedFor(name: string, before: Drive['kind'], after: Drive['kind']): string {
  const end = ` ${kindWords[before]}`;
  return name.endsWith(end) ? motorName(name.slice(0, -end.length), after) : name;
}

/** A drive with the figures of another motor: it stays in its place, and turns the way it did. */
export function withFigures({ id, name, kind, direction, seat, softensC }: Drive, figures: DriveFigures): Drive {
  const drive = { ...figures, direction, id, name: renamedFor(name, kind, figures.kind) } as Drive;
  return { ...drive, ...(seat && { seat }), ...(softensC !== undefined && { softensC }) };
}

/** Width (its native unit) of the band around its wish in which a drive rests; 0 where it has none. */
export const deadBandOf = (drive: Drive): number =>
  'deadBandUs' in drive ? drive.deadBandUs : 'deadBandCounts' in drive ? drive.deadBandCounts : 0;
