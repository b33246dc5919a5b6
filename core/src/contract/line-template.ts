/** Lines of a builder's own firmware, as a link keeps them. */
import { z } from 'zod';
import { readTemplate, type LineTemplate } from '../own-lines';

const text = z
  .string()
  .max(60)
  .regex(/^[\t -~]*$/, 'printable ASCII');
export const lineTemplate: z.ZodType<LineTemplate> = z
  .strictObject({
    head: text.describe('before the values of a line; may hold {ms}, {line}, {time}'),
    each: text.describe('for each motor: {channel}, {no}, {id}, and {value}, {counts}, {joint} or {rad}'),
    separator: text.describe('between two motors'),
    tail: text.describe('behind the values'),
    end: z.enum(['lf', 'crlf', 'cr']).describe('what ends a line'),
    perS: z.number().min(1).max(100).describe('lines of values in a second'),
    changedOnly: z.boolean().describe('only motors whose text has changed'),
    reply: text.describe('what an answer begins with; empty: nothing answers'),
    on: text.describe('a line for each motor that is switched on; empty: none'),
    off: text.describe('a line for each motor that is let go; empty: none, and nothing switches them off'),
    output: text.describe('a line for each output that is switched, with {level}; empty: outputs are not reached'),
    halt: text.describe('a line as the arm is frozen; empty: none'),
  })
  .superRefine((template, context) => {
    const read = readTemplate(template);
    if (!read.ok)
      context.addIssue({ code: 'custom', path: [read.at], message: `text that can be read: ${read.message}` });
  });
