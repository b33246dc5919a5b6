import { Matrix4 } from 'three';

/** A transform of the core (rotation row by row, then position) as three's matrix. */
export const toMatrix = (f: ArrayLike<number>, o = 0): Matrix4 =>
  new Matrix4().set(
    f[o],
    f[o + 1],
    f[o + 2],
    f[o + 9],
    f[o + 3],
    f[o + 4],
    f[o + 5],
    f[o + 10],
    f[o + 6],
    f[o + 7],
    f[o + 8],
    f[o + 11],
    0,
    0,
    0,
    1,
  );
