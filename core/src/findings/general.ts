/** What any document or body may get wrong. */
import { error } from './define';

export const general = {
  shape: error(400, '{path} {problem}.'),
  'id-unknown': error(400, '{path}: there is no {kind} with the id “{id}”.'),
  'value-unknown-joint': error(400, '{path}: there is no joint “{id}” in this mechanism.'),
};
