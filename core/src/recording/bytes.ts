/** Rows as bytes: whole numbers of four, the lowest first. */
import { rowLength, type RecordingHead } from './shape';

export function bytesOfRows(rows: Int32Array): Uint8Array {
  const bytes = new Uint8Array(rows.length * 4);
  const view = new DataView(bytes.buffer);
  for (let k = 0; k < rows.length; k++) view.setInt32(k * 4, rows[k], true);
  return bytes;
}
export function rowsOfBytes(bytes: Uint8Array): Int32Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const rows = new Int32Array(Math.floor(bytes.byteLength / 4));
  for (let k = 0; k < rows.length; k++) rows[k] = view.getInt32(k * 4, true);
  return rows;
}

/**
 * The same rows in an order that is easily made small: column by column, of each number how it differs from the one above. Differences
 * are taken modulo 2^32, so that {@link unfolded} gives every row back exactly.
 */
export function folded(head: RecordingHead, rows: Int32Array): Int32Array {
  const width = rowLength(head);
  const count = Math.floor(rows.length / width);
  const out = new Int32Array(count * width);
  for (let column = 0; column < width; column++)
    for (let row = 0; row < count; row++)
      out[column * count + row] = rows[row * width + column] - (row ? rows[(row - 1) * width + column] : 0);
  return out;
}
export function unfolded(head: RecordingHead, differences: Int32Array): Int32Array {
  const width = rowLength(head);
  const count = Math.floor(differences.length / width);
  const out = new Int32Array(count * width);
  for (let column = 0; column < width; column++)
    for (let row = 0; row < count; row++)
      out[row * width + column] = differences[column * count + row] + (row ? out[(row - 1) * width + column] : 0);
  return out;
}
