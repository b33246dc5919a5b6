/** What a preset is: a kind of arm, the measures a person takes of it, and the rig they make. */
import type { RigInput } from '../rig';

/** A point of the drawing. */
export type Anchor =
  /** A joint's pivot; `end`: where a sliding one stands at an end of its travel. */
  | { readonly joint: string; readonly end?: 'min' | 'max' }
  | { readonly tool: string }
  | { readonly base: true }
  /** The ground straight below a joint, or below the base. */
  | { readonly groundUnder: string }
  /** The back or front (along its X) of a joint's first solid. */
  | { readonly bodyOf: string; readonly end: 'back' | 'front' }
  /** The knee, or the rods' lower joint, of a delta's arm. */
  | { readonly rodOf: string; readonly end: 'knee' | 'foot' };

export interface Measure {
  readonly key: string;
  /** What to measure, in words. */
  readonly label: string;
  readonly unit: 'mm' | '°';
  readonly usual: number;
  readonly min: number;
  readonly max: number;
  /** Where its arrow stands. */
  readonly from: Anchor;
  readonly to: Anchor;
  /** Measured level, upright, or straight from point to point (as seen in its view). */
  readonly along: 'level' | 'upright' | 'straight';
  readonly view: DrawnView;
}
export type DrawnView = 'side' | 'plan' | 'front';
export type Measured = Readonly<Record<string, number>>;

export interface Preset {
  readonly id: string;
  readonly name: string;
  /** One line: what it is and what it is for. */
  readonly says: string;
  readonly group: PresetGroup;
  readonly measures: readonly Measure[];
  /** Joint values of the drawing that differ from home. */
  readonly stands?: Readonly<Record<string, number>>;
  /** The rig of these measures (mm, °), all of them given. */
  readonly build: (name: string, v: Measured) => RigInput;
}
export const presetGroups = {
  arms: 'Arms',
  moving: 'Arms that travel',
  figures: 'Figures and heads',
  small: 'Trial rigs and bases',
} as const;
export type PresetGroup = keyof typeof presetGroups;

/** Letter of the n-th measure on drawings and sheets; o is left out, it reads as a nought. */
export const letterOfMeasure = (n: number): string => 'abcdefghijklmnpqrstuvwxyz'[n] ?? `a${n}`;
