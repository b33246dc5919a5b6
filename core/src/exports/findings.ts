/** What is missing for a file: sentence and remedy of each code, and what makes findings of them. */
import { defineFindings, error } from '../findings';

export const exportsFindings = defineFindings({
  'export-no-routine': error(
    422,
    'There is no motion to hand off yet.',
    'Write a routine with at least one move, under Routine.',
  ),
  'export-no-motors': error(
    422,
    'No motor moves a joint yet: there is nobody to send commands to.',
    'Give the joints their motors under Motors.',
  ),
  'table-too-long': error(422, 'The table would have {got} rows; the most is {max}.', 'Take fewer rows a second.'),
  'table-not-whole': error(
    422,
    'A C header holds whole numbers: µs, steps, counts, their changes, or counts of 4096.',
    'Take one of those, or another kind of file.',
  ),
  'table-not-folded': error(
    422,
    'A C header holds every row; loops kept once are for CSV and JSON.',
    'Take only poses, or the player that works its steps out.',
  ),
  'export-no-tool': error(
    422,
    'The arm has no tool that such a table could end at.',
    'Add one under Measure, Tools.',
  ),
  'export-no-dh': error(
    422,
    'No Denavit–Hartenberg table describes the way to {tool}: a joint on it follows others, or none moves it.',
  ),
  'firmware-no-board': error(
    422,
    'There is no board that a program could run on.',
    'Add one under Motors, Boards & wires.',
  ),
  'firmware-no-motors': error(
    422,
    'No motor is wired to {board}.',
    'Wire the motors to its pins, or to those of a driver that hangs on it.',
  ),
  'firmware-strange': error(
    422,
    '{drive} is not driven by firmware for {board}: it drives servos on pins of its own, servos on 12-bit drivers that hang on it, steppers with a step and a direction pin of its own, and motors with an encoder with pins for duty, direction and both tracks.',
    'Wire it so, or take another board.',
  ),
  'firmware-counts': error(
    422,
    'At its full speed {drive} has {got:n0} counts a second; {board} reads its tracks often enough for {max:n0}.',
    'Take a faster board, or an encoder with fewer counts.',
  ),
  'firmware-duty-pin': error(
    422,
    '{drive} has its duty on pin {pin} of {board}, whose timer {by} needs; no duty comes out there.',
    'Give it another pin.',
  ),
  'firmware-rates': error(
    422,
    'All channels of {board} have one pulse rate, and its motors want {rates} a second.',
    'Give them one rate.',
  ),
  'firmware-no-knobs': error(
    422,
    'No knob leads a joint yet: there is nothing for {board} to follow.',
    'Add a sensor under Boards & wires, and say under Guide which joint follows it.',
  ),
  'firmware-knob': error(
    422,
    '{knob} leads a joint that no motor of {board} moves alone, or is on no pin of it.',
    'Wire both to this board.',
  ),
  'firmware-no-sticks': error(
    422,
    'No stick pushes {tool} yet: {board} has nothing to steer by.',
    'Add sensors on its pins under Boards & wires, and choose here which way each of them pushes.',
  ),
  'firmware-stick': error(
    422,
    '{stick} is to push the tool and is on no pin of {board}.',
    'Wire it to this board, or take another one.',
  ),
  'firmware-stick-twice': error(
    422,
    '{first} and {second} are read from one pin: they would push together.',
    'Give each of them a pin of its own.',
  ),
  'firmware-push': error(
    422,
    'A stick {does} the hand, and {tool} has no joint for that.',
    'Choose no stick for it.',
  ),
  'firmware-steer-form': error(
    422,
    'The joints of {tool} have no closed form of those that {board} works out: a turn or a slide with two or three parallel joints, with or without a roll at the end; six joints with the last three axes in one point; a delta.',
    'Let knobs lead its joints, or steer it from the Bench.',
  ),
  'firmware-steer-joint': error(
    422,
    '{joint}, which {tool} needs, is brought to places by no motor of {board}.',
    'Wire its motor to this board.',
  ),
  'firmware-steer-motor': error(
    422,
    '{drive} moves several joints at once, by rods or with some that are none of {tool}: {board} does not work that out.',
    'Let knobs lead its joints, or steer it from the Bench.',
  ),
  'firmware-steer-rule': error(
    422,
    'The limit “{rule}” mixes joints of {tool} with others: {board} could not hold to it.',
    'Let knobs lead its joints, or steer it from the Bench.',
  ),
  'firmware-steer-rest': error(
    422,
    '“{rule}” does not hold where the motors of {board} come on, and none of the kept poses that have a letter holds to all limits: sticks would lead nothing.',
    'Keep a pose that does, among the first nine.',
  ),
  'firmware-registers': error(
    422,
    '{board} moves {got} joints by a motor of their own; registers are for 1 to {max}.',
    'Joints that share their motors are driven from here instead.',
  ),
  'firmware-computer': error(
    422,
    '{board} is a single-board computer: it runs scripts, not the program of a board.',
    'Choose to play it from a single-board computer, or another board.',
  ),
  'firmware-no-computer': error(
    422,
    '{board} runs no scripts: those are for single-board computers.',
    'Choose another thing for it to do, or another board.',
  ),
  'firmware-script-motor': error(
    422,
    '{drive} is neither a servo on a pulse pin of {board} nor on a driver on its bus; a script plays no others.',
    'Wire it so, or take another board.',
  ),
  'firmware-no-bus': error(
    422,
    'A text display hangs on a two-wire bus; {board} has no pins for one.',
    'Choose no display, or say which pins of the board are its bus.',
  ),
  'firmware-bus-taken': error(
    422,
    'Pin {pin} of {board} belongs to the bus of its text display, and {by} is on it.',
    'Give that another pin, or choose no display.',
  ),
  'firmware-bus-address': error(
    422,
    'The text display has bus address {address}, as {by} has.',
    'Set the display, or that, to another address.',
  ),
  'firmware-memory': error(
    422,
    'The program would need about {got} bytes of memory; {board} has room for {max}.',
    'Take a larger board, or have fewer motors on this one.',
  ),
  'firmware-slow': error(
    422,
    'The program would be busy {got} % of the time of {board}; more than {max} % leaves nothing for what comes late.',
    'Take a faster board, or have fewer motors on this one.',
  ),
  'firmware-waits': error(
    422,
    '“{routine}” asks inputs what to do; a table would go on whatever they say.',
    'Take the player that works its steps out, or take the asking out.',
  ),
  'firmware-lets-go': error(
    422,
    '“{routine}” lets motors go on its way; a table holds them all.',
    'Take the player that works its steps out, or take the letting go out.',
  ),
  'firmware-beside': error(
    422,
    'Step {step} of “{routine}” does other steps at once, and those ask inputs, count, or never end; a board by itself does not.',
    'Drive it from here instead, or take the asking out of them.',
  ),
  'firmware-fault': error(
    422,
    'Step {step} of “{routine}” cannot be done on each way that leads to it.',
    'Look at it under Routine: a move may begin where the arm stands after another branch.',
  ),
  'firmware-endless': error(
    422,
    '“{routine}” comes to step {step} in ever another pose; a board by itself would need them all.',
    'End its laps in the pose in which they begin, or play it from a table.',
  ),
  'firmware-no-watch': error(
    422,
    'No joint that a motor of {board} moves alone has a sensor on it, on a pin of that board, whose zero is known.',
    'Add one under Boards & wires, and take its zero.',
  ),
  'firmware-fraction': error(
    422,
    'Counter “{counter}” takes fractions; on a board counters are whole numbers.',
    'Count in whole numbers.',
  ),
  'firmware-too-many': error(
    422,
    '“{routine}” and what it calls have more than 255 {what}; a board tells no more apart.',
    'Have fewer of them, or drive it from here.',
  ),
  'firmware-elsewhere': error(
    422,
    'Input “{input}” is asked and is on no pin of {board}.',
    'Wire it to this board, under Boards & wires.',
  ),
  'firmware-input': error(
    422,
    'Input “{input}” is to start it and is on no pin of {board}.',
    'Wire it to this board, or take another one.',
  ),
  'firmware-steps-too-long': error(
    422,
    'The steps have {got} bytes; {board} has room for {max}, {by} fewer.',
    'Make the routine shorter, or take a larger board.',
  ),
  'firmware-steps': error(
    422,
    '{drive} would step {got} times a second; the board’s timer gives {max} at most.',
    'Go slower, or take fewer microsteps.',
  ),
  'firmware-too-long': error(
    422,
    'The table has {got} bytes; {board} has room for {max}, {by} fewer. With {rate} frames a second it fits.',
    'Take so many.',
  ),
  'firmware-far-too-long': error(
    422,
    'The table has {got} bytes; {board} has room for {max}, {by} fewer, and no smaller rate makes it fit.',
    'Make the routine shorter, or take a larger board.',
  ),
});
export const { finding } = exportsFindings;
