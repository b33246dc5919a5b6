/**
 * Every code that a finding, a reason, a fault or an error can carry, with the sentence people read. Call sites name
 * a code and give its data; nobody writes a sentence anywhere else. docs/messages.md lists the same codes (a test
 * ties the two together).
 *
 * In a sentence `{name}` is filled from the data; `{name:mm}` and its like format a number with its unit.
 */
import { formatAmount, formatNumber } from '../units/quantity';

/** stop: cannot be run; look: wants a look before a run; note: worth knowing. */
export type Severity = 'stop' | 'look' | 'note';
export type Data = Readonly<Record<string, string | number>>;
interface Entry {
  severity: Severity;
  text: string;
  /** HTTP status where the code is an error of a call. */
  status?: number;
  remedy?: string;
}

const entry = (severity: Severity, text: string, remedy?: string): Entry => ({ severity, text, remedy });
const error = (status: number, text: string, remedy?: string): Entry => ({ severity: 'stop', status, text, remedy });

export const catalogue = {
  // The rig document
  shape: error(400, '{path} {problem}.'),
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
  'rig-too-large': error(413, 'The rig document is {gotMb:n1} MB; the most is {maxMb:n1} MB.'),
  'id-twice': error(400, '{path}: the id “{id}” is used twice; every id stands once in its list.'),
  'id-unknown': error(400, '{path}: there is no {kind} with the id “{id}”.'),
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
  'limits-empty': error(
    400,
    '{path}: together with the joints that follow it, “{id}” has no value left inside its limits.',
  ),
  'too-many-joints': error(400, '{path}: {got} joints are more than the {max} that one rig may have.'),
  'id-reserved': error(400, '{path}: the id “{id}” is kept for the moving platform; take another one.'),
  'code-twice': error(400, '{path}: the code name “{code}” already belongs to “{other}”; every joint has its own.'),
  'rule-empty': error(400, '{path}: the rule bounds nothing; it needs a lower or an upper bound.'),
  'delta-open': error(
    400,
    '{path}: the arms cannot meet at the platform in the home position; the forearms are {byMm:mm} too short.',
    'Lengthen the forearms or bring base and platform radius closer together.',
  ),
  'delta-flat': error(
    400,
    '{path}: the three arms hold the platform along one line only; their azimuths must point three ways.',
  ),
  'pose-open': error(
    400,
    '{path}: with these motor angles the forearms are {byMm:mm} too short to meet at the platform.',
  ),
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
  'value-unknown-joint': error(400, '{path}: there is no joint “{id}” in this mechanism.'),

  // Calls
  'not-found': error(404, 'There is no {kind} with the id “{id}”.'),
  'no-such-call': error(404, 'There is no such call: {method} {path}.'),
  'bad-json': error(400, 'The body is not valid JSON: {problem}.'),
  'body-missing': error(400, 'This call needs a JSON object as its body.'),
  'ask-one-of': error(400, '{path}: give exactly one of {names}; got {got}.'),
  'ask-missing': error(400, '{path} is missing: {needs}.'),
  'measure-range': error(400, '{path} must be {min} to {max} {unit}; got {got}.'),
  'tool-none': error(400, '{path}: this arm has no tool to bring anywhere.'),
  'body-too-large': error(413, 'The body is larger than the {maxMb:n1} MB that this call takes.'),
  'host-refused': error(403, 'Calls are taken from this computer only; “{host}” is not one of its names.'),
  'origin-refused': error(403, 'Calls from the page at “{origin}” are not taken.'),
  'revision-conflict': error(
    409,
    'The rig was changed elsewhere: it is at revision {revision}, yours began at {yours}.',
    'Choose which of the two to keep.',
  ),
  'run-busy': error(409, 'Another run is going on; one board carries one run at a time.'),
  'board-absent': error(409, 'No board is connected.', 'Connect one first.'),
  'position-unverified': entry(
    'note',
    'The arm has not homed: the remembered position counts, unverified, and the run keeps to {share:n0} % of its speed.',
    'Look whether the arm stands as it is drawn, and say so on the Bench, to run at full speed.',
  ),
  'run-not-yet': entry(
    'look',
    'Step {step} {what}, which a run on a board does not do yet; everything else here does.',
    'Skip such steps to run the rest.',
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
  'board-empty': error(
    409,
    'No motor of this rig is wired to a board: there is nothing to switch on.',
    'Wire the motors under Motors, Boards & wires.',
  ),
  'board-not-ready': error(
    409,
    'The motors are still being switched on, or stand at neutral without regard to the joints.',
    'Wait until all are on; after neutral, disarm and arm again.',
  ),
  'board-unarmed': error(
    409,
    'The board is not armed; nothing moves before somebody arms it on purpose.',
    'Arm it when fingers are out of the way.',
  ),
  'run-refused': error(409, 'The run was not started: {reason}'),
  'run-unknown': error(
    404,
    'There is no such routine or build in the saved rig.',
    'Save the rig and look which it has.',
  ),
  'run-empty': error(409, 'The routine has nothing to do.', 'Put in a step that moves something.'),
  'run-step-unknown': error(
    409,
    'The step to begin with is not on the routine’s way.',
    'Begin from the start, or from a step that is carried out.',
  ),
  'run-other-rig': error(409, 'The board was connected for another rig.', 'Connect it for this one.'),
  'rig-invalid-stored': error(409, 'The saved rig no longer passes its checks: {reason}'),
  internal: error(500, 'Something went wrong inside; it was written to the log of the server under {id}.'),
  'server-away': error(
    503,
    'The server on this computer does not answer; changes are kept here until it does.',
    'Start it again with npm start.',
  ),
  rate: error(400, 'sampleMs is {got:n3}; a sample every 1 to 1000 ms is allowed.'),
  'plan-too-long': error(422, 'The plan would have {got} samples; the most is {max}.', 'Take a longer sampleMs.'),
  'table-too-long': error(422, 'The table would have {got} rows; the most is {max}.', 'Take fewer rows a second.'),

  // Reaching
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
  'in-the-way': entry('stop', '{first} would stand {byMm:mm} deep in {second}.'),
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
  'signal-not-wired': entry('stop', 'Step {step} uses “{name}”, which is on no pin.', 'Wire it on the Motors page.'),
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
  'text-step': error(400, '{path}: expected {expected}, found {got}.'),
  'park-holding': entry('stop', '“{routine}” folds the arm away while it holds {payload}.', 'Put it down first.'),
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
  'address-twice': entry(
    'stop',
    '{first} and {second} have the same bus address {address}; both would answer at once.',
    'Give one of them another address, or put it behind a multiplexer.',
  ),
  'step-rate-over': entry(
    'look',
    'At its top speed {joint} wants {value:n0} steps a second; {drive} follows {max:n0}, which allows {speed:n1} {unit}.',
    'Lower the joint’s speed limit, take fewer microsteps or less reduction.',
  ),
  'joint-without-motor': entry('look', '{joint} has no motor yet.', 'Give it one on the Motors page.'),
  'neutral-past-limit': entry(
    'look',
    'When power comes without a plan, {drive} takes {joint} to {at:n1}{unit}, past its limit at {limit:n1}{unit}.',
    'Put the horn on another tooth, or say what the motor really does.',
  ),
  'spin-past-motor': entry(
    'look',
    '{joint} may turn at {speed:n0} {unit}, but {drive} makes at most {most:n0} {unit} both ways round.',
    'Lower the joint’s speed limit, or measure the motor’s speeds.',
  ),
  'stop-unmeasured': entry(
    'note',
    '{drive} stands at the pulse of its figures; it has not been found out whether it creeps there.',
    'Find the pulse at which it stands.',
  ),
  'motor-unwired': entry('look', '{drive} is not on any pin.', 'Choose its board and pin.'),
  'channel-twice': entry(
    'stop',
    '{first} and {second} are on the same pin {channel} of {board}.',
    'Move one of them to a free pin.',
  ),
  'channel-missing': entry(
    'stop',
    '{drive} is on pin {channel}, which {board} does not have.',
    'Choose a pin that it has.',
  ),
  'pin-unable': entry('stop', '{what} is on pin {pin} of {board}, which cannot {job}; {fit}.', 'Choose another pin.'),
  'pin-jitters': entry(
    'look',
    'Pin {pin} of {board} is timed by software: the pulse of {what} wanders by ±{jitter:us}, which is {value:u} at the joint.',
    'Take a pin with pulses of its own, or a PWM driver.',
  ),
  'pin-reserved': entry(
    'stop',
    '{what} is on pin {pin} of {board}, which is kept for {reserved}.',
    'Choose another pin.',
  ),
  'pin-boot': entry(
    'look',
    'Pin {pin} of {board} pulses while the board starts, so {what} twitches at power-up.',
    'Choose another pin, or give the motors power after the board has started.',
  ),
  'signal-unwired': entry('look', '{signal} is on no pin yet.', 'Choose its board and pin.'),
  'polarity-unknown': entry(
    'look',
    'Whether {signal} is on at a high or a low level has not been found out.',
    'Try it with nothing else connected and set it in the wiring table.',
  ),
  'input-floats': entry(
    'look',
    '{signal} floats while its switch is open: nothing holds the line, and it reads as anything.',
    'Add a resistor to supply or ground, or turn on the board’s own.',
  ),
  'output-boot-on': entry(
    'stop',
    '{signal} is on from power-up until the program runs: pin {pin} is {level} then.',
    '{advice}',
  ),
  'output-boot-unknown': entry(
    'look',
    '{signal} may be on from power-up until the program runs: nothing decides the level of pin {pin} then.',
    '{advice}',
  ),
  'board-without-host': entry(
    'stop',
    '{board} hangs on no other board; a PWM driver needs one that speaks to it.',
    'Choose the board whose bus it is on.',
  ),
  'rail-missing': entry('look', '{drive} is on no supply rail.', 'Choose its rail in the wiring table.'),
  'voltage-high': entry(
    'stop',
    '{drive} is made for {wants:n1} V, but {rail} gives {volts:n1} V.',
    'Give it a rail or converter of its own voltage.',
  ),
  'voltage-low': entry(
    'look',
    '{drive} is made for {wants:n1} V, but {rail} gives only {volts:n1} V: slower and weaker than its figures.',
  ),
  'rail-on-board': entry(
    'stop',
    '{drive} hangs on the regulator of {board}, which gives {gives:n1} A for everything; the motor alone takes {takes:n1} A when it stalls.',
    'Give the motors a fused supply of their own and join its ground to the board’s.',
  ),
  'ground-open': entry(
    'stop',
    'The ground of {rail} is not joined to the boards’: pulses have nothing to be measured against.',
    'Join the grounds at one point.',
  ),
  'steps-over-ceiling': entry(
    'look',
    'With every axis at top speed {board} would make {wanted:n0} steps a second; it makes {most:n0}. Together that allows {joint} {speed:n1} {unit} of its {top:n1}.',
    'Lower the joints’ speeds, take fewer microsteps, or share the axes out over two boards.',
  ),
  'pulse-rate-over': entry(
    'look',
    '{drive} is to get {wants:n0} pulses a second; {board} makes {most:n0} at most.',
    'Set the motor’s pulses a second lower.',
  ),
  'pulse-rates-differ': entry(
    'look',
    '{board} has one pulse rate for all its channels, but {first} is set to {fast:n0} a second and {second} to {slow:n0}.',
    'Give them one rate that both take, or another board.',
  ),
  'homing-without-input': entry(
    'look',
    '{joint} is to find itself by a switch, but no wired input is chosen for it.',
    'Choose the input, or another way of homing.',
  ),
  'homing-outside': entry(
    'look',
    'The switch of {joint} trips at {at:u}, outside its limits from {low:u} to {high:u}.',
    'Correct the value at the trip point, or the limits.',
  ),
  'loop-over': entry(
    'look',
    'One round of {board} takes {used:n1} ms (sensors {reads:n1}, maths {maths:n1}, steps {steps:n1}); it is due every {every:n1} ms.',
    'Read sensors less often, lower step rates, or lengthen the round.',
  ),
  'leader-range': entry(
    'look',
    '{leader} and {joint} have only {share:n0} % of the joint’s travel in common.',
    'Take the scale and offset proposed, or move a horn.',
  ),
  uncalibrated: entry(
    'note',
    '{drive} runs on its nominal figures; no angle has been measured yet.',
    'Measure two points.',
  ),
  'jump-unverified': entry(
    'stop',
    'Motors that are told each target at once cannot be slowed to the {share:n0} % that an arm keeps to which has not homed.',
    'Say that the arm stands as it is drawn, or choose planned motion under Smoothing.',
  ),
  'run-held-back': entry('stop', 'A set point past a limit was held back; the run has ended.'),
  'board-refused': entry('stop', 'The board refused: {reason}.'),
  'board-lost': entry(
    'stop',
    'The board stopped answering {ms:n0} ms ago; what it was last told is all it knows.',
    'Look at the arm before you connect again.',
  ),
  'board-none': entry('stop', 'This rig has no board to connect to.', 'Add one under Motors, Boards & wires.'),
  'link-failed': entry(
    'stop',
    'The line to the board failed: {reason}.',
    'Look at the arm before you connect again.',
  ),
  'run-dry': entry(
    'look',
    'The board had played all it was sent and stood still for a moment: the computer, the line or the board was late.',
  ),
  'run-stalled': entry(
    'look',
    'The computer was busy for {ms:n0} ms; the run was shifted by as much, nothing was sent twice.',
  ),
} as const satisfies Record<string, Entry>;

export type Code = keyof typeof catalogue;
export const codes = Object.keys(catalogue) as Code[];
export const info = (code: Code): Entry => catalogue[code];

const formats: Record<string, (v: number) => string> = {
  mm: (v) => `${formatAmount(v)} mm`,
  deg: (v) => `${formatAmount(v)}°`,
  degps: (v) => `${formatNumber(v, 0)}°/s`,
  us: (v) => `${formatNumber(v, 0)} µs`,
  s: (v) => `${formatNumber(v, 2)} s`,
  n0: (v) => formatNumber(v, 0),
  n1: (v) => formatNumber(v, 1),
  n3: (v) => formatNumber(v, 3),
};

/** The sentence of a code with its data filled in. `{x:u}` takes its unit from the data entry `unit` (° or mm). */
/** What helps against it, with its figures; undefined where nothing is to be said. */
export const remedyOf = (code: Code, data: Data = {}): string | undefined => {
  const { remedy } = catalogue[code];
  return remedy && filled(remedy, data);
};

export const say = (code: Code, data: Data = {}): string => filled(catalogue[code].text, data);

let isStrict = false;
/** For tests: a sentence whose figure was not given is an error there; for people it has a question mark in its place. */
export const strictSentences = (): void => void (isStrict = true);

function filled(text: string, data: Data): string {
  return text.replace(/\{(\w+)(?::(\w+))?\}/g, (_, name: string, format?: string) => {
    const value = data[name];
    if (isStrict && value === undefined) throw new Error(`“${text}” was said without its ${name}`);
    if (typeof value !== 'number') return String(value ?? '?');
    if (format === 'u') return data.unit === 'mm' ? formats.mm(value) : formats.deg(value);
    return format ? formats[format](value) : formatNumber(value, 3);
  });
}
