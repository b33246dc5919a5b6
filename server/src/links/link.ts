/** A way to a board: bytes out, bytes in, and the clock that the board lives by. */
export interface Link {
  readonly name: string;
  write(bytes: Uint8Array): void;
  /** Bytes that came in since the last call. */
  read(): Uint8Array[];
  /** Lets the link live up to `now` (ms, its own clock). Real links do nothing here. */
  advanceTo(now: number): void;
  close(): void;
}
