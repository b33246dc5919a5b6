/** What is found about calls and runs: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry, error } from '../findings';

export const contractFindings = defineFindings({
  'rig-too-large': error(413, 'The rig document is {gotMb:n1} MB; the most is {maxMb:n1} MB.'),
  'pose-open': error(
    400,
    '{path}: with these motor angles the forearms are {byMm:mm} too short to meet at the platform.',
  ),
  'not-found': error(404, 'There is no {kind} with the id “{id}”.'),
  'no-such-call': error(404, 'There is no such call: {method} {path}.'),
  'bad-json': error(400, 'The body is not valid JSON: {problem}.'),
  'body-missing': error(400, 'This call needs a JSON object as its body.'),
  'ask-one-of': error(400, '{path}: give exactly one of {names}; got {got}.'),
  'measure-range': error(400, '{path} must be {min} to {max} {unit}; got {got}.'),
  'range-reversed': error(400, '{path}: minMm {min:n3} is not below maxMm {max:n3}.'),
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
  'answer-unknown': error(
    502,
    'The server answered something that this page does not know: the two are of different versions.',
    'Reload the page.',
  ),
  rate: error(400, 'sampleMs is {got:n3}; a sample every 1 to 1000 ms is allowed.'),
  'plan-too-long': error(422, 'The plan would have {got} samples; the most is {max}.', 'Take a longer sampleMs.'),
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
});
