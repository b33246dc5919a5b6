/** What is found about boards, wires and supplies: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry } from '../findings';

export const wiringFindings = defineFindings({
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
  'spin-past-motor': entry(
    'look',
    '{joint} may turn at {speed:n0} {unit}, but {drive} makes at most {most:n0} {unit} both ways round.',
    'Lower the joint’s speed limit, or measure the motor’s speeds.',
  ),
  'motor-unwired': entry('look', '{drive} is not on any pin.', 'Choose its board and pin.'),
  'counter-unwired': entry(
    'look',
    'The counter of {drive} is on {on}: without both tracks nothing knows how far it went, or which way.',
    'Choose the pins of both tracks.',
  ),
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
});
export const { finding } = wiringFindings;
