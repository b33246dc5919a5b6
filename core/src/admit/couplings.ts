/** Transmissions that can work: each of them makes a coupling between its motors and its joints. */
import type { Fault } from '../findings';
import type { Rig } from '../rig';
import { couplingOf, transmissionsFindings } from '../transmissions';

/** Key of a transmission that a fault of its coupling is about. */
const keyOf: Readonly<Record<string, string>> = {
  'ratio-zero': '.reduction',
  'matrix-singular': '.matrix',
  'table-not-rising': '.points',
};

export function checkCouplings({ transmissions }: Pick<Rig, 'transmissions'>): Fault[] {
  return transmissions.flatMap((transmission, i) => {
    const built = couplingOf(transmission);
    if (built.ok) return [];
    const path = `transmissions[${i}]${keyOf[built.fault.code] ?? ''}`;
    return [transmissionsFindings.faultOf(built.fault, path, 'a transmission that works', 'one that does not')];
  });
}
