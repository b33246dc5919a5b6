/** What is found about texts and tables that are brought in: one sentence a code, with the row as the person counts it. */
import { defineFindings, error } from '../findings';

export const importsFindings = defineFindings({
  'table-empty': error(400, 'The table is empty; every row needs {needs}.'),
  'head-lacks': error(400, 'The head line has no column for {column}.'),
  'rows-too-many': error(400, 'The table has {got} rows; at most {max} are taken.'),
  'rows-more': error(400, '… and {count} more rows like these.'),
  'cell-missing': error(400, 'Row {row} has no {column}; every row needs {needs}.'),
  'cell-no-number': error(400, 'Row {row}: “{got}” for {column} is not a number.'),
  'cells-too-many': error(400, 'Row {row} has {got} cells; there are columns for {max}.'),
  'row-limits': error(400, 'Row {row}: the lower limit {min:n3} is not below the upper limit {max:n3}.'),
  'direction-zero': error(400, 'Row {row}: the direction has no length; one of dx, dy, dz must differ from 0.'),
  'frame-numbers': error(400, 'Row {row}: the frame of the {name} needs six numbers: x, y, z, roll, pitch and yaw.'),
  'convention-unknown': error(400, 'The convention is “{got}”; standard or modified is allowed.'),
  'family-no-table': error(400, 'A rotary delta has closed loops; no such table describes it.'),
  'sentences-none': error(400, 'There is no step in the text; write one sentence a line.'),
  'rig-no-json': error(400, 'The text is not a rig file: it is no JSON.'),
  'rig-nothing-new': error(400, 'All that could be brought from it is here already.'),
  'spots-too-many': error(400, 'The table has {got} points; at most {max} become spots.'),
});
export const { say } = importsFindings;
