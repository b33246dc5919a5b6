/**
 * Generic kinds of boards with what boards of that kind commonly have; every figure is a beginning to be edited. Pins
 * are numbered as programs number them.
 */
import type { Ability, Board, Pin } from '../rig';

export interface BoardKind {
  readonly id: Board['kind'];
  readonly words: string;
  /** What it is good for, one sentence. */
  readonly use: string;
  readonly figures: Omit<Board, 'id' | 'name' | 'kind'>;
}

const pin = (
  number: number,
  label: string,
  can: readonly Ability[],
  boot: Pin['boot'] = 'floats',
  reserved = '',
): Pin => ({ pin: number, label, can: [...can], boot, reserved });
const run = (from: number, to: number, of: (k: number) => Pin): Pin[] =>
  Array.from({ length: to - from + 1 }, (_, k) => of(from + k));

const level: readonly Ability[] = ['output', 'input'];
const noLoop = { everyMs: 20, mathsUs: 0, analogUs: 0, busUs: 0, stepUs: 0 };
const alone = { host: null, address: null };

export const boardKinds: readonly BoardKind[] = [
  {
    id: 'small-8-bit',
    words: '8-bit board, few timer pins',
    use: 'Two pins make exact servo pulses; the rest are timed by software.',
    figures: {
      logicV: 5,
      regulatorA: 0.5,
      stepsPerS: 4000,
      pulses: { mostHz: 50, oneRate: true },
      jitterUs: 8,
      ...alone,
      loop: { everyMs: 20, mathsUs: 900, analogUs: 110, busUs: 700, stepUs: 60 },
      pins: [
        pin(0, 'receive', ['input'], 'floats', 'the port programs are loaded by'),
        pin(1, 'send', ['output'], 'pulses', 'the port programs are loaded by'),
        ...run(2, 8, (k) => pin(k, `${k}`, ['soft-pulse', 'step', ...level])),
        ...run(9, 10, (k) => pin(k, `${k}`, ['pulse', 'pwm', 'step', ...level])),
        pin(11, '11', ['soft-pulse', 'pwm', 'step', ...level]),
        pin(12, '12', ['soft-pulse', 'step', ...level]),
        pin(13, '13, lamp', level, 'pulses'),
        ...run(14, 17, (k) => pin(k, `analog ${k - 14}`, ['analog', ...level])),
        ...run(18, 19, (k) => pin(k, `analog ${k - 14}`, ['analog', 'bus', ...level])),
      ],
    },
  },
  {
    id: 'large-8-bit',
    words: 'large 8-bit board',
    use: 'Step axes, servos, inputs and outputs together on one board.',
    figures: {
      logicV: 5,
      regulatorA: 0.8,
      stepsPerS: 16000,
      pulses: { mostHz: 50, oneRate: true },
      jitterUs: 6,
      ...alone,
      loop: { everyMs: 20, mathsUs: 900, analogUs: 110, busUs: 700, stepUs: 25 },
      pins: [
        pin(0, 'receive', ['input'], 'floats', 'the port programs are loaded by'),
        pin(1, 'send', ['output'], 'pulses', 'the port programs are loaded by'),
        ...run(2, 12, (k) => pin(k, `${k}`, ['pulse', 'pwm', 'step', ...level])),
        pin(13, '13, lamp', level, 'pulses'),
        ...run(14, 19, (k) => pin(k, `${k}`, ['serial', 'step', ...level])),
        ...run(20, 21, (k) => pin(k, `${k}`, ['bus', ...level], 'high')),
        ...run(22, 53, (k) => pin(k, `${k}`, ['step', ...level])),
        ...run(54, 69, (k) => pin(k, `analog ${k - 54}`, ['analog', ...level])),
      ],
    },
  },
  {
    id: 'pwm-driver',
    words: '12-bit PWM driver, 16 channels',
    use: 'Hangs on another board’s two-wire bus; all channels share one pulse rate.',
    figures: {
      logicV: 5,
      regulatorA: 0,
      stepsPerS: 0,
      pulses: { mostHz: 1500, oneRate: true },
      jitterUs: 0,
      host: null,
      address: 64,
      loop: noLoop,
      pins: run(0, 15, (k) => pin(k, `${k}`, ['pulse', 'pwm'], 'off')),
    },
  },
  {
    id: 'servo-board',
    words: 'servo board, 20 channels',
    use: 'Makes its own pulses and speaks over a serial line or USB.',
    figures: {
      logicV: 5,
      regulatorA: 0,
      stepsPerS: 0,
      pulses: { mostHz: 333, oneRate: false },
      jitterUs: 0,
      ...alone,
      loop: { everyMs: 20, mathsUs: 200, analogUs: 20, busUs: 300, stepUs: 0 },
      pins: [
        ...run(0, 17, (k) => pin(k, `${k}`, ['pulse'], 'off')),
        ...run(18, 19, (k) => pin(k, `${k}`, ['pulse', 'analog', ...level], 'off')),
      ],
    },
  },
  {
    id: 'step-board',
    words: 'step and direction board, 8 axes',
    use: 'Pairs of step and direction pins with a shared step clock, inputs for switches.',
    figures: {
      logicV: 5,
      regulatorA: 0.5,
      stepsPerS: 120000,
      pulses: { mostHz: 50, oneRate: true },
      jitterUs: 2,
      ...alone,
      loop: { everyMs: 5, mathsUs: 150, analogUs: 30, busUs: 400, stepUs: 3 },
      pins: [
        ...run(0, 7, (k) => pin(k, `step ${k + 1}`, ['step'], 'low')),
        ...run(8, 15, (k) => pin(k, `direction ${k - 7}`, ['output'], 'low')),
        pin(16, 'enable', ['output'], 'high'),
        ...run(17, 26, (k) => pin(k, `input ${k - 16}`, ['input'])),
        ...run(27, 30, (k) => pin(k, `output ${k - 26}`, ['output'])),
        pin(31, 'servo', ['pulse', 'pwm', 'output'], 'low'),
        ...run(32, 33, (k) => pin(k, k === 32 ? 'bus data' : 'bus clock', ['bus'], 'high')),
      ],
    },
  },
  {
    id: '32-bit',
    words: '32-bit board',
    use: 'Fast enough for the arm’s mathematics; 3.3 V signals, and a few pins that decide how it starts.',
    figures: {
      logicV: 3.3,
      regulatorA: 0.6,
      stepsPerS: 200000,
      pulses: { mostHz: 400, oneRate: false },
      jitterUs: 1,
      ...alone,
      loop: { everyMs: 5, mathsUs: 40, analogUs: 25, busUs: 350, stepUs: 1 },
      pins: [
        pin(0, '0, start mode', ['output', 'input', 'pulse'], 'pulses'),
        pin(1, '1, debug', ['output'], 'pulses', 'the debug port'),
        pin(2, '2, lamp', ['output', 'input', 'pulse', 'pwm', 'step'], 'low'),
        pin(3, '3, debug', ['input'], 'high', 'the debug port'),
        ...run(4, 5, (k) => pin(k, `${k}`, ['pulse', 'pwm', 'step', 'serial', ...level], 'pulses')),
        ...run(12, 19, (k) => pin(k, `${k}`, ['pulse', 'pwm', 'step', 'serial', ...level])),
        ...run(21, 22, (k) => pin(k, `${k}`, ['bus', 'pulse', 'step', ...level])),
        pin(23, '23', ['pulse', 'pwm', 'step', ...level]),
        ...run(25, 27, (k) => pin(k, `${k}`, ['pulse', 'pwm', 'step', 'analog', ...level])),
        ...run(32, 33, (k) => pin(k, `${k}`, ['pulse', 'pwm', 'step', 'analog', ...level])),
        ...run(34, 39, (k) => pin(k, `${k}, input only`, ['input', 'analog'])),
      ],
    },
  },
  {
    id: 'single-board',
    words: 'single-board computer',
    use: 'One pin makes exact pulses; the others jitter while the computer does other things.',
    figures: {
      logicV: 3.3,
      regulatorA: 0.5,
      stepsPerS: 8000,
      pulses: { mostHz: 50, oneRate: false },
      jitterUs: 60,
      ...alone,
      loop: { everyMs: 20, mathsUs: 20, analogUs: 0, busUs: 250, stepUs: 40 },
      pins: [
        ...run(2, 3, (k) => pin(k, k === 2 ? 'bus data' : 'bus clock', ['bus', ...level], 'high')),
        ...run(4, 13, (k) => pin(k, `${k}`, ['soft-pulse', 'step', ...level])),
        pin(14, 'send', ['serial', 'output'], 'pulses', 'the console'),
        pin(15, 'receive', ['serial', 'input'], 'high', 'the console'),
        ...run(16, 17, (k) => pin(k, `${k}`, ['soft-pulse', 'step', ...level])),
        pin(18, '18, pulse', ['pulse', 'pwm', 'step', ...level]),
        ...run(19, 27, (k) => pin(k, `${k}`, ['soft-pulse', 'step', ...level])),
      ],
    },
  },
];

export const boardKind = (id: Board['kind']): BoardKind => boardKinds.find((kind) => kind.id === id)!;

/** A new board of a kind. */
export const newBoard = (kind: Board['kind'], id: string, name = boardKind(kind).words): Board => ({
  ...structuredClone(boardKind(kind).figures),
  id,
  name,
  kind,
});
