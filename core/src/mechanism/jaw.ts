/** A jaw's value against how wide it is open, along the tool's table of openings: straight between its rows. */
import type { Tool } from '../rig';

export type JawGrip = Extract<NonNullable<Tool['grip']>, { joint: string }>;
interface Row {
  readonly at: number;
  readonly mm: number;
}
const byWidth = ({ openingMm }: JawGrip): Row[] => [...(openingMm ?? [])].sort((a, b) => a.mm - b.mm);

/** The two rows that a width lies between; null without such rows. */
export function rowsAround(grip: JawGrip, mm: number): readonly [Row, Row] | null {
  const table = byWidth(grip);
  const k = table.findIndex((row, i) => i > 0 && row.mm >= mm);
  return k < 0 || mm < table[0].mm ? null : [table[k - 1], table[k]];
}
/** Value (the jaw's unit) at a width; null where its table has none that wide or that narrow. */
export function jawAt(grip: JawGrip, mm: number): number | null {
  const row = grip.openingMm?.find((r) => r.mm === mm);
  if (row) return row.at;
  const rows = rowsAround(grip, mm);
  return rows && rows[0].at + ((rows[1].at - rows[0].at) * (mm - rows[0].mm)) / (rows[1].mm - rows[0].mm);
}
/** How wide (mm) it is open at a value; null outside its table. */
export function openingAt({ openingMm }: JawGrip, at: number): number | null {
  const table = [...(openingMm ?? [])].sort((a, b) => a.at - b.at);
  const k = table.findIndex((row, i) => i > 0 && row.at >= at);
  if (k < 0 || at < table[0].at) return null;
  const [low, high] = [table[k - 1], table[k]];
  return high.at === low.at ? high.mm : low.mm + ((high.mm - low.mm) * (at - low.at)) / (high.at - low.at);
}
/** Where it is sent to close on something so wide: past it by what the tool says, no narrower than it goes. */
export function jawAround(grip: JawGrip, mm: number): number | null {
  if (jawAt(grip, mm) === null) return null;
  return jawAt(grip, Math.max(byWidth(grip)[0].mm, mm - (grip.pastMm ?? 0)));
}
