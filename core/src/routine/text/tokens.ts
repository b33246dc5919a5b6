/** The words, numbers, names and signs of a sentence. */

export interface Token {
  readonly kind: 'word' | 'number' | 'text' | 'id' | 'sign' | 'end';
  readonly text: string;
  readonly column: number;
}

/** What stands at a column and is not what should. */
export class Stop extends Error {
  constructor(
    readonly column: number,
    readonly expected: string,
    readonly got: string,
  ) {
    super(expected);
  }
}

const TOKEN =
  /\s*(?:("(?:[^"\\]|\\.)*")|(-?\d+(?:\.\d+)?(?:e[-+]?\d+)?)(?![\w])|#([a-z][a-z0-9-_]*)|(mm\/s|[A-Za-z][\w-]*)|([,;%]))/iy;

export function tokensOf(line: string): Token[] {
  const tokens: Token[] = [];
  TOKEN.lastIndex = 0;
  for (let at = 0; line.slice(at).trim() !== '';) {
    TOKEN.lastIndex = at;
    const match = TOKEN.exec(line);
    const column = at + /^\s*/.exec(line.slice(at))![0].length + 1;
    if (!match)
      throw new Stop(column, 'a word, a number or a name in quotes', `“${line.slice(column - 1, column + 11)}”`);
    const [, text, number, id, word, sign] = match;
    if (text !== undefined) {
      let inner: string;
      try {
        inner = JSON.parse(text) as string;
      } catch {
        throw new Stop(column, 'a name in quotes', text);
      }
      tokens.push({ kind: 'text', text: inner, column });
    } else if (number !== undefined) tokens.push({ kind: 'number', text: number, column });
    else if (id !== undefined) tokens.push({ kind: 'id', text: id, column });
    else if (word !== undefined) tokens.push({ kind: 'word', text: word, column });
    else tokens.push({ kind: 'sign', text: sign, column });
    at = TOKEN.lastIndex;
  }
  tokens.push({ kind: 'end', text: '', column: line.length + 1 });
  return tokens;
}

export const shown = ({ kind, text }: Token): string => (kind === 'end' ? 'the end of the line' : `“${text}”`);
