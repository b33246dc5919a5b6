/** Conversions between what people type and SI. The core computes in m, rad, s, kg, N, N·m; documents say mm, °, s, g. */

export const RAD_PER_DEG = Math.PI / 180;
export const DEG_PER_RAD = 180 / Math.PI;
export const M_PER_MM = 1e-3;
export const MM_PER_M = 1e3;
export const GRAVITY = 9.80665;

export const toRad = (deg: number): number => deg * RAD_PER_DEG;
export const toDeg = (rad: number): number => rad * DEG_PER_RAD;
const KG_PER_G = 1e-3;
export const toKg = (g: number): number => g * KG_PER_G;
export const toM = (mm: number): number => mm * M_PER_MM;
export const toMm = (m: number): number => m * MM_PER_M;

/** Rounds a computed value for the document: 0.001° or 0.001 mm, and never −0. */
export const roundForDocument = (value: number): number => Math.round(value * 1000) / 1000 + 0;
