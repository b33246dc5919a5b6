import { parse } from 'secure-json-parse';
import { apiError } from '../errors';

/** The JSON of a call's body; what is none is refused. */
export function readJson(body: Uint8Array | null): unknown {
  if (!body) throw apiError('body-missing');
  if (!body.length) throw apiError('bad-json', { problem: 'it is empty' });
  try {
    const text = Buffer.from(body.buffer, body.byteOffset, body.byteLength).toString('utf8');
    return parse(text, undefined, { protoAction: 'error', constructorAction: 'error' });
  } catch (error) {
    throw apiError('bad-json', { problem: (error as Error).message });
  }
}
