/** A link over a stream that takes bytes and gives them whenever it likes: a socket, or a serial port's process. */
import type { Link } from './link';

export interface Stream {
  write(bytes: Uint8Array): void;
  /** What was written still goes out. */
  end(): void;
}

export class StreamLink implements Link {
  failure: string | null = null;
  isOpen = false;
  private readonly come: Uint8Array[] = [];
  private readonly stream: Stream;

  /** `open` begins the stream, and tells the link what becomes of it. */
  constructor(
    readonly name: string,
    readonly patienceMs: number,
    open: (link: StreamLink) => Stream,
  ) {
    this.stream = open(this);
  }

  /** What is written now gets there. */
  opened(): void {
    this.isOpen = true;
  }
  heard(bytes: Uint8Array): void {
    this.opened();
    this.come.push(bytes);
  }
  /** The first reason counts: what comes after it is its consequence. */
  fail(reason: string): void {
    this.failure ??= reason;
  }

  write(bytes: Uint8Array): void {
    if (this.failure === null) this.stream.write(bytes);
  }
  read(): Uint8Array[] {
    return this.come.splice(0);
  }
  advanceTo(): void {}
  close(): void {
    this.stream.end();
  }
}
