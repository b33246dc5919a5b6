/** What is found about what ties motors to joints: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, error } from '../findings';

export const transmissionsFindings = defineFindings({
  'matrix-singular': error(
    400,
    '{path}: the matrix has no inverse: some joint could move without any motor, or two motors always move alike.',
  ),
  'shape-mismatch': error(
    400,
    '{path}: the transmission has {got}, but needs {want}: a row a motor, a column a joint.',
  ),
  'four-bar-open': error(
    400,
    '{path}: with these lengths the linkage cannot close at the motor’s zero, or stands within {marginDeg:n1}° of a dead point there.',
    'Change a length, the zero angles or the branch.',
  ),
  'table-not-rising': error(
    400,
    '{path}: at {at:n1}° of the motor the joint does not go on in the same direction; a table must rise or fall throughout.',
  ),
  'plate-open': error(
    400,
    '{path}: with the plate level the rods do not meet both horns and plate, or cannot tilt it both ways.',
  ),
  'ratio-zero': error(400, '{path}: the reduction is 0; the motor would never move the joint.'),
});
