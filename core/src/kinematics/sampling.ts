/** Evenly spread joint values without chance: a Kronecker sequence over the joints' ranges (Roberts 2018). */
import type { CompiledTool, Mechanism } from '../mechanism';

/** Range (SI) that an unbounded joint is sampled over: one turn, or a metre. */
const OPEN = { turning: 2 * Math.PI, sliding: 1 };

/** The root of x^(d+1) = x + 1 above 1, whose powers make the steps of the sequence in d dimensions. */
export function plasticRoot(d: number): number {
  let x = 1.3;
  for (let i = 0; i < 40; i++) x -= (x ** (d + 1) - x - 1) / ((d + 1) * x ** d - 1);
  return x;
}

export interface Sampler {
  /** Slots that are sampled. */
  readonly slots: readonly number[];
  /** Writes sample i of the sequence to those slots of q (SI). */
  into(q: Float64Array, i: number): void;
}

/** Samples of the slots that move a tool but for those `without`; `seed` shifts the sequence. */
export const samplerOf = (
  mechanism: Mechanism,
  tool: CompiledTool,
  seed: number,
  without: ReadonlySet<number> = new Set(),
): Sampler =>
  slotSampler(
    mechanism,
    Array.from(tool.slots).filter((s) => !without.has(s)),
    seed,
  );

/** Samples of whole poses. */
export const poseSampler = (mechanism: Mechanism, seed: number): Sampler =>
  slotSampler(
    mechanism,
    Array.from({ length: mechanism.m }, (_, s) => s),
    seed,
  );

/** Samples of these slots. */
export function slotSampler(mechanism: Mechanism, slots: readonly number[], seed: number): Sampler {
  const root = plasticRoot(Math.max(1, slots.length));
  const steps = Float64Array.from(slots, (_, k) => root ** -(k + 1));
  const shift = Float64Array.from(slots, (_, k) => (0.5 + seed * 0.7548776662 * (k + 1)) % 1);
  const [low, range] = [new Float64Array(slots.length), new Float64Array(slots.length)];
  slots.forEach((s, k) => {
    const bounded = Number.isFinite(mechanism.upper[s] - mechanism.lower[s]);
    const open = mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? OPEN.sliding : OPEN.turning;
    low[k] = bounded ? mechanism.lower[s] : mechanism.home[s] - open / 2;
    range[k] = bounded ? mechanism.upper[s] - mechanism.lower[s] : open;
  });
  return {
    slots,
    into(q, i) {
      for (let k = 0; k < slots.length; k++) {
        const share = shift[k] + (i + 1) * steps[k];
        q[slots[k]] = low[k] + range[k] * (share - Math.floor(share));
      }
    },
  };
}
