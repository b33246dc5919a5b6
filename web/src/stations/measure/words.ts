/** Words for what the document says in numbers: axes, kinds, mountings. */
import type { JointType } from '@cork-elbow/core/rig';

type Triple = [number, number, number];
export const axisWords: readonly { value: string; turning: string; sliding: string; axis: Triple }[] = [
  { value: 'z', turning: 'turn about up', sliding: 'slide up', axis: [0, 0, 1] },
  { value: 'y', turning: 'pitch (nods)', sliding: 'slide left', axis: [0, 1, 0] },
  { value: 'x', turning: 'roll (tilts)', sliding: 'slide forward', axis: [1, 0, 0] },
  { value: '-z', turning: 'turn, reversed', sliding: 'slide down', axis: [0, 0, -1] },
  { value: '-y', turning: 'pitch, reversed', sliding: 'slide right', axis: [0, -1, 0] },
  { value: '-x', turning: 'roll, reversed', sliding: 'slide back', axis: [-1, 0, 0] },
];
export const OTHER_AXIS = 'other';
/** The word for an axis, whatever its length; OTHER_AXIS for one that stands askew. */
export function axisWord(axis: readonly number[]): string {
  const length = Math.hypot(...axis);
  return (
    axisWords.find(({ axis: own }) => own.every((v, i) => Math.abs(axis[i] / length - v) < 1e-9))?.value ?? OTHER_AXIS
  );
}
/** One word for a table cell. */
export function shortAxis(type: JointType, axis: readonly number[]): string {
  const word = axisWord(axis);
  const sign = word.startsWith('-') ? '−' : '';
  if (word === OTHER_AXIS) return type === 'prismatic' ? 'slide, askew' : 'askew';
  const names: Record<string, string> =
    type === 'prismatic' ? { z: 'slide up', y: 'slide left', x: 'slide fwd' } : { z: 'turn', y: 'pitch', x: 'roll' };
  return sign + names[word.replace('-', '')];
}

export const jointKinds: readonly { label: string; value: JointType }[] = [
  { label: 'turns', value: 'revolute' },
  { label: 'turns without end', value: 'continuous' },
  { label: 'slides', value: 'prismatic' },
  { label: 'fixed', value: 'fixed' },
];
export const couplings = [
  { label: 'parallel bars', value: 'bars' },
  { label: 'gears', value: 'gears' },
  { label: 'cord or belt', value: 'cord' },
  { label: 'a computed command', value: 'computed' },
] as const;

/** How a base is fixed, as roll, pitch, yaw of its frame. */
export const mountings: readonly { label: string; value: string; rpyDeg: Triple }[] = [
  { label: 'stands on bench or floor', value: 'floor', rpyDeg: [0, 0, 0] },
  { label: 'on a wall behind it', value: 'wall', rpyDeg: [0, 90, 0] },
  { label: 'hangs from the ceiling', value: 'ceiling', rpyDeg: [180, 0, 0] },
];
export const mountingWord = (rpyDeg: readonly number[]): string =>
  mountings.find((m) => m.rpyDeg[0] === rpyDeg[0] && m.rpyDeg[1] === rpyDeg[1])?.value ?? 'tilted';

/** Stands for null in choices, which cannot hold it. */
export const BASE = ':base';
