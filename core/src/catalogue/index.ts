/** Every code that a finding, a reason, a fault or an error can carry, of all subjects; docs/messages.md lists the same. */
import { bringUpFindings } from '../bring-up';
import { calibrationFindings } from '../calibration';
import { contractFindings } from '../contract';
import { kinematicsFindings } from '../kinematics';
import { mechanismFindings } from '../mechanism';
import { reachFindings } from '../reach';
import { rigFindings } from '../rig';
import { routineFindings } from '../routine';
import { transmissionsFindings } from '../transmissions';
import { wiringFindings } from '../wiring';
import { exportsFindings } from '../exports';
import { importsFindings } from '../imports';
import { filled, general, type Data, type Entry } from '../findings';

/** What each subject says. */
export const subjects = [
  general,
  rigFindings.entries,
  transmissionsFindings.entries,
  mechanismFindings.entries,
  contractFindings.entries,
  kinematicsFindings.entries,
  reachFindings.entries,
  calibrationFindings.entries,
  wiringFindings.entries,
  bringUpFindings.entries,
  routineFindings.entries,
  exportsFindings.entries,
  importsFindings.entries,
];
export const catalogue = {
  ...general,
  ...rigFindings.entries,
  ...transmissionsFindings.entries,
  ...mechanismFindings.entries,
  ...contractFindings.entries,
  ...kinematicsFindings.entries,
  ...reachFindings.entries,
  ...calibrationFindings.entries,
  ...wiringFindings.entries,
  ...bringUpFindings.entries,
  ...routineFindings.entries,
  ...exportsFindings.entries,
  ...importsFindings.entries,
};

export type Code = keyof typeof catalogue;
export const codes = Object.keys(catalogue) as Code[];
/** Severity, sentence, status and remedy of a code; undefined for one that is in no catalogue. */
export const info = (code: string): Entry | undefined =>
  Object.hasOwn(catalogue, code) ? catalogue[code as Code] : undefined;

/** The sentence of a code whose figures are known only as the program runs. */
export const sentenceOf = (code: Code, data: Data = {}): string => filled(catalogue[code].text, data);

/** What helps against it, with its figures; undefined where nothing is to be said. */
export function remedyOf(code: string, data: Data = {}): string | undefined {
  const remedy = info(code)?.remedy;
  return remedy && filled(remedy, data);
}
