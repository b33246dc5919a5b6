/** The code that pairs one device, shown on this computer alone; whoever guesses is made to wait. */
import { randomInt } from 'node:crypto';

/** A code holds for so long (ms), and for so many wrong tries. */
export const HOLDS = 600_000;
const TRIES = 8;
/** After a wrong try nothing is looked at for so long (ms), twice as long after each further one, up to the most. */
const FIRST_WAIT = 1000;
const MOST_WAIT = 300_000;
const DIGITS = 8;

export type Tried =
  | { readonly is: 'right' }
  | { readonly is: 'wrong' | 'early'; readonly waitMs: number }
  /** None is shown, or it no longer holds. */
  | { readonly is: 'none' };

export class Pairing {
  private code: { readonly text: string; readonly until: number; left: number } | null = null;
  /** Wrong tries in a row, over all codes: a new code is no new start for whoever guesses. */
  private wrong = 0;
  private openAt = -Infinity;

  /** A new code; the one before holds no longer. */
  show(now: number): string {
    const text = Array.from({ length: DIGITS }, () => randomInt(10)).join('');
    this.code = { text, until: now + HOLDS, left: TRIES };
    return text;
  }
  hide(): void {
    this.code = null;
  }
  /** What is shown, and for how long (ms) it holds. */
  shown(now: number): { readonly text: string; readonly forMs: number } | null {
    if (this.code && (now >= this.code.until || this.code.left <= 0)) this.code = null;
    return this.code && { text: this.code.text, forMs: this.code.until - now };
  }

  try(text: string, now: number): Tried {
    if (now < this.openAt) return { is: 'early', waitMs: this.openAt - now };
    const shown = this.shown(now);
    if (!shown) return { is: 'none' };
    if (text.replace(/\D/g, '') === shown.text) {
      this.wrong = 0;
      this.code = null;
      return { is: 'right' };
    }
    this.code!.left--;
    const waitMs = Math.min(MOST_WAIT, FIRST_WAIT * 2 ** this.wrong++);
    this.openAt = now + waitMs;
    return { is: 'wrong', waitMs };
  }
}
