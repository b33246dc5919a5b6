/** The results of a points table as CSV. */
import { inUnit, type Mechanism } from '../mechanism';
import { csvOf } from '../units/csv';
import { MM_PER_M } from '../units/convert';
import { formatNumber } from '../units/quantity';
import type { PointResult } from './points';

/** RFC 4180 text: a row a point with its verdict, posture, joints (by code name) and what limits it. What points are read by (core/src/imports/points) reads the same ones from it. */
export function pointResultsToCsv(mechanism: Mechanism, results: readonly PointResult[]): string {
  const mm = (v: number): string => formatFixed(v * MM_PER_M, 3);
  const fields = [
    'name',
    'x_mm',
    'y_mm',
    'z_mm',
    'dx',
    'dy',
    'dz',
    'reached',
    'posture',
    'all_postures',
    ...mechanism.slotIds.map((_, s) => {
      const j = mechanism.jointOfSlot[s];
      return `${mechanism.codes[j]}_${mechanism.units[j] === 'mm' ? 'mm' : 'deg'}`;
    }),
    'limit_margin_percent',
    'speed_share_percent',
    'why_not',
  ];
  const data = results.map(({ point, solution, postures, reason, touch, speedShare }) => [
    point.name,
    ...point.position.map(mm),
    ...(point.direction ? point.direction.map((v) => formatFixed(v, 6)) : ['', '', '']),
    !solution ? 'no' : touch ? 'touches' : 'yes',
    solution?.posture ?? '',
    postures.join('; '),
    ...mechanism.slotIds.map((_, s) => (solution ? formatFixed(inUnit(mechanism, s, solution.q[s]), 3) : '')),
    solution ? formatFixed(100 * solution.limitMargin, 1) : '',
    solution && Number.isFinite(speedShare) ? formatFixed(100 * speedShare, 0) : '',
    reason?.message ?? '',
  ]);
  return csvOf(fields, data);
}

const formatFixed = (v: number, digits: number): string => formatNumber(v, digits).replace('−', '-');
