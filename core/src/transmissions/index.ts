/** The coupling of a transmission as the document has it. */
import type { Transmission } from '../rig/schema';
import type { CouplingResult } from './coupling';
import { fourBarCoupling } from './four-bar';
import { matrixCoupling, ratioCoupling } from './matrix';
import { tableCoupling } from './table';
import { tiltPlateCoupling } from './tilt-plate';

export * from './coupling';
export { invert } from './matrix';
export { fourBarAt, fourBarRates, type FourBar } from './four-bar';

export function couplingOf(transmission: Transmission): CouplingResult {
  switch (transmission.kind) {
    case 'ratio':
      return ratioCoupling(transmission.reduction);
    case 'matrix': {
      const { joints, drives, matrix } = transmission;
      return joints.length === drives.length && matrix.length === joints.length
        ? matrixCoupling(matrix)
        : {
            ok: false,
            fault: { code: 'shape-mismatch', data: { got: `${matrix.length} rows`, want: `${joints.length}` } },
          };
    }
    case 'four-bar':
      return fourBarCoupling(transmission);
    case 'table':
      return tableCoupling(transmission.points);
    default:
      return tiltPlateCoupling(transmission);
  }
}
export { transmissionsFindings } from './findings';
