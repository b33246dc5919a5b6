import { behindFigure, type SlotInfo } from '../shared/joints';

/** A joint as the strip shows it, in the joint's unit. */
export interface StripJoint {
  readonly info: SlotInfo;
  readonly value: number;
  readonly low: number;
  readonly high: number;
  /** What its motor is sent, with the unit; null for no motor. */
  readonly command: string | null;
  readonly measured: number | null;
  /** Of the torque that its motor may give, what holding this pose takes; null where none is known. */
  readonly load: number | null;
}
/** Spoken and written behind a figure of the joint. */
export const unitOf = ({ info }: StripJoint): string => behindFigure(info);
export const isBounded = ({ low, high }: StripJoint): boolean => Number.isFinite(high - low);
