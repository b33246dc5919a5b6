/** A board at the other end of a TCP connection. */
import { connect } from 'node:net';
import type { LinkOptions } from '@cork-elbow/core/contract';
import { StreamLink } from './stream';

/** For how long (ms) a board may be silent before its first word: names are looked up, and routes found. */
const PATIENCE = 4000;

export function tcpLink({ host, port }: Extract<LinkOptions, { kind: 'tcp' }>): StreamLink {
  const at = `${host}, port ${port}`;
  const reasons: Record<string, string> = {
    ECONNREFUSED: `nothing listens at ${at}`,
    ENOTFOUND: `there is no computer called “${host}”`,
    EAI_AGAIN: `there is no computer called “${host}”`,
    EHOSTUNREACH: `no way leads to ${host}`,
    ENETUNREACH: `no way leads to ${host}`,
    ETIMEDOUT: `${at} does not answer`,
    ECONNRESET: `the connection to ${at} was cut`,
    EPIPE: `the connection to ${at} was cut`,
  };
  return new StreamLink(`board at ${host}:${port}`, PATIENCE, (link) => {
    const socket = connect({ host, port, noDelay: true });
    socket.on('connect', () => link.opened());
    socket.on('data', (bytes) => link.heard(bytes));
    socket.on('error', ({ code = '', message }: NodeJS.ErrnoException) => link.fail(reasons[code] ?? message));
    socket.on('close', () => link.fail(`${at} has closed the connection`));
    return { write: (bytes) => socket.write(bytes), end: () => socket.end() };
  });
}
