/** The compiled mechanism: flat typed arrays in SI that everything that computes works on. */

import type { CompiledSpring } from './springs';
import type { RigidBody } from './bodies';

export const FIXED = 0;
export const TURNING = 1;
export const SLIDING = 2;

export interface CompiledTool {
  readonly id: string;
  readonly name: string;
  /** Joint index, −1 for the base. */
  readonly parent: number;
  /** Tool frame in its parent's aligned frame. */
  readonly local: Float64Array;
  readonly mounted: boolean;
  /** In the tool's own frame. */
  readonly body: RigidBody;
  /** Slots of the independent joints that move this tool, from the base outward. */
  readonly slots: Int32Array;
  /** Contributions to the Jacobian: joint `joint[k]` moves with slot `slot[k]` times `factor[k]`. */
  readonly joint: Int32Array;
  readonly slot: Int32Array;
  readonly factor: Float64Array;
  /** Whether every slot moves the tool through one joint, one for one (no followers on the path). */
  readonly single: boolean;
}

/** Σ factor·q over slots, SI. */
export type Terms = readonly { readonly slot: number; readonly factor: number }[];

/** A sum over several slots that must stay within [min, max] (SI); `joint` is where it is looked for. */
export interface LimitRule {
  readonly terms: Terms;
  readonly min: number;
  readonly max: number;
  readonly joint: number;
  /** What it is, for messages: "the slack of Hose", and the unit it is written in. */
  readonly words: string;
  readonly unit: '°' | 'mm';
}

/** A rule that holds only while another sum is above (or below) a threshold. */
export interface ConditionalRule extends LimitRule {
  readonly when: Terms;
  readonly above: boolean;
  readonly threshold: number;
}

/** A rotary delta in SI, in the base's frame; see rig/delta.ts for how its motors are placed. */
export interface CompiledDelta {
  /** Base radius less platform radius (m): the arms as if they met in one point. */
  readonly radius: number;
  readonly platformRadius: number;
  readonly rodGap: number;
  readonly upperArm: number;
  readonly forearm: number;
  readonly cos: Float64Array;
  readonly sin: Float64Array;
  /** Joint index of the platform. */
  readonly platform: number;
}

export interface Mechanism {
  /** Joints, fixed and followers included. */
  readonly n: number;
  readonly ids: readonly string[];
  readonly names: readonly string[];
  /** What generated code and tables call each joint. */
  readonly codes: readonly string[];
  readonly units: readonly ('°' | 'mm')[];
  readonly index: ReadonlyMap<string, number>;
  readonly type: Uint8Array;
  readonly parent: Int32Array;
  /** n × 12: aligned frame of each joint at value 0 in its parent's aligned frame. */
  readonly local: Float64Array;
  /** n × 12: document frame in the aligned frame. */
  readonly unalign: Float64Array;
  /** World transform of the base. */
  readonly base: Float64Array;
  /** What weighs: each joint's link in its aligned frame, and the base in its own. */
  readonly bodies: readonly RigidBody[];
  readonly baseBody: RigidBody;
  readonly springs: readonly CompiledSpring[];

  /** Independent joints ("slots"), in the order of the document. */
  readonly m: number;
  readonly slotIds: readonly string[];
  readonly slotOf: ReadonlyMap<string, number>;
  readonly jointOfSlot: Int32Array;
  /** −1 where the joint is fixed or a follower. */
  readonly slotOfJoint: Int32Array;
  readonly continuous: Uint8Array;
  /** Per slot, SI (rad or m, per s, s², s³); ±Infinity where unbounded. */
  readonly lower: Float64Array;
  readonly upper: Float64Array;
  readonly speed: Float64Array;
  readonly accel: Float64Array;
  readonly jerk: Float64Array;
  readonly home: Float64Array;
  /** SI per document unit for each slot (rad per °, m per mm). */
  readonly siPerUnit: Float64Array;

  /** Followers: value of joint j = offset[j] + Σ factor·q over entries followStart[j] … followStart[j+1]−1. */
  readonly offset: Float64Array;
  readonly followStart: Int32Array;
  readonly followSlot: Int32Array;
  readonly followFactor: Float64Array;
  readonly rules: readonly LimitRule[];
  readonly conditions: readonly ConditionalRule[];
  /** Closed-loop geometry of a rotary delta; null for trees. */
  readonly delta: CompiledDelta | null;
  readonly tools: readonly CompiledTool[];
}
