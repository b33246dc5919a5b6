/** What is found about motors and how the arm is brought in: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry } from '../findings';

export const bringUpFindings = defineFindings({
  'pulse-over-limit': entry(
    'stop',
    '{joint} would need a pulse of {value:us} at {at:u}; its motor takes {min:us} to {max:us}.',
    'Check the two points or the joint’s limits.',
  ),
  'linkage-short': entry(
    'stop',
    'The linkage of {joint} cannot follow to {at:u}: it comes too near a dead point there.',
    'Narrow the joint’s limits or change the linkage.',
  ),
  'count-over-limit': entry(
    'stop',
    '{joint} would need {value:n0} {unit} at {at:n1}; its motor takes {min:n0} to {max:n0}.',
    'Check the centre, the counts or the joint’s limits.',
  ),
  'joint-without-motor': entry('look', '{joint} has no motor yet.', 'Give it one on the Motors page.'),
  'neutral-past-limit': entry(
    'look',
    'When power comes without a plan, {drive} takes {joint} to {at:n1}{unit}, past its limit at {limit:n1}{unit}.',
    'Put the horn on another tooth, or say what the motor really does.',
  ),
  'stop-unmeasured': entry(
    'note',
    '{drive} stands at the pulse of its figures; it has not been found out whether it creeps there.',
    'Find the pulse at which it stands.',
  ),
  uncalibrated: entry(
    'note',
    '{drive} runs on its nominal figures; no angle has been measured yet.',
    'Measure two points.',
  ),
});
export const { finding } = bringUpFindings;
