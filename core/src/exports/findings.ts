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
  'export-no-tool': error(
    422,
    'The arm has no tool that such a table could end at.',
    'Add one under Measure, Tools.',
  ),
  'export-no-dh': error(
    422,
    'No Denavit–Hartenberg table describes the way to {tool}: a joint on it follows others, or none moves it.',
  ),
});
export const { finding } = exportsFindings;
