/**
 * Tables in flash: of each column the change of its change from frame to frame, in numbers of variable length (seven bits a byte, lowest
 * first, the eighth says that more follow; signs folded into the lowest bit). Every so many frames begins anew with whole values. Between
 * those a frame is a byte: 0 (its numbers follow), or how many frames go on just as the last one did. What switches is a bit each, said as
 * those that changed.
 */

/** Whole numbers of columns by frames, all of one length, and levels by frame. */
export interface Frames {
  readonly columns: readonly Int32Array[];
  /** Bits, the first output in the lowest. */
  readonly levels: Uint32Array;
}

/** Most frames that one byte says go on. */
const MOST_STEADY = 255;

export function pack({ columns, levels }: Frames, restart: number): Uint8Array {
  const bytes: number[] = [];
  const change = columns.map(() => 0);
  let steadyAt = -1;
  for (let f = 0; f < levels.length; f++) {
    if (f % restart === 0) {
      columns.forEach((column, k) => {
        putSigned(bytes, column[f]);
        change[k] = 0;
      });
      putVar(bytes, levels[f]);
      steadyAt = -1;
      continue;
    }
    const now = columns.map((column) => (column[f] - column[f - 1]) | 0);
    const changed = (levels[f] ^ levels[f - 1]) >>> 0;
    if (!changed && now.every((d, k) => d === change[k])) {
      if (steadyAt >= 0 && bytes[steadyAt] < MOST_STEADY) bytes[steadyAt]++;
      else steadyAt = bytes.push(1) - 1;
      continue;
    }
    bytes.push(0);
    now.forEach((d, k) => {
      putSigned(bytes, (d - change[k]) | 0);
      change[k] = d;
    });
    putVar(bytes, changed);
    steadyAt = -1;
  }
  return Uint8Array.from(bytes);
}

/** What {@link pack} made of `count` frames of so many columns. */
export function unpack(bytes: Uint8Array, width: number, count: number, restart: number): Frames {
  const columns = Array.from({ length: width }, () => new Int32Array(count));
  const levels = new Uint32Array(count);
  const change = columns.map(() => 0);
  let at = 0;
  let steady = 0;
  const readVar = (): number => {
    let value = 0;
    for (let shift = 0; ; shift += 7) {
      const byte = bytes[at++];
      value |= (byte & 127) << shift;
      if (byte < 128) return value >>> 0;
    }
  };
  const readSigned = (): number => {
    const value = readVar();
    return (value >>> 1) ^ -(value & 1);
  };
  for (let f = 0; f < count; f++) {
    if (f % restart === 0) {
      steady = 0;
      columns.forEach((column, k) => {
        column[f] = readSigned();
        change[k] = 0;
      });
      levels[f] = readVar();
      continue;
    }
    levels[f] = levels[f - 1];
    if (!steady) {
      steady = bytes[at++];
      if (!steady) {
        columns.forEach((_, k) => (change[k] = (change[k] + readSigned()) | 0));
        levels[f] = (levels[f] ^ readVar()) >>> 0;
        steady = 1;
      }
    }
    steady--;
    columns.forEach((column, k) => (column[f] = column[f - 1] + change[k]));
  }
  return { columns, levels };
}

export const putSigned = (bytes: number[], value: number): void =>
  putVar(bytes, ((value << 1) ^ (value >> 31)) >>> 0);
export function putVar(bytes: number[], value: number): void {
  let rest = value >>> 0;
  for (; rest > 127; rest >>>= 7) bytes.push((rest & 127) | 128);
  bytes.push(rest);
}
