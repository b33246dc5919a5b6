/** What mends a finding at once: an edit of the document, with the words of its button. */
import type { Rig } from './schema';

export interface Fix {
  readonly label: string;
  readonly apply: (draft: Rig) => void;
}
