/** Stretches of rows that come several times over, kept once. */

/** After row `last` it goes back to row `first`, until those rows were done `times` times. Rows by their place among those kept. */
export interface Fold {
  readonly first: number;
  readonly last: number;
  readonly times: number;
}
export interface Folded {
  /** The rows that are kept, by their place among all. */
  readonly kept: readonly number[];
  readonly folds: readonly Fold[];
}

/** Longest stretch that is looked for. */
const LONGEST = 400;

/** Rows are the same where their keys are. From the first row on, always the stretch that saves most. */
export function fold(keys: readonly string[]): Folded {
  const kept: number[] = [];
  const folds: Fold[] = [];
  const known = new Map<string, number>();
  const rows = keys.map((key) => known.get(key) ?? (known.set(key, known.size), known.size - 1));
  for (let at = 0; at < rows.length;) {
    let best = { length: 1, times: 1 };
    for (let length = 1; length <= Math.min(LONGEST, (rows.length - at) >> 1); length++) {
      if (rows[at] !== rows[at + length]) continue;
      let same = 1;
      while (at + length + same < rows.length && rows[at + same] === rows[at + length + same]) same++;
      const times = 1 + Math.floor(same / length);
      if (length * (times - 1) > best.length * (best.times - 1)) best = { length, times };
    }
    const first = kept.length;
    for (let k = 0; k < best.length; k++) kept.push(at + k);
    if (best.times > 1) folds.push({ first, last: kept.length - 1, times: best.times });
    at += best.length * best.times;
  }
  return { kept, folds };
}

/** The rows in the order in which they are done: {@link fold} undone. */
export function unfold({ kept, folds }: Folded): number[] {
  const rows: number[] = [];
  for (let k = 0; k < kept.length; k++) {
    rows.push(kept[k]);
    const done = folds.find(({ last }) => last === k);
    for (let n = 1; done && n < done.times; n++) rows.push(...kept.slice(done.first, done.last + 1));
  }
  return rows;
}
