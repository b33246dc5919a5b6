/** What is found about a rig document: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, error } from '../findings';

export const rigFindings = defineFindings({
  'rig-format': error(
    400,
    'This is not a rig document of Cork Elbow: its “format” should be “cork-elbow-rig”.',
    'Choose a file that Cork Elbow wrote.',
  ),
  'rig-version-newer': error(
    400,
    'This rig was written by a newer Cork Elbow (document version {got}); this one reads up to version {known}.',
    'Update Cork Elbow and open it again.',
  ),
  'id-twice': error(400, '{path}: the id “{id}” is used twice; every id stands once in its list.'),
  'parent-loop': error(
    400,
    '{path}: the joint “{id}” ends up as its own parent; a chain of parents ends at the base.',
  ),
  'follow-loop': error(400, '{path}: the joint “{id}” follows itself through the joints that it follows.'),
  'axis-zero': error(400, '{path}: the axis has no length; at least one of its three numbers must differ from 0.'),
  'limits-reversed': error(
    400,
    '{path}: the lower limit {min:n3} is not below the upper limit {max:n3}.',
    'Swap the two.',
  ),
  'too-many-joints': error(400, '{path}: {got} joints are more than the {max} that one rig may have.'),
  'id-reserved': error(400, '{path}: the id “{id}” is kept for the moving platform; take another one.'),
  'code-twice': error(400, '{path}: the code name “{code}” already belongs to “{other}”; every joint has its own.'),
  'rule-empty': error(400, '{path}: the rule bounds nothing; it needs a lower or an upper bound.'),
  'frame-points': error(
    400,
    '{path}: the three touched points lie on one line; the third must stand off the line through the first two.',
  ),
  'pulse-reversed': error(
    400,
    '{path}: the shortest pulse {min:n0} µs is not below the longest {max:n0} µs.',
    'Swap the two.',
  ),
  'points-equal': error(
    400,
    '{path}: two calibration points have the same {what}; they must differ to give a direction.',
  ),
  'counts-reversed': error(
    400,
    '{path}: the lowest count {min:n0} is not below the highest {max:n0}.',
    'Swap the two.',
  ),
  'tied-twice': error(400, '{path}: the {kind} “{id}” already belongs to another transmission; each has one.'),
});
export const { fault } = rigFindings;
