/** What is found about a routine and its plan: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry, error, type Saying } from '../findings';

export const routineFindings = defineFindings({
  'text-step': error(400, '{path}: expected {expected}, found {got}.'),
  'run-not-yet': entry(
    'stop',
    'Step {step} {what}, which a run on a board does not do yet; everything else here does.',
    'Skip such steps to run the rest.',
  ),
  'load-over': entry(
    'look',
    '{joint} is asked for {need:n3} {kind} at {at:s}; it may give {has:n3} {kind} for long.',
    'Less load, a slower step, more gear or a stronger motor: see Load.',
  ),
  'load-stalls': entry(
    'stop',
    '{joint} is asked for {need:n3} {kind} at {at:s}, more than its motor has: it may give {has:n3} {kind}.',
    'Less load, a slower step, more gear or a stronger motor: see Load.',
  ),
  'load-down-only': entry(
    'look',
    '{joint} gets down at {at:s} but not up again: {missing:n3} {kind} are missing.',
    'Less load, more gear, or a spring that helps: see Load.',
  ),
  'grip-stalls': entry(
    'look',
    'Step {step} closes {past:mm} past {payload} and holds it so for {seconds:n1} s: a motor held fast gets hot within seconds.',
    'Close around its width, or stop at a force.',
  ),
  'drive-unfit': entry(
    'stop',
    'The base drives at {at:s} while the arm stands in no pose that is fit for driving.',
    'Move the arm into such a pose before: see Load, Stand.',
  ),
  'drive-unmarked': entry(
    'look',
    'The base drives at {at:s}, and no pose is marked as fit for driving.',
    'Mark the poses in which it may drive: see Load, Stand.',
  ),
  'drive-tips': entry(
    'stop',
    'The base would tip over its wheels by {by:mm} as it brakes or turns on its drive at {at:s}.',
    'Another pose, gentler braking, or wheels further out: see Load, Stand.',
  ),
  'drive-holds': entry(
    'stop',
    'The base drives at {at:s} with {payload} in its hand.',
    'Put it down before, or let the base stand.',
  ),
  'load-tips': entry(
    'stop',
    'The base tips at {at:s}: its load is {by:mm} outside its feet.',
    'Ballast, feet further out, or a slower step: see Load.',
  ),
  'load-lifts-off': entry('stop', 'The base is pulled off the ground at {at:s}.', 'A slower step, or screw it down.'),
  'power-shared': entry(
    'stop',
    'Step {step} lets a joint go or holds it without {joint}, which shares its motors.',
    'Name both joints in the step.',
  ),
  'motors-nowhere': entry(
    'stop',
    'No motor of this rig is on a pin of a board: there is nothing to switch on.',
    'Wire the motors under Motors, Boards & wires.',
  ),
  'signal-nowhere': entry(
    'stop',
    'Step {step} has to do with “{signal}”, which is on no pin of a board.',
    'Give it a board and a pin under Motors, Boards & wires, or skip the step.',
  ),
  'run-lines': entry(
    'stop',
    'Step {step} {what}: the builder’s own lines of “{board}” cannot do that.',
    'Change its lines on the Bench, or skip the step.',
  ),
  'start-unhomed': entry(
    'note',
    '{joint} is moved by counted steps and has no homing: when power comes nothing knows where it stands.',
    'Give it a way of homing.',
  ),
  'start-unplanned': entry(
    'note',
    'No rest pose is named for power-up: the servos jump from where they happen to stand.',
    'Name the pose that the arm rests in.',
  ),
  'pose-unknown': entry('stop', 'Step {step} goes to a pose that is not there any more.', 'Choose a pose for it.'),
  'spot-unknown': entry('stop', 'Step {step} goes to a spot that is not there any more.', 'Choose a spot for it.'),
  'target-unreachable': entry(
    'stop',
    'Step {step} cannot reach {x:n0} / {y:n0} / {z:n0} mm from where the arm comes.',
    'Choose another spot or direction; the Reach page says why.',
  ),
  'arc-flat': entry(
    'stop',
    'Step {step} leads round through places that lie in a line.',
    'Take the place in between further off the line.',
  ),
  'blend-dropped': entry(
    'look',
    'Step {step} stops at its corner: it cannot be rounded before a step with a time, a pace of its own joints, another profile or none.',
    'Take the corner’s radius away, or give both steps a share of the speed.',
  ),
  'grip-on-off': entry('stop', 'Step {step} asks for an opening of a tool that knows only open and closed.'),
  'grip-no-openings': entry(
    'stop',
    'Step {step} asks for an opening that the tool’s table does not have.',
    'Fill in the openings on the Measure page, or choose open or closed.',
  ),
  'spin-has-ends': entry('stop', 'Step {step} spins a joint that cannot turn round and round.'),
  'spin-too-fast': entry('stop', 'Step {step} spins {joint} faster than its {limit:degps}.', 'Give it its limit.'),
  'joint-let-go': entry('stop', 'Step {step} moves {joint}, whose motor was let go.', 'Hold the joint before.'),
  'joint-spins': entry('stop', 'Step {step} moves {joint} while it spins.', 'Stop the spin before.'),
  'joint-in-two': entry(
    'stop',
    'Step {step} lets two routines move {joint} at the same time.',
    'Leave the joint to one of them.',
  ),
  'pattern-empty': entry('stop', 'Step {step} has no places to visit.', 'Give it a grid, a ring or a list.'),
  'end-missing': entry('stop', 'Step {step} opens what no end closes.', 'Add an end.'),
  'end-alone': entry('stop', 'Step {step} ends what nothing opened.', 'Delete it.'),
  'else-alone': entry('stop', 'Step {step} stands in no if.', 'Delete it.'),
  'marker-missing': entry('stop', 'Step {step} jumps to the marker “{name}”, which is not there.', 'Add the marker.'),
  'marker-twice': entry(
    'look',
    'Step {step} is a second marker “{name}”; jumps go to the one at step {other}.',
    'Delete it, or give it another name.',
  ),
  'marker-unused': entry('note', 'Nothing jumps to the marker “{name}” of step {step}.'),
  'return-alone': entry(
    'look',
    'Step {step} returns, but no routine calls this one: the run would simply end there.',
    'Delete it unless that is meant.',
  ),
  'routine-unknown': entry(
    'stop',
    'Step {step} calls a routine that is not there any more.',
    'Choose a routine for it.',
  ),
  'routine-recurs': entry(
    'stop',
    '“{routine}” calls itself, by itself or through others.',
    'Take the call out; repeat instead.',
  ),
  'calls-too-deep': entry('stop', 'Step {step} calls deeper than {most} routines.'),
  'jump-out-of-alongside': entry(
    'stop',
    'Step {step} jumps out of steps that run alongside others.',
    'Put the marker inside.',
  ),
  'loop-without-wait': entry(
    'stop',
    'From step {step} the same comes again without any time passing: it would never do anything else.',
    'Add a wait.',
  ),
  'routine-too-long': entry(
    'stop',
    'At step {step} more than {most:n0} steps have been gone through; no more are planned.',
  ),
  'routine-endless': entry(
    'note',
    'From {from:n1} s on it repeats for ever, every {every:n1} s; one round is planned.',
  ),
  'input-unknown': entry('stop', 'Step {step} asks for an input that is not there.', 'Choose an input.'),
  'output-unknown': entry('stop', 'Step {step} sets an output that is not there.', 'Choose an output.'),
  'wait-without-end': entry('look', 'Step {step} may wait for ever.', 'Give it a time after which the run stops.'),
  'wait-in-vain': entry(
    'note',
    'With these inputs the routine stops at step {step}: what it waits for does not come in time.',
  ),
  'drive-rattles': entry(
    'look',
    'In step {step} the motor of {joint} turns for {seconds:n1} s at a speed at which it rattles.',
    'Take another speed for the step.',
  ),
  'drive-stutters': entry(
    'note',
    'Step {step} is slow for {joint}: each pulse gains as little as {us:n1} µs, less than the motor stirs for, and it goes in small jerks.',
    'Take a higher speed where that shows, or a motor with a smaller dead band.',
  ),
  'wait-longer': entry(
    'note',
    'Step {step} waits {waits:s}; the arm has stopped rocking after {needed:s}.',
    'Shorten it, or note what it waits for.',
  ),
  'settle-missing': entry(
    'look',
    'After step {step} the arm still rocks when the next one begins; it needs {needed:s}.',
    'Add a wait.',
  ),
  'path-slows': entry(
    'note',
    'Step {step} slows down to {share:n0} % of its pace on the way, where {joint} has to turn fast: near there the arm cannot move freely.',
    'Lead the way further from there if that matters.',
  ),
  'low-pass-unsettled': entry(
    'look',
    'Step {step} is left after {takes:s}, before the low pass has settled ({settles:s}): it never quite arrives.',
    'Add a wait, or take a shorter time constant.',
  ),
  'low-pass-first-tick': entry(
    'look',
    'The low pass begins step {step} by asking {value:degps} of {joint}; its motor makes {limit:degps}.',
    'Take a longer time constant, or planned motion.',
  ),
  'jump-unlimited': entry(
    'look',
    'Motors are told each target at once: they go there as fast as they can, past the joints’ limits of speed and acceleration.',
    'Choose planned motion, or a low pass, under Smoothing.',
  ),
  'jump-stepper': entry(
    'stop',
    '{drive} moves {joint} by steps: told in step {step} to be somewhere else at once it loses them.',
    'Choose planned motion under Smoothing.',
  ),
  'park-holding': entry('stop', '“{routine}” folds the arm away while it holds {payload}.', 'Put it down first.'),
  'slowed-for-load': entry(
    'note',
    'Step {step} goes at {share:n0} % of its pace for the sake of {why}.',
    'Less load, more gear or wider feet would let it go as it was asked.',
  ),
  'profile-jump': entry(
    'stop',
    'Step {step} jumps: the motor is asked to be there at once, past every limit of its joints.',
    'Take the S-curve; a jump is for comparing.',
  ),
  'target-over-limit': entry(
    'stop',
    'Step {step} takes {joint} to {value:u}, {by:u} past its limit.',
    'Take the pose again inside the limit.',
  ),
  'target-over-confirmed': entry(
    'stop',
    'Step {step} takes {joint} to {value:u}, {by:u} past what is confirmed of it on this build.',
    'Find how far it goes, on the Bench, or take the pose again.',
  ),
  'rule-over-limit': entry('stop', 'Step {step} goes {by:u} past {rule}.'),
  'rods-apart': entry(
    'stop',
    'Step {step} takes the motors through angles at which the forearms are {byMm:mm} too short to meet.',
    'Go there by way of another pose.',
  ),
  'routine-empty': entry('note', '“{routine}” has no steps yet.', 'Add a step.'),
  'duration-too-short': entry(
    'stop',
    'Step {step} wants {wished:s} for a move that takes at least {least:s}.',
    'Give it the least time.',
  ),
  'grip-no-tool': entry('stop', 'Step {step} works a tool that has no jaw.', 'Choose a tool with a jaw.'),
  'path-nowhere': entry(
    'stop',
    'Step {step} goes straight to where the tool already is.',
    'Choose another target, or skip the step.',
  ),
  'path-no-tool': entry(
    'stop',
    'Step {step} moves a tool straight, but no such tool is mounted.',
    'Mount a tool on the Measure page.',
  ),
  'path-unreachable': entry(
    'stop',
    'The way of step {step} ends {share:n0} % along. {why}',
    'Let the tool keep less of its orientation, take a joint move, or a pose in between.',
  ),
  'path-jumps': entry(
    'stop',
    'On the way of step {step} {joint} would have to jump to another posture {share:n0} % along.',
    'Take a joint move, or begin in the other posture.',
  ),
  'path-other-posture': entry(
    'stop',
    'The way of step {step} ends in another posture than the pose it goes to.',
    'Take the pose again in the posture the arm comes in, or a joint move.',
  ),
  'path-not-straight': entry(
    'stop',
    'The way of step {step} cannot be kept: it is {off:mm} off, near a place where the arm cannot move freely.',
    'Take a joint move, or a way further from there.',
  ),
  'profile-sharp': entry(
    'look',
    'Step {step} starts and stops at full speed: nothing limits its acceleration, and the motor jerks.',
    'Choose another profile unless the jerk is wanted.',
  ),
  contact: entry(
    'look',
    '{first} meets {second} in step {step} after {from:n1} s, up to {depth:mm} deep.',
    'Go there, and lead the arm round it by a pose in between.',
  ),
  'drive-too-slow': entry(
    'look',
    'Step {step} asks {value:degps} of {joint}; its motor makes {limit:degps}.',
    'Slow the step down.',
  ),
  'jump-unverified': entry(
    'stop',
    'Motors that are told each target at once cannot be slowed to the {share:n0} % that an arm keeps to which has not homed.',
    'Say that the arm stands as it is drawn, or choose planned motion under Smoothing.',
  ),
});
export const { finding, findingOf } = routineFindings;
export type RoutineEntries = typeof routineFindings.entries;
/** Something of a routine, said before it is known where. */
export type RoutineSaying<But extends string = never> = Saying<RoutineEntries, But>;
