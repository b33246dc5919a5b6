/** What is found about what stands in the way: sentence, severity and remedy of each code, and what makes findings and faults of them. */
import { defineFindings, entry } from '../findings';

export const reachFindings = defineFindings({
  'in-the-way': entry('stop', '{first} would stand {byMm:mm} deep in {second}.'),
});
export const { say } = reachFindings;
