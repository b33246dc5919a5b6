/**
 * Limits of the independent joints: their own, tightened by joints that follow them and by cables; what depends on
 * several joints becomes rules.
 */
import { limitsOf, isMoving, followsOf, type MovingJoint, type TreeDoc, type Joint } from '../rig';
import { M_PER_MM, RAD_PER_DEG } from '../units/convert';
import { formatAmount, formatNumber } from '../units/quantity';
import { siPerUnitOf, type Row } from './convert';
import type { ConditionalRule, LimitRule, Mechanism, Terms } from './mechanism';

type Named = Pick<LimitRule, 'words' | 'unit'>;
const spaced = (unit: '°' | 'mm'): string => (unit === 'mm' ? ' mm' : unit);
type Limits = Pick<Mechanism, 'lower' | 'upper' | 'speed' | 'accel' | 'jerk' | 'continuous' | 'rules' | 'conditions'>;

export function compileLimits(
  doc: TreeDoc,
  sorted: readonly Joint[],
  independent: readonly MovingJoint[],
  rows: readonly Row[],
  index: ReadonlyMap<string, number>,
): Limits {
  const own = independent.map((joint) => ({ limits: limitsOf(joint), unit: siPerUnitOf(joint) }));
  const column = (key: keyof (typeof own)[0]['limits']): Float64Array =>
    Float64Array.from(own, ({ limits, unit }) => limits[key] * unit);
  const [lower, upper] = [column('min'), column('max')];
  const [speed, accel, jerk] = [column('maxSpeed'), column('maxAccel'), column('maxJerk')];
  const rules: LimitRule[] = [];
  const conditions: ConditionalRule[] = [];
  const rowOf = (id: string): Row => rows[index.get(id)!];
  const termsOf = (map: ReadonlyMap<number, number>): Terms =>
    [...map].map(([slot, factor]) => ({ slot, factor })).filter((t) => t.factor !== 0);

  const unitText = (j: number): '°' | 'mm' => (sorted[j].type === 'prismatic' ? 'mm' : '°');
  const nameOf = (id: string): string => sorted[index.get(id)!].name ?? id;
  const limitOf = (j: number): Named => ({ words: `the limit of ${nameOf(sorted[j].id)}`, unit: unitText(j) });
  /** Shoulder + Elbow, Shoulder − 0.5 × Elbow. */
  const sumWords = (terms: readonly { joint: string; factor: number }[]): string =>
    terms
      .map(({ joint, factor }, k) => {
        const size = Math.abs(factor) === 1 ? '' : `${formatNumber(Math.abs(factor), 3)} × `;
        const sign = factor < 0 ? (k ? ' − ' : '−') : k ? ' + ' : '';
        return `${sign}${size}${nameOf(joint)}`;
      })
      .join('');

  /** Bounds on a sum: of one slot they tighten its limits, of several they are a rule. */
  function bound(terms: Terms, min: number, max: number, joint: number, named: Named): void {
    if (terms.length === 1) {
      const { slot, factor } = terms[0];
      const [a, b] = factor > 0 ? [min / factor, max / factor] : [max / factor, min / factor];
      lower[slot] = Math.max(lower[slot], a);
      upper[slot] = Math.min(upper[slot], b);
    } else if (terms.length > 1 && (Number.isFinite(min) || Number.isFinite(max)))
      rules.push({ terms, min, max, joint, ...named });
  }

  sorted.forEach((joint, j) => {
    if (!isMoving(joint) || !followsOf(joint)) return;
    const unit = siPerUnitOf(joint);
    const { min, max } = limitsOf(joint);
    const terms = termsOf(rows[j].terms);
    bound(terms, min * unit - rows[j].offset, max * unit - rows[j].offset, j, limitOf(j));
    if (terms.length !== 1) return;
    const { slot, factor } = terms[0];
    const share = unit / Math.abs(factor);
    const given = joint.limits;
    if (given?.maxSpeed) speed[slot] = Math.min(speed[slot], given.maxSpeed * share);
    if (given?.maxAccel) accel[slot] = Math.min(accel[slot], given.maxAccel * share);
    if (given?.maxJerk) jerk[slot] = Math.min(jerk[slot], given.maxJerk * share);
  });

  const unitOfId = (id: string): number => siPerUnitOf(sorted[index.get(id)!]);
  for (const rule of doc.limitRules) {
    if ('terms' in rule) {
      // Written in the joints' own units; the sum is scaled by the first joint's.
      const unit = unitOfId(rule.terms[0].joint);
      const sum = new Map<number, number>();
      let shift = 0;
      for (const { joint: id, factor } of rule.terms) {
        const f = (factor * unit) / unitOfId(id);
        shift += f * rowOf(id).offset;
        for (const [s, g] of rowOf(id).terms) sum.set(s, (sum.get(s) ?? 0) + f * g);
      }
      const first = index.get(rule.terms[0].joint)!;
      bound(termsOf(sum), rule.min * unit - shift, rule.max * unit - shift, first, {
        words: `the limit of ${sumWords(rule.terms)}`,
        unit: unitText(first),
      });
      continue;
    }
    const when = rowOf(rule.while.joint);
    const row = rowOf(rule.joint);
    const unit = unitOfId(rule.joint);
    const above = 'above' in rule.while;
    const threshold = 'above' in rule.while ? rule.while.above : rule.while.below;
    conditions.push({
      when: termsOf(when.terms),
      above,
      threshold: threshold * unitOfId(rule.while.joint) - when.offset,
      terms: termsOf(row.terms),
      min: (rule.min ?? -Infinity) * unit - row.offset,
      max: (rule.max ?? Infinity) * unit - row.offset,
      joint: index.get(rule.joint)!,
      words: `${limitOf(index.get(rule.joint)!).words} while ${nameOf(rule.while.joint)} is ${above ? 'above' : 'below'} ${formatAmount(threshold)}${spaced(unitText(index.get(rule.while.joint)!))}`,
      unit: unitText(index.get(rule.joint)!),
    });
  }

  // Σ rᵢ·|θᵢ − nᵢ| ≤ slack is one two-sided rule for each choice of signs, the first one taken as plus.
  for (const { name, around, slackMm } of doc.cables ?? []) {
    for (let signs = 0; signs < 1 << (around.length - 1); signs++) {
      const sum = new Map<number, number>();
      let shift = 0;
      around.forEach(({ joint, radiusMm, neutral }, k) => {
        const f = radiusMm * M_PER_MM * (k > 0 && (signs >> (k - 1)) & 1 ? -1 : 1);
        shift += f * (rowOf(joint).offset - neutral * RAD_PER_DEG);
        for (const [s, g] of rowOf(joint).terms) sum.set(s, (sum.get(s) ?? 0) + f * g);
      });
      const slack = slackMm * M_PER_MM;
      const first = index.get(around[0].joint)!;
      bound(termsOf(sum), -slack - shift, slack - shift, first, { words: `the slack of ${name}`, unit: 'mm' });
    }
  }

  // A joint that turns without end but for a cable has limits after all.
  const continuous = Uint8Array.from(independent, (joint, s) =>
    Number(joint.type === 'continuous' && !Number.isFinite(upper[s] - lower[s])),
  );
  return { lower, upper, speed, accel, jerk, continuous, rules, conditions };
}
