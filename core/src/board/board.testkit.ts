/** Talking to a board in tests without minding what every line carries. */
import { boardReader, encodeHost, FARTHEST, type BoardMessage, type HostMessage, type Wish } from './protocol';
import type { SimulatedBoard } from './simulated-board';
import type { ChannelValues } from './protocol';

type Loose<T> = T extends { word: 'bounds' } ? Omit<T, 'perS'> & { perS?: number } : T;
/** An order without its number, as fast as may be; a point that goes on no further. */
export type Said = Loose<Wish> | { word: 'point'; seq: number; ms: number; values: ChannelValues };
/** Points as a board understands them: the lines of one put together, and channels that are not named as they were. */
export function wholePoints(messages: readonly HostMessage[]): { seq: number; ms: number; values: ChannelValues }[] {
  const at = new Map<number, number>();
  let ms = 0;
  return messages.flatMap((message) => {
    if (message.word !== 'wake' && message.word !== 'point' && message.word !== 'more') return [];
    for (const [channel, value] of message.values) at.set(channel, value);
    if (message.word === 'wake') return [];
    if (message.word === 'point') ms = message.ms;
    return message.goesOn ? [] : [{ seq: message.seq, ms, values: [...at] }];
  });
}

/** What a board says, without the numbers of orders and refusals. */
export type Heard = Omit<BoardMessage, 'number'>;

let number = 0;
export const meant = (said: Said): HostMessage => {
  if (said.word === 'point') return { ...said, goesOn: false };
  number++;
  return said.word === 'bounds' ? { perS: FARTHEST, ...said, number } : { ...said, number };
};

const reader = boardReader();
export const heard = (board: SimulatedBoard): BoardMessage[] =>
  board.read().flatMap((bytes) => reader.push(bytes)) as BoardMessage[];

/** What it answers, with all its numbers. */
export function answers(board: SimulatedBoard, ...messages: HostMessage[]): BoardMessage[] {
  for (const message of messages) board.write(encodeHost(message));
  return heard(board);
}

/** What it answers, without numbers of orders and refusals. */
export const tell = (board: SimulatedBoard, ...said: Said[]): Heard[] =>
  answers(board, ...said.map(meant)).map((message) => {
    if (message.word !== 'done' && message.word !== 'refused') return message;
    const { number: _, ...rest } = message;
    return rest;
  });

type Here = Extract<BoardMessage, { word: 'here' }>;
export const where = (board: SimulatedBoard): Here => {
  tell(board, { word: 'report', everyMs: 1 });
  board.advance(1000);
  return tell(board, { word: 'report', everyMs: 0 }).findLast((m): m is Here => m.word === 'here')!;
};
