/** Joint values between documents (by id, ° or mm) and the core (by slot, SI). */
import type { Cable } from '../rig';
import { M_PER_MM, RAD_PER_DEG, roundForDocument } from '../units/convert';
import type { ConditionalRule, LimitRule, Mechanism, Terms } from './mechanism';

/** Slots from values by id; a missing joint takes `fallback` (home by default), followers' values are ignored. */
export function toSlots(
  mechanism: Mechanism,
  joints: Readonly<Record<string, number>>,
  fallback: Float64Array = mechanism.home,
): Float64Array {
  return Float64Array.from(mechanism.slotIds, (id, s) =>
    Object.hasOwn(joints, id) ? fromUnit(mechanism, s, joints[id]) : fallback[s],
  );
}

/** Values by id in the joints' own units, of the independent joints. */
export function fromSlots(mechanism: Mechanism, q: Float64Array): Record<string, number> {
  return Object.fromEntries(mechanism.slotIds.map((id, s) => [id, inUnit(mechanism, s, q[s])]));
}

/** The same, rounded as documents keep computed values (0.001° or 0.001 mm), never past a limit. */
export function fromSlotsRounded(mechanism: Mechanism, q: Float64Array): Record<string, number> {
  return Object.fromEntries(
    mechanism.slotIds.map((id, s) => {
      const unit = mechanism.siPerUnit[s];
      const rounded = roundForDocument(q[s] / unit);
      const low = mechanism.lower[s] / unit;
      const high = mechanism.upper[s] / unit;
      return [
        id,
        q[s] >= mechanism.lower[s] && q[s] <= mechanism.upper[s] ? Math.min(high, Math.max(low, rounded)) : rounded,
      ];
    }),
  );
}

/** By how much (SI) the worst slot or rule is past its limit; 0 inside. */
export function limitExcess(mechanism: Mechanism, q: Float64Array): { slot: number; by: number } {
  let worst = { slot: -1, by: 0 };
  for (let s = 0; s < mechanism.m; s++) {
    const by = Math.max(mechanism.lower[s] - q[s], q[s] - mechanism.upper[s]);
    if (by > worst.by) worst = { slot: s, by };
  }
  return worst;
}

const sumOf = (terms: Terms, q: Float64Array): number => {
  let sum = 0;
  for (const { slot, factor } of terms) sum += factor * q[slot];
  return sum;
};

/** By how much (SI) a conditional rule is broken: never by more than what would end its condition. */
function conditionExcess({ when, above, threshold, terms, min, max }: ConditionalRule, q: Float64Array): number {
  const into = above ? sumOf(when, q) - threshold : threshold - sumOf(when, q);
  const sum = sumOf(terms, q);
  return Math.max(0, Math.min(into, Math.max(min - sum, sum - max)));
}

/** Whether anything depends on several joints at once. */
export const hasRules = ({ rules, conditions }: Mechanism): boolean => rules.length + conditions.length > 0;

/** The side of a rule that was crossed: sign · Σ factor·q ≤ bound (SI). */
export interface HalfSpace {
  readonly terms: Terms;
  readonly sign: 1 | -1;
  readonly bound: number;
}

/** How far (SI) a pose is outside of a half-space; negative inside. */
export const beyond = ({ terms, sign, bound }: HalfSpace, q: Float64Array): number => sign * sumOf(terms, q) - bound;

/**
 * What rules ask of a pose that breaks them, each as the one side it crossed; of a conditional rule its condition where
 * that is the nearer way back.
 */
export function crossedSides({ rules, conditions }: Mechanism, q: Float64Array): HalfSpace[] {
  const sides: HalfSpace[] = [];
  const side = ({ terms, min, max }: LimitRule): HalfSpace =>
    sumOf(terms, q) > max ? { terms, sign: 1, bound: max } : { terms, sign: -1, bound: -min };
  for (const own of rules.map(side)) if (beyond(own, q) > 0) sides.push(own);
  for (const rule of conditions) {
    if (conditionExcess(rule, q) <= 0) continue;
    const own = side(rule);
    const { when: terms, above, threshold } = rule;
    const condition: HalfSpace = above
      ? { terms, sign: 1, bound: threshold }
      : { terms, sign: -1, bound: -threshold };
    sides.push(beyond(own, q) < beyond(condition, q) ? own : condition);
  }
  return sides;
}

/** The rule most broken and by how much (SI); null and 0 inside all of them. */
export function worstRule(mechanism: Mechanism, q: Float64Array): { rule: LimitRule | null; by: number } {
  let worst: { rule: LimitRule | null; by: number } = { rule: null, by: 0 };
  for (const rule of mechanism.rules) {
    const sum = sumOf(rule.terms, q);
    const by = Math.max(rule.min - sum, sum - rule.max);
    if (by > worst.by) worst = { rule, by };
  }
  for (const rule of mechanism.conditions) {
    const by = conditionExcess(rule, q);
    if (by > worst.by) worst = { rule, by };
  }
  return worst;
}
/** How far (mm or °, as it is written) a pose is past a rule. */
export const inOwnUnit = ({ unit }: LimitRule, by: number): number => by / (unit === 'mm' ? M_PER_MM : RAD_PER_DEG);

export const rulesExcess = (mechanism: Mechanism, q: Float64Array): number => worstRule(mechanism, q).by;

/** Excess (SI) that counts as inside: rounding of sums. */
const RULE_SLACK = 1e-9;

/**
 * How far one slot may go down and up from where it is (SI), limits and rules held, the other slots as they are. From a
 * pose that breaks a rule already, its plain limits.
 */
export function rangeFrom(mechanism: Mechanism, q: Float64Array, slot: number): [number, number] {
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
  const { rules, conditions } = mechanism;
  if (!hasRules(mechanism) || rulesExcess(mechanism, q) > RULE_SLACK) return [low, high];
  // Values of this slot at which some bound or condition changes.
  const turns: number[] = [];
  const cross = (terms: Terms, level: number): void => {
    const own = terms.find((t) => t.slot === slot);
    if (own && Number.isFinite(level)) turns.push(q[slot] + (level - sumOf(terms, q)) / own.factor);
  };
  for (const rule of rules) [rule.min, rule.max].forEach((level) => cross(rule.terms, level));
  for (const rule of conditions) {
    [rule.min, rule.max].forEach((level) => cross(rule.terms, level));
    cross(rule.when, rule.threshold);
  }
  const trial = q.slice();
  const holds = (value: number): boolean => {
    trial[slot] = value;
    return rulesExcess(mechanism, trial) <= RULE_SLACK;
  };
  const walk = (sign: 1 | -1): number => {
    const end = sign > 0 ? high : low;
    const ahead = turns
      .filter((v) => sign * (v - q[slot]) > -RULE_SLACK && sign * (end - v) > 0)
      .sort((a, b) => sign * (a - b));
    for (const [i, stop] of ahead.entries()) {
      const next = ahead[i + 1] ?? (Number.isFinite(end) ? end : stop + sign);
      if (!holds((stop + next) / 2)) return stop;
    }
    return end;
  };
  return [Math.min(walk(-1), q[slot]), Math.max(walk(1), q[slot])];
}

/** Slack (mm) that a cable has left at a pose: negative where it would be torn tight. */
export function cableLeft(mechanism: Mechanism, cable: Cable, q: Float64Array): number {
  const used = cable.around.reduce((sum, { joint, radiusMm, neutral }) => {
    const j = mechanism.index.get(joint)!;
    const slot = mechanism.slotOfJoint[j];
    let value = slot >= 0 ? q[slot] : mechanism.offset[j];
    if (slot < 0)
      for (let k = mechanism.followStart[j]; k < mechanism.followStart[j + 1]; k++)
        value += mechanism.followFactor[k] * q[mechanism.followSlot[k]];
    return sum + radiusMm * Math.abs(value - neutral * RAD_PER_DEG);
  }, 0);
  return cable.slackMm - used;
}

/** What is of a slot in SI (rad or m, and by the second) in the joint's own unit (° or mm). */
export const inUnit = ({ siPerUnit }: Pick<Mechanism, 'siPerUnit'>, slot: number, si: number): number =>
  si / siPerUnit[slot];
/** What is in the joint's own unit (° or mm) in SI. */
export const fromUnit = ({ siPerUnit }: Pick<Mechanism, 'siPerUnit'>, slot: number, value: number): number =>
  value * siPerUnit[slot];
