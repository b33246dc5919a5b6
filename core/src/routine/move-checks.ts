/** What keeps a move from being made. */
import { deltaForward, inOwnUnit, jawAround, jawAt, worstRule, type JawGrip, type Mechanism } from '../mechanism';
import type { StepOf } from '../rig';
import { M_PER_MM } from '../units/convert';
import type { Problem } from './targets';

/** Limits hold to this much (SI): poses saved to 0.001° sit exactly on a limit but for rounding. */
const LIMIT_SLACK = 1e-9;

/** The first joint whose target is past a limit; what is past by rounding alone is put on it. */
export function overLimit(mechanism: Mechanism, to: Float64Array, no: number): Problem | null {
  for (let s = 0; s < mechanism.m; s++) {
    const by = Math.max(mechanism.lower[s] - to[s], to[s] - mechanism.upper[s]);
    if (by <= 0) continue;
    if (by <= LIMIT_SLACK) {
      to[s] = Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], to[s]));
      continue;
    }
    const joint = mechanism.jointOfSlot[s];
    const unit = mechanism.siPerUnit[s];
    return {
      code: 'target-over-limit',
      joint: mechanism.ids[joint],
      data: {
        step: no,
        joint: mechanism.names[joint],
        value: to[s] / unit,
        by: by / unit,
        side: to[s] > mechanism.upper[s] ? 'max' : 'min',
        unit: mechanism.units[joint],
      },
    };
  }
  return null;
}

export const jointLegProblems = (
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  no: number,
): Problem | null => overLimit(mechanism, to, no) ?? wayProblem(mechanism, from, to, no);

/** The jaw's value (its own unit) for what a grip asks; null where the tool has no table of openings, or none that wide. */
export function jawValue(grip: JawGrip, to: StepOf<'grip'>['to']): number | null {
  if (to === 'open') return grip.open;
  if (to === 'closed') return grip.closed;
  if (typeof to === 'number') return to;
  return 'openingMm' in to ? jawAt(grip, to.openingMm) : jawAround(grip, to.aroundMm);
}

/** Places looked at along the straight way between two poses, where a rule may be broken in between. */
const WAY_SAMPLES = 48;

/**
 * What breaks a rule that depends on several joints, or pulls a delta's forearms apart, at the target or on the straight
 * way to it; null where nothing does. Sums hold on the whole way when they hold at its ends, so that without conditional
 * rules and without a delta the target alone is looked at.
 */
function wayProblem(mechanism: Mechanism, from: Float64Array, to: Float64Array, no: number): Problem | null {
  const samples = mechanism.conditions.length || mechanism.delta ? WAY_SAMPLES : 1;
  const q = to.slice();
  for (let k = samples; k > 0; k--) {
    for (let s = 0; s < q.length; s++) q[s] = from[s] + ((to[s] - from[s]) * k) / samples;
    const { rule, by } = worstRule(mechanism, q);
    if (rule && by > LIMIT_SLACK)
      return {
        code: 'rule-over-limit',
        joint: mechanism.ids[rule.joint],
        data: { step: no, rule: rule.words, by: inOwnUnit(rule, by), unit: rule.unit },
      };
    const gap = mechanism.delta ? deltaForward(mechanism.delta, q).gap : 0;
    if (gap > 0) return { code: 'rods-apart', data: { step: no, byMm: gap / M_PER_MM } };
  }
  return null;
}
