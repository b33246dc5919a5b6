/**
 * Steering by hand: sticks push the tool along the world's axes, the board works out where its joints have to be, in closed form. The same
 * forms as the inverse kinematics of a whole computer (see kinematics/closed-form), as single numbers.
 */
import { driveSpeed, exactNative, fromNative, isSpin, steepest, type DriveMap } from '../actuators';
import { closedFormOf, forward, type PlanarArm, type SphericalArm } from '../kinematics';
import { axisOf, mul, positionOf, vec3, type Vec3 } from '../linear';
import { inUnit, toSlots, type CompiledTool, type Mechanism, type Terms } from '../mechanism';
import { MM_PER_M } from '../units/convert';
import type { Described } from './described';

/** Ways in which a stick pushes: along the world's axes (mm), the hand's turn in the arm's plane, and the roll about its own direction (rad). */
export const pushes = ['x', 'y', 'z', 'tilt', 'roll'] as const;
export type Push = (typeof pushes)[number];

/** Bars in a plane that turns or slides. */
interface PlanarWay {
  readonly kind: 'turn' | 'slide';
  readonly arm: PlanarArm;
  /** Way of the carriage that the arm stands on, which steering leaves where it is; null: none. */
  readonly carriage: { readonly slot: number; readonly axis: Vec3 } | null;
}
/** Three joints that carry the point of a wrist, and the wrist. */
interface WristWay extends Omit<PlanarWay, 'kind'> {
  readonly kind: 'wrist';
  readonly form: SphericalArm;
}
interface DeltaWay {
  readonly kind: 'delta';
  readonly delta: NonNullable<Mechanism['delta']>;
  /** Where the tool's point is (m, world) while the platform's centre is the base's own origin: the platform never turns. */
  readonly origin: Vec3;
  /** The base's frame in the world. */
  readonly base: Float64Array;
}
export type Way = PlanarWay | WristWay | DeltaWay;

/** A sum (rad, m) over joint values (rad, mm) that has to stay between two others; while another sum is above a value, where one is given. */
export interface Bound {
  readonly low: number;
  readonly high: number;
  readonly factors: readonly number[];
  readonly when: { readonly above: number; readonly factors: readonly number[] } | null;
  /** The rule, as it is called. */
  readonly words: string;
}
/** A motor that goes by a sum of joint values (rad, mm): from `low` to `high` by a table of places (native numbers), evenly apart. */
export interface Goer {
  /** Place in the board's motors. */
  readonly motor: number;
  readonly low: number;
  readonly high: number;
  readonly factors: readonly number[];
  readonly places: readonly number[];
  /** Native numbers a second that its shaft does at most. */
  readonly perS: number;
}
/** Where steering begins: the tool (mm, rad), its joints (rad, mm), and which of the branches they are. */
export interface SteeringState {
  readonly at: readonly [number, number, number, number, number];
  readonly joints: readonly number[];
  /** Which way the middle joint bends. */
  readonly side: 1 | -1;
  /** With a wrist: the tool's rotation there, row by row in the axes (e1, n, a0) of the arm. */
  readonly rotation: readonly number[] | null;
}
export interface Stick {
  /** Place in the program's sensors. */
  readonly sensor: number;
  readonly push: Push;
  /** Half of what it can read (raw counts), which is the middle of it. */
  readonly half: number;
  /** It pushes the other way. */
  readonly reversed: boolean;
}
export interface Steering {
  readonly tool: CompiledTool;
  readonly way: Way;
  /** Slots of the joints, in the order of the form. */
  readonly slots: readonly number[];
  readonly pushes: readonly Push[];
  /** Of the joints: rad/s, mm/s. */
  readonly speeds: readonly number[];
  /** Of the joints (rad, mm), and sums of several. */
  readonly limits: readonly (readonly [number, number])[];
  readonly bounds: readonly Bound[];
  readonly goers: readonly Goer[];
  readonly rest: SteeringState;
  /** Of each kept pose. */
  readonly presets: readonly SteeringState[];
}
/** Which of the joints a motor goes by alone; −1: by a sum of several, or of a share. */
export const onlyJoint = ({ factors }: Pick<Goer, 'factors'>): number =>
  factors.filter((factor) => factor !== 0).length === 1 ? factors.indexOf(1) : -1;
/** A motor's way before it is a table. */
interface Going extends Omit<Goer, 'places'> {
  readonly placeAt: (sum: number) => number;
}
/** What sticks do with a tool. */
export interface Steered extends Steering {
  readonly sticks: readonly Stick[];
  /** Pushed all the way. */
  readonly mmPerS: number;
  readonly radPerS: number;
}
/** Why a tool is not steered by a board. */
export type NoSteering =
  /** No closed form of a kind that a board works out. */
  | { readonly why: 'form' }
  /** No motor of this board, or one that is told speeds, moves a joint of it. */
  | { readonly why: 'joint'; readonly slot: number }
  /** A motor that moves several joints through rods. */
  | { readonly why: 'motor'; readonly map: DriveMap }
  /** A rule mixes joints of the tool with others. */
  | { readonly why: 'rule'; readonly words: string };

/** Presets have the letters 1 to 9. */
export const MOST_PRESETS = 9;
/** Places that a goer's table may have: pieces between them are straight; and how far (native numbers) those may be off. */
const GOER_PLACES = [2, 5, 9, 17, 33, 65];
const OFF = 0.2;
/** What single numbers lose of a sum (rad, m). */
const SLACK = { '°': 5e-4, mm: 5e-5 } as const;
/** Of a joint without an end, so far either way (rad), and of a slide (mm). */
const FAR = 4 * Math.PI;
const FAR_MM = 2000;

/** The tool of an id; the first one where there is none; null: the rig has no tool. */
export const toolOf = ({ mechanism }: Described, id: string | undefined): CompiledTool | null =>
  mechanism.tools.find((tool) => tool.id === id) ?? mechanism.tools.at(0) ?? null;

export function steeringOf(described: Described, toolId: string | undefined): Steering | NoSteering {
  const { mechanism, rig } = described;
  const tool = toolOf(described, toolId);
  const form = tool && wayOf(mechanism, tool);
  if (!form) return { why: 'form' };
  const { way, slots } = form;
  const goings: Going[] = [];
  for (const [motor, { map }] of described.motors.entries()) {
    if (isSpin(map) || !map.slots.some((slot) => slots.includes(slot))) continue;
    const going = goingOf(map, motor);
    if (!going) return { why: 'motor', map };
    goings.push(going);
  }
  const idle = slots.find((slot) => !described.motors.some(({ map }) => !isSpin(map) && map.slots.includes(slot)));
  if (idle !== undefined) return { why: 'joint', slot: idle };
  const bounds = boundsOf();
  if (!Array.isArray(bounds)) return bounds;
  const goers = tabled(goings);
  const stateAt = (q: Float64Array): SteeringState => ({
    ...stateOf(mechanism, tool, way, q),
    joints: slots.map((slot) => q[slot] / perOwn(slot)),
  });
  return {
    ...{ tool, way, slots, goers, bounds, limits: limitsWith(goers) },
    speeds: slots.map((slot) => mechanism.speed[slot] / perOwn(slot)),
    pushes: pushes.filter((push) => canPush(way, push)),
    rest: stateAt(described.rest),
    presets: rig.poses.slice(0, MOST_PRESETS).map(({ joints }) => stateAt(toSlots(mechanism, joints))),
  };

  /** Joint values are told in rad and mm. */
  function perOwn(slot: number): number {
    return mechanism.units[mechanism.jointOfSlot[slot]] === 'mm' ? 1 / MM_PER_M : 1;
  }
  function goingOf(map: DriveMap, motor: number): Going | null {
    const { native } = map;
    const perS = driveSpeed(map.drive) * steepest(native);
    const shaftAt = (units: readonly number[]): number | undefined => map.coupling.toDrives(units)?.[map.index];
    const unitOf = (slot: number, own: number): number => inUnit(mechanism, slot, own * perOwn(slot));
    if (map.slots.length === 1) {
      const [slot] = map.slots;
      const placeAt = (own: number): number => {
        const shaft = shaftAt([unitOf(slot, own)]);
        return shaft === undefined ? NaN : exactNative(native, shaft);
      };
      const goes = (own: number): boolean => placeAt(own) >= native.low - 0.5 && placeAt(own) <= native.high + 0.5;
      const ends = within(...endsOf(slot), goes);
      const factors = slots.map((s) => Number(s === slot));
      return ends && { motor, perS, low: ends[0], high: ends[1], factors, placeAt };
    }
    // Several joints: as a sum of them alone, which is the shaft's angle (°).
    if (map.transmission.kind !== 'matrix' || map.slots.some((slot) => !slots.includes(slot))) return null;
    const none = map.slots.map(() => 0);
    const zero = shaftAt(none);
    if (zero === undefined) return null;
    const factors = slots.map((slot) => {
      const k = map.slots.indexOf(slot);
      return k < 0 ? 0 : unitOf(slot, 1) * (shaftAt(none.map((_, i) => Number(i === k)))! - zero);
    });
    const [low, high] = [native.low, native.high]
      .map((value) => fromNative(native, value) - zero)
      .sort((a, b) => a - b);
    return { motor, perS, low, high, factors, placeAt: (sum) => exactNative(native, sum + zero) };
  }
  function endsOf(slot: number): [number, number] {
    const far = mechanism.units[mechanism.jointOfSlot[slot]] === 'mm' ? FAR_MM : FAR;
    const end = (si: number, open: number): number => (Number.isFinite(si) ? si / perOwn(slot) : open);
    return [end(mechanism.lower[slot], -far), end(mechanism.upper[slot], far)];
  }
  /** Of a joint that has motors of its own also what those reach. */
  function limitsWith(all: readonly Goer[]): (readonly [number, number])[] {
    return slots.map((slot, k) => {
      const [low, high] = endsOf(slot);
      const own = all.filter((goer) => onlyJoint(goer) === k);
      return [Math.max(low, ...own.map((goer) => goer.low)), Math.min(high, ...own.map((goer) => goer.high))];
    });
  }
  function boundsOf(): Bound[] | NoSteering {
    const factorsOf = (terms: Terms): number[] =>
      slots.map((slot) =>
        terms.reduce((sum, term) => sum + (term.slot === slot ? term.factor * perOwn(slot) : 0), 0),
      );
    const ours = (terms: Terms): boolean => terms.every(({ slot }) => slots.includes(slot));
    const list: Bound[] = [];
    const rules = mechanism.rules.map((rule) => ({ rule, condition: null }));
    const conditions = mechanism.conditions.map((rule) => ({ rule, condition: rule }));
    for (const { rule, condition } of [...rules, ...conditions]) {
      const { terms, min, max, words, unit } = rule;
      const all = [...terms, ...(condition?.when ?? [])];
      if (!all.some(({ slot }) => slots.includes(slot))) continue;
      if (!ours(all)) return { why: 'rule', words };
      const sense = condition?.above === false ? -1 : 1;
      const when = condition && {
        above: sense * condition.threshold,
        factors: factorsOf(condition.when).map((factor) => sense * factor),
      };
      const slack = SLACK[unit];
      list.push({ low: min - slack, high: max + slack, factors: factorsOf(terms), when, words });
    }
    return list;
  }
}

/** What does not hold where steering would begin, as it is called: sticks lead nothing from there. Null: all holds. */
export function brokenAt(
  { mechanism, motors }: Described,
  { slots, limits, bounds, goers }: Steering,
  { joints }: SteeringState,
): string | null {
  const inside = (value: number, low: number, high: number): boolean =>
    value >= low - SLACK['°'] && value <= high + SLACK['°'];
  const sum = (factors: readonly number[]): number => factors.reduce((all, factor, k) => all + factor * joints[k], 0);
  // First the motors: what those of a joint of their own reach is in its limits as well.
  const short = goers.find(({ low, high, factors }) => !inside(sum(factors), low, high));
  if (short) return `the reach of ${motors[short.motor].map.drive.name}`;
  const past = limits.findIndex(([low, high], k) => !inside(joints[k], low, high));
  if (past >= 0) return `the limit of ${mechanism.names[mechanism.jointOfSlot[slots[past]]]}`;
  const broken = bounds.find(
    ({ low, high, factors, when }) =>
      (!when || sum(when.factors) > when.above) && !(sum(factors) >= low && sum(factors) <= high),
  );
  return broken?.words ?? null;
}

/** The form of a tool, where it is one that a board works out, and the slots that it answers with. */
function wayOf(
  mechanism: Mechanism,
  tool: CompiledTool,
): { readonly way: Way; readonly slots: readonly number[] } | null {
  const { delta, base } = mechanism;
  if (delta && tool.parent === delta.platform)
    return { way: { kind: 'delta', delta, base, origin: positionOf(mul(base, tool.local)) }, slots: [0, 1, 2] };
  const form = closedFormOf(mechanism, tool);
  if (!form) return null;
  const { inner, carriage } = form;
  if (inner.kind === 'planar') {
    const { arm } = inner;
    return { way: { kind: arm.lead.kind, arm, carriage }, slots: arm.slots };
  }
  const { form: wrist, slots } = inner.solver;
  return { way: { kind: 'wrist', arm: wrist.arm, form: wrist, carriage }, slots };
}

/** Whether a stick can push the tool so: a hand that has no joint of its own is not tilted. */
function canPush(way: Way, push: Push): boolean {
  if (way.kind === 'wrist') return true;
  if (push === 'tilt') return way.kind !== 'delta' && way.arm.linkage.slots.length === 3;
  if (push === 'roll') return way.kind !== 'delta' && way.arm.roll !== null;
  return true;
}

/** Straighter or more folded than this (sine) a middle joint bends neither way yet. */
const STRAIGHT = 2e-3;
/** Where the tool is at a pose (slots, SI), and the branch that the pose is. */
function stateOf(mechanism: Mechanism, tool: CompiledTool, way: Way, q: Float64Array): Omit<SteeringState, 'joints'> {
  const frame = forward(mechanism, q).tools.get(tool.id)!;
  const world = positionOf(frame);
  const mm = (p: Vec3): Vec3 => vec3.scale(p, MM_PER_M);
  if (way.kind === 'delta') return { at: [...mm(world), 0, 0], side: 1, rotation: null };
  const { arm, carriage } = way;
  const { linkage, roll } = arm;
  const position = carriage ? vec3.sub(world, vec3.scale(carriage.axis, q[carriage.slot])) : world;
  const turnOf = (row: readonly number[]): number =>
    linkage.slots.reduce((sum, slot, k) => sum + row[k] * q[slot], 0);
  return {
    at: [...mm(position), linkage.slots.length === 3 ? turnOf(linkage.bars[2]) : 0, roll ? q[roll.slot] : 0],
    side: sideOf(),
    rotation: way.kind === 'wrist' ? rotationOf() : null,
  };

  function rotationOf(): number[] {
    const columns = [0, 1, 2].map((c) => axisOf(frame, c as 0 | 1 | 2));
    return [arm.e1, arm.n, arm.a0].flatMap((row) => columns.map((column) => vec3.dot(row, column)));
  }
  /** Which way the second bar is bent from the first; of a straight pair the way in which it has more room. */
  function sideOf(): 1 | -1 {
    const row = linkage.bars[1].map((factor, k) => factor - linkage.bars[0][k]);
    const straight = linkage.phi2 - linkage.phi1;
    const bend = turnOf(row) + straight;
    if (Math.abs(Math.sin(bend)) > STRAIGHT) return Math.sin(bend) > 0 ? 1 : -1;
    const room = (sense: 1 | -1): number =>
      linkage.slots.reduce((sum, slot, k) => {
        const end = sense * row[k] > 0 ? mechanism.upper[slot] : mechanism.lower[slot];
        return sum + (row[k] === 0 ? 0 : sense * row[k] * (end - q[slot]));
      }, 0);
    // Past straight it bends one way, past folded the other.
    return (room(1) >= room(-1) ? 1 : -1) * Math.cos(bend) >= 0 ? 1 : -1;
  }
}

/** The fewest places with which every table is true enough, or all that there may be. */
function tabled(goings: readonly Going[]): Goer[] {
  const placeOf = ({ low, high, placeAt }: Going, share: number): number => placeAt(low + (high - low) * share);
  const isTrue = (count: number): boolean =>
    goings.every((going) =>
      Array.from({ length: 4 * (count - 1) }, (_, k) => k / 4).every((part) => {
        const k = Math.floor(part);
        const [from, to] = [placeOf(going, k / (count - 1)), placeOf(going, (k + 1) / (count - 1))];
        return Math.abs(from + (to - from) * (part - k) - placeOf(going, part / (count - 1))) <= OFF;
      }),
    );
  const count = GOER_PLACES.find(isTrue) ?? GOER_PLACES.at(-1)!;
  return goings.map((going) => {
    const { motor, perS, low, high, factors } = going;
    const places = Array.from({ length: count }, (_, k) => placeOf(going, k / (count - 1)));
    return { motor, perS, low, high, factors, places };
  });
}

/** Valid samples between two ends, the longest run of them, its ends found to a millionth of the whole; null: none. */
function within(low: number, high: number, isFine: (value: number) => boolean): [number, number] | null {
  const COUNT = 128;
  const at = (k: number): number => low + ((high - low) * k) / COUNT;
  let best: [number, number] | null = null;
  let from = -1;
  for (let k = 0; k <= COUNT + 1; k++) {
    if (k <= COUNT && isFine(at(k))) {
      if (from < 0) from = k;
      continue;
    }
    if (from >= 0 && (!best || k - 1 - from > best[1] - best[0])) best = [from, k - 1];
    from = -1;
  }
  if (!best || best[0] === best[1]) return null;
  const edge = (fine: number, bad: number): number => {
    for (let n = 0; n < 20; n++) {
      const middle = (fine + bad) / 2;
      if (isFine(middle)) fine = middle;
      else bad = middle;
    }
    return fine;
  };
  return [
    best[0] === 0 ? low : edge(at(best[0]), at(best[0] - 1)),
    best[1] === COUNT ? high : edge(at(best[1]), at(best[1] + 1)),
  ];
}
