/** A script that plays a routine from a single-board computer. */
import type { Described } from './described';
import { script } from './sections/script';
import { driverDivider } from './data';
import type { FirmwareFile } from './sources';
import type { Table } from './table';

/** Names in a comment stay in their line. */
const inComment = (text: string): string => text.replace(/[\r\n]+/g, ' ');

/** `motors`: servos on pulse pins of the computer, in the order of their pins, and on 12-bit drivers on its bus. */
export function scriptOf(described: Described, name: string, table: Table): FirmwareFile {
  const { rig, build, board, motors, order, revision, fingerprint, driverHz } = described;
  const pins = motors.flatMap(({ kind, pin }) => (kind === 'pulse-pin' ? [pin] : [])).sort((a, b) => a - b);
  const { columns, levels } = table.frames;
  const rateHz = Math.min(
    50,
    ...motors.flatMap(({ map: { drive } }) => ('updateHz' in drive ? [drive.updateHz] : [])),
  );
  const rows = Array.from(
    { length: levels.length },
    (_, f) => `    (${columns.map((column) => column[f]).join(', ')},),`,
  );
  const text = [
    '#!/usr/bin/env python3',
    `# ${inComment(rig.name)}, ${inComment(build.name)}${revision === null ? '' : `, revision ${revision}`}. Motors: fingerprint ${fingerprint}.`,
    `# Plays “${inComment(table.name)}” from ${inComment(board.name)}: ${levels.length} frames of ${table.frameMs} ms.`,
    '#',
    '# BEFORE THE MOTORS GET POWER',
    '#   Run it without --go and read what it would write. Then with the motor supply off, then with the horns off.',
    '#   Pulses of one pin are exact, those of others jitter while the computer does other things: use a driver for more.',
    '#   A stop here is software: have a switch in the motor supply that you can reach. Keep hands and faces out of reach,',
    '#   and go by your local rules.',
    '',
    '# Where this computer has its pulse pins and its two-wire bus.',
    'PWM_CHIP = "/sys/class/pwm/pwmchip0"',
    'I2C_BUS = "/dev/i2c-1"',
    '',
    `ROUTINE = ${JSON.stringify(table.name)}`,
    '# Name, kind, bus address, channel, least and most µs, µs where it is expected to stand.',
    'MOTORS = (',
    ...motors.map(({ map, kind, pin, second, low, high, rest }) => {
      const where = kind === 'pulse-driver' ? `"driver", ${second}, ${pin}` : `"pwm", 0, ${pins.indexOf(pin)}`;
      return `    (${JSON.stringify(map.drive.name)}, ${where}, ${low}, ${high}, ${rest}),`;
    }),
    ')',
    `POWER_ORDER = (${order.join(', ')},)`,
    `GAP_MS = ${Math.max(1, rig.powerUp.gapMs)}`,
    `THERE_MS = ${table.thereMs}`,
    `PERIOD_NS = ${Math.round(1e9 / rateHz)}`,
    `DRIVER_DIVIDER = ${driverDivider(driverHz)}`,
    `FRAME_MS = ${table.frameMs}`,
    'FRAMES = (',
    ...rows,
    ')',
    script,
  ].join('\n');
  return { name, text };
}
