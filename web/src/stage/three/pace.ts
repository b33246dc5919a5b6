/**
 * When the next picture may be drawn: one at a time, and then the machine has as long for everything else as the last one
 * took, half as long after a coarse one. A fast one draws each time it is asked; a weak one, which draws in software, goes on answering.
 */
export class Pace {
  private begun: { readonly at: number; readonly share: number } | null = null;
  private freeAt = -Infinity;
  private wholeMs = 0;

  /** A picture is begun, of this share of all its points. Times in ms, of any clock that only goes on. */
  begin(at: number, share = 1): void {
    this.begun = { at, share };
  }
  /** It is drawn. */
  end(now: number): void {
    if (!this.begun) return;
    const took = now - this.begun.at;
    // A page that slept meanwhile drew nothing all that time.
    const rest = this.begun.share < COARSE_SHARE ? took / 2 : took;
    this.freeAt = now + Math.min(rest, LONGEST_REST_MS);
    this.wholeMs = took / this.begun.share;
    this.begun = null;
  }
  isFree(now: number): boolean {
    return !this.begun && now >= this.freeAt;
  }
  /** Whether a whole picture takes so long that a motion is better drawn coarse. */
  get isSlow(): boolean {
    return this.wholeMs > SLOW_MS;
  }
}
/** A picture of a lesser share is made so that a motion is seen: after it the machine rests half as long. */
const COARSE_SHARE = 0.5;
/** Half a second without a new picture is what a person still takes for one that is moving. */
export const LONGEST_REST_MS = 500;
/** A picture that takes longer leaves fewer than eight in a second. */
export const SLOW_MS = 60;
