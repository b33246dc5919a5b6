/** What goes over the lines to the boards, word for word, both ways: how it began and the last of it are kept. */
import type { BoardLine } from '@cork-elbow/core/contract';
import type { Link } from './link';

/** Lines kept: of the beginning, in which boards say what they are, and of the end; those between are left out. */
const FIRST = 60;
const LAST = 600;
/** A line that does not end is broken here (characters): noise on a wrong speed has no line ends. */
const LONGEST = 200;
const END = 10;

/** A byte as it is read: printable ASCII as it is, anything else as \x and two hex digits. */
const letter = (byte: number): string =>
  byte >= 32 && byte < 127 ? String.fromCharCode(byte) : `\\x${byte.toString(16).padStart(2, '0')}`;

export class LineLog {
  private readonly first: BoardLine[] = [];
  private readonly last: BoardLine[] = [];
  private no = 0;
  private told = 0;

  /** Boards are connected anew: what was said before is put away. */
  begin(): void {
    this.first.length = this.last.length = 0;
  }
  private add(atMs: number, board: string, way: BoardLine['way'], text: string): void {
    const list = this.first.length < FIRST ? this.first : this.last;
    list.push({ no: ++this.no, atS: atMs / 1000, board, way, text });
    if (this.last.length > LAST) this.last.shift();
  }
  /** Lines since this was asked last; `all`: whatever is kept. */
  take(all = false): BoardLine[] {
    const from = all ? 0 : this.told;
    this.told = this.no;
    return [...this.first, ...this.last].filter(({ no }) => no > from);
  }
  /** The same link, with all that passes read on the way. `nowMs`: the clock that lines are dated by. */
  listen(link: Link, board: string, nowMs: () => number): Link {
    const ears = { out: this.ear(board, 'out', nowMs), in: this.ear(board, 'in', nowMs) };
    return {
      get name() {
        return link.name;
      },
      get failure() {
        return link.failure;
      },
      get isOpen() {
        return link.isOpen ?? true;
      },
      patienceMs: link.patienceMs,
      write(bytes) {
        ears.out(bytes);
        link.write(bytes);
      },
      read() {
        const come = link.read();
        come.forEach(ears.in);
        return come;
      },
      advanceTo: (now) => link.advanceTo(now),
      close: () => link.close(),
      ...(link.trouble ? { trouble: (kind, channel, by) => link.trouble!(kind, channel, by) } : {}),
      ...(link.hold ? { hold: (channel, level) => link.hold!(channel, level) } : {}),
    };
  }
  private ear(board: string, way: BoardLine['way'], nowMs: () => number): (bytes: Uint8Array) => void {
    let text = '';
    return (bytes) => {
      for (const byte of bytes) {
        if (byte !== END) text += letter(byte);
        if (byte !== END && text.length < LONGEST) continue;
        this.add(nowMs(), board, way, text);
        text = '';
      }
    };
  }
}
