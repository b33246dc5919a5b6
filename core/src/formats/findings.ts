/** What is found about files and texts: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, error } from '../findings';

export const formatsFindings = defineFindings({
  'text-step': error(400, '{path}: expected {expected}, found {got}.'),
});
export const { fault } = formatsFindings;
