/** The form of what a board is to do. */
import { z } from 'zod';
import { DISPLAY_ADDRESSES, followings } from '../../firmware';

export const rates = ['100', '50', '40', '25', '20', '10'] as const;
const bauds = ['9600', '19200', '38400', '57600', '115200'] as const;
const ofTable = { when: { kind: ['table-player', 'script'] } };
export const players = ['table-player', 'step-player'];
const ofBoard = { kind: ['bridge', ...players, 'hand-control', 'register-slave'] };
const ofStart = { kind: [...players, 'hand-control'] };
const ofSteering = { kind: 'hand-control', follow: 'tool' };
/** Which sensor pushes the tool one way. */
const stick = (title: string) =>
  z.string().optional().meta({
    title,
    description: 'id of a sensor, with a minus before it where it pushes the other way; none where left out',
    of: 'sticks',
    when: ofSteering,
  });
export const options = z.strictObject({
  kind: z
    .enum(['bridge', 'step-player', 'table-player', 'hand-control', 'register-slave', 'script'])
    .default('bridge')
    .meta({
      title: 'What it is to do',
      titles: {
        bridge: 'drive it from here',
        'step-player': 'play it without a computer',
        'table-player': 'play it from a table',
        'hand-control': 'follow knobs or sticks',
        'register-slave': 'obey an operator panel',
        script: 'play it from a single-board computer',
      },
    }),
  board: z
    .string()
    .optional()
    .meta({ title: 'Board', description: 'id of the board; the first with motors', of: 'boards' }),
  rate: z
    .enum(rates)
    .default('50')
    .meta({ title: 'Frames a second', titles: Object.fromEntries(rates.map((r) => [r, r])), ...ofTable }),
  start: z
    .enum(['letter', 'power'])
    .default('letter')
    .meta({
      title: 'It begins',
      titles: { letter: 'at the letter g on its line', power: 'by itself, after a while' },
      when: ofStart,
    }),
  startS: z
    .number()
    .min(3)
    .max(600)
    .default(10)
    .meta({ title: 'Seconds from power on', step: 1, when: { ...ofStart, start: 'power' } }),
  follow: z
    .enum(followings)
    .default('place')
    .meta({
      title: 'Motors go',
      titles: {
        place: 'where knobs stand',
        change: 'as far as knobs turn',
        speed: 'as fast as sticks are pushed',
        tool: 'as sticks push the tool',
      },
      when: { kind: 'hand-control' },
    }),
  tool: z
    .string()
    .optional()
    .meta({ title: 'Tool', description: 'id of the tool; the first where left out', of: 'tools', when: ofSteering }),
  stickX: stick('Pushes forward'),
  stickY: stick('Pushes left'),
  stickZ: stick('Pushes up'),
  stickTilt: stick('Tilts the hand'),
  stickRoll: stick('Rolls the hand'),
  toolMmPerS: z.number().min(5).max(300).default(60).meta({ title: 'Tool at most, mm/s', step: 5, when: ofSteering }),
  toolDegPerS: z.number().min(5).max(180).default(30).meta({ title: 'Hand at most, °/s', step: 5, when: ofSteering }),
  buttons: z
    .boolean()
    .default(false)
    .meta({ title: 'Inputs are buttons for kept poses', when: { kind: 'hand-control' } }),
  station: z
    .number()
    .int()
    .min(1)
    .max(247)
    .default(1)
    .meta({ title: 'Station', step: 1, when: { kind: 'register-slave' } }),
  baud: z
    .enum(bauds)
    .default('19200')
    .meta({ title: 'Baud', titles: Object.fromEntries(bauds.map((b) => [b, b])), when: { kind: 'register-slave' } }),
  input: z
    .string()
    .optional()
    .meta({
      title: 'Started by',
      description: 'id of an input of the board, at whose coming it begins; none where left out',
      of: 'inputs',
      when: { kind: players },
    }),
  routines: z
    .enum(['this', 'all'])
    .default('this')
    .meta({
      title: 'Routines',
      titles: { this: 'this one', all: 'all of them, by the letters 1 to 9' },
      when: { kind: 'step-player' },
    }),
  starters: z
    .boolean()
    .default(false)
    .meta({ title: 'Inputs are buttons for them', when: { kind: 'step-player', routines: 'all' } }),
  correct: z
    .boolean()
    .default(false)
    .meta({ title: 'Joint sensors correct it', when: { kind: players } }),
  display: z
    .enum(['none', '16x2', '20x4'])
    .default('none')
    .meta({
      title: 'Text display',
      titles: { none: 'none', '16x2': '16 letters, 2 rows', '20x4': '20 letters, 4 rows' },
      when: ofBoard,
    }),
  displayAt: z
    .number()
    .int()
    .min(DISPLAY_ADDRESSES.min)
    .max(DISPLAY_ADDRESSES.max)
    .default(39)
    .meta({
      title: 'Its bus address',
      step: 1,
      isAddress: true,
      when: { ...ofBoard, display: ['16x2', '20x4'] },
    }),
  again: z
    .boolean()
    .default(false)
    .meta({ title: 'Again and again', when: { kind: players } }),
});
export type Options = z.output<typeof options>;
