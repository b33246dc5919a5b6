import { z } from 'zod';
import { linksSchema } from '../run';
import { examples } from './shapes';

const links = linksSchema.describe('by id of the board; one that is not named is simulated by the server');
export const linksAnswer = z.strictObject({ links });
export const linksBody = z.strictObject({ links }).meta(
  examples({
    'a board on a serial port': { links: { pwm: { kind: 'serial', path: '/dev/ttyACM0', baud: 115_200 } } },
    'a board of its own process': { links: { pwm: { kind: 'tcp', host: '127.0.0.1', port: 7010 } } },
  }),
);
export const portList = z.strictObject({
  ports: z
    .array(
      z.strictObject({
        path: z.string().describe('as the system names it'),
        about: z.string().describe('who made what hangs on it, as far as it says; empty where nothing is known'),
      }),
    )
    .describe('serial ports of the computer that the server runs on'),
  problem: z.string().nullable().describe('why the list is not whole, one sentence; null where it is'),
});
export type PortList = z.infer<typeof portList>;
