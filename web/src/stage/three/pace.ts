/**
 * When the next picture may be drawn: one at a time, and then the machine has as long for everything else as the last one
 * took. A fast one draws each time it is asked; a weak one, which draws in software, goes on answering.
 */
export class Pace {
  private begun: number | null = null;
  private freeAt = -Infinity;

  /** A picture is begun. Times in ms, of any clock that only goes on. */
  begin(now: number): void {
    this.begun = now;
  }
  /** It is drawn. */
  end(now: number): void {
    if (this.begun === null) return;
    // A page that slept meanwhile drew nothing all that time.
    this.freeAt = now + Math.min(now - this.begun, LONGEST_REST_MS);
    this.begun = null;
  }
  get isDrawing(): boolean {
    return this.begun !== null;
  }
  isFree(now: number): boolean {
    return this.begun === null && now >= this.freeAt;
  }
}
/** Half a second without a new picture is what a person still takes for one that is moving. */
export const LONGEST_REST_MS = 500;
