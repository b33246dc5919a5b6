/** What is found about why a target is not reached: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry } from '../findings';

export const kinematicsFindings = defineFindings({
  'too-far': entry('stop', 'Out of reach: the tool stays {byMm:mm} short of it.'),
  'too-near': entry('stop', 'Inside the inner reach: the tool cannot come nearer than {byMm:mm} beside it.'),
  'limit-in-the-way': entry('stop', '{joint} would have to go {byDeg:deg} past its limit.'),
  'turn-in-the-way': entry(
    'stop',
    '{joint} cannot turn that far round: it would have to go {byDeg:deg} past its limit.',
  ),
  'slide-in-the-way': entry('stop', '{joint} cannot go that far: it would have to go {byMm:mm} past its limit.'),
  'direction-out-of-plane': entry(
    'stop',
    'The wanted direction leans {byDeg:deg} out of the plane this arm can work in.',
  ),
  'direction-off': entry(
    'stop',
    'The place can be reached with the tool turned {byDeg:deg} away from the wanted direction.',
  ),
  'rotation-off': entry(
    'stop',
    'Place and direction can be reached with the tool rolled {byDeg:deg} away from the wish.',
  ),
  'few-joints': entry(
    'stop',
    'There are too few joints ({joints}) to turn the tool as asked as well.',
    'Ask for less, or give the arm another joint.',
  ),
  'rule-in-the-way': entry('stop', '{rule} is in the way: it would be passed by {by:u}.'),
  'rod-too-short': entry('stop', 'Out of reach: the forearm on {joint} is {byMm:mm} too short for it.'),
  'rod-too-long': entry('stop', 'Too near: the forearm on {joint} is {byMm:mm} too long for it.'),
  'tool-misses': entry('stop', '{tool} stays {byMm:mm} away from where it should be.'),
  'tool-turned': entry('stop', '{tool} stays turned {byDeg:deg} away from where it should point.'),
  'all-held': entry('stop', 'Every joint that moves this tool is held; let go of one of them.'),
  'speed-only': entry(
    'stop',
    '{joint} has a motor that knows speeds only and cannot be sent to an angle.',
    'Give it a positional servo, a stepper or a motor with feedback.',
  ),
  'target-not-numbers': entry('stop', 'The target is not all numbers; every coordinate is a plain number.'),
  'no-joints': entry('stop', 'No joint moves this tool.'),
});
export const { say } = kinematicsFindings;
