/** What is found about what was measured: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry } from '../findings';

export const calibrationFindings = defineFindings({
  'leader-range': entry(
    'look',
    '{leader} and {joint} have only {share:n0} % of the joint’s travel in common.',
    'Take the scale and offset proposed, or move a horn.',
  ),
});
export const { finding } = calibrationFindings;
