/** Long lists of answers, sent as they are made: other calls are served in between. */
import { Readable } from 'node:stream';
import { turn, TURN_MS } from './turns';

/** Text is gathered up to this length. */
const PIECE = 64 * 1024;

/** `{ "answers": [ … ] }` of what `answer` gives for each, one after the other. */
export function streamedAnswers<T>(asks: readonly T[], answer: (ask: T) => unknown): Readable {
  async function* pieces(): AsyncGenerator<string> {
    let text = '{"answers":[';
    let since = performance.now();
    for (const [i, ask] of asks.entries()) {
      text += (i ? ',' : '') + JSON.stringify(answer(ask));
      if (text.length > PIECE) {
        yield text;
        text = '';
      }
      if (performance.now() - since < TURN_MS) continue;
      await turn();
      since = performance.now();
    }
    yield `${text}]}`;
  }
  return Readable.from(pieces());
}
