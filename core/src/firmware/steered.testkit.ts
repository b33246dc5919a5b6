/** Arms of any kind that sticks steer, compiled and run: a stepper on every joint, and where its tool was told to be over time. */
import { firstOfKind, isSpin, mapGroups, poseMeant, type DriveMap } from '../actuators';
import { forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import { inUnit, type Mechanism } from '../mechanism';
import { RIG_FORMAT, RIG_VERSION, type MechanismDoc } from '../rig';
import { newBoard } from '../wiring';
import { described, knobOn } from './boards.testkit';
import { compile, live } from './compiled.testkit';
import type { Described } from './index';
import { handControlOf, sources } from './index';
import { track } from './played.testkit';
import { pushes, type Push, type Steered } from './steering';

/** Analogue pins of the sticks, in the order of the pushes. */
const STICK_PIN = 54;
export const MOST = { mmPerS: 60, radPerS: 0.5 } as const;
const FREE = 512;

/** A rig of a mechanism: a stepper and a ratio for each joint that is told where to be, sticks, and poses (slots, SI), the first at rest. */
export function stepped(mechanism: Mechanism, doc: MechanismDoc, poses: readonly Float64Array[]): unknown {
  const joints = mechanism.slotIds;
  const drive = (id: string) => ({ ...firstOfKind('stepper'), id: `m-${id}`, name: `Motor of ${id}` });
  return {
    ...{ format: RIG_FORMAT, version: RIG_VERSION, name: 'Steered', mechanism: doc },
    drives: joints.map(drive),
    transmissions: joints.map((id) => ({
      ...{ id: `t-${id}`, kind: 'ratio', joints: [id], drives: [`m-${id}`] },
      reduction: mechanism.units[mechanism.jointOfSlot[mechanism.slotOf.get(id)!]] === 'mm' ? 9 : 7,
    })),
    boards: [newBoard('large-8-bit', 'b', 'Board')],
    wiring: joints.map((id, k) => ({
      id: `w-${id}`,
      drive: `m-${id}`,
      board: 'b',
      channel: 22 + 2 * k,
      direction: 23 + 2 * k,
    })),
    sensors: pushes.map((push, k) => knobOn('b', STICK_PIN + k, push)),
    poses: poses.map((q, k) => ({
      ...{ id: `p${k}`, name: `Pose ${k}` },
      joints: Object.fromEntries(joints.map((id, slot) => [id, inUnit(mechanism, slot, q[slot])])),
    })),
    powerUp: { rest: 'p0', gapMs: 1, maxDegPerS: 30, order: [], at: {} },
  };
}

export interface SteeredArm {
  readonly board: Described;
  readonly steering: Steered;
  readonly program: string;
}
export function steeredArm(document: unknown): SteeredArm | null {
  const board = described(document, 'b');
  const sticks = Object.fromEntries(pushes.map((push) => [push, push]));
  const control = handControlOf(board, { following: 'tool', steer: { sticks, ...MOST } });
  const { steering } = control;
  return steering && { board, steering, program: compile(sources(board, 'hand', { kind: 'hand', control })) };
}

/** How far each stick is off its middle, −1 to 1, for so many ms. */
export type Pushed = readonly [Partial<Readonly<Record<Push, number>>>, number];
const stickOrders = (off: Pushed[0]): string[] =>
  pushes.map((push, k) => `analog ${STICK_PIN + k} ${Math.round(FREE + 500 * (off[push] ?? 0))}`);
/** It comes on, its sticks are let go for a second, then they are pushed. */
export const wake = [...stickOrders({}), '> g', '. 1500000'];
export const WAKE_MS = 1500;
export const ordersOf = (list: readonly Pushed[]): string[] =>
  list.flatMap(([off, ms]) => [...stickOrders(off), `. ${ms * 1000}`]);

/** Where joints (slots, SI) and tool (mm) were told to be. */
export interface Told {
  readonly ms: number;
  readonly q: Float64Array;
  readonly tool: Vec3;
  /** Its frame, world. */
  readonly rotation: Float64Array;
}
export function told(
  { board, steering, program }: SteeredArm,
  orders: readonly string[],
  everyMs: number,
  untilMs: number,
): Told[] {
  const { mechanism, motors } = board;
  const happened = live(program, orders).flatMap((part) => part.happened);
  const tracks = motors.map((_, k) => track(happened, board, k));
  const maps = motors.map(({ map }) => map).filter((map): map is DriveMap => !isSpin(map));
  const groups = mapGroups(maps);
  return Array.from({ length: Math.floor(untilMs / everyMs) + 1 }, (_, k) => {
    const ms = k * everyMs;
    const q = poseMeant(groups, mechanism, (map) => tracks[maps.indexOf(map)](ms * 1000), board.rest.slice());
    const rotation = forward(mechanism, q).tools.get(steering.tool.id)!;
    return { ms, q, rotation, tool: vec3.scale(positionOf(rotation), 1000) };
  });
}
