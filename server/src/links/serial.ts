/**
 * A board on a serial port. The port is held by a process of its own: what its driver does wrong never takes the run's thread along,
 * and the native library behind it knows no threads.
 */
import { fork, type ChildProcess } from 'node:child_process';
import type { LinkOptions } from '@cork-elbow/core/contract';
import { StreamLink } from './stream';
import type { PortSays } from './serial-port';

/** For how long (ms) a board may be silent before its first word: many begin anew as the port is opened. */
const PATIENCE = 5000;
/** What a board that begins anew is sent meanwhile (ms after the opening) it may take for something else. */
const BOOTS = 1500;

/** Its built process, or the one that reads the sources. */
const process_ = import.meta.url.endsWith('.ts') ? './serial-dev.mjs' : './serial.js';
export const startPort = (args: readonly string[]): ChildProcess =>
  fork(new URL(process_, import.meta.url), args, { stdio: ['pipe', 'pipe', 'inherit', 'ipc'] });

export const serialLink = ({ path, baud }: Extract<LinkOptions, { kind: 'serial' }>): StreamLink =>
  new StreamLink(`${path} at ${baud} baud`, PATIENCE, (link) => {
    const port = startPort(['open', path, `${baud}`]);
    let listensAt = Infinity;
    port.on('message', (said: PortSays) => {
      if (said.type === 'open') {
        listensAt = performance.now() + BOOTS;
        setTimeout(() => link.opened(), BOOTS).unref();
      }
      if (said.type === 'failed') link.fail(said.reason);
    });
    port.on('error', ({ message }) => link.fail(message));
    port.on('exit', () => link.fail(`${path} is closed`));
    port.stdin!.on('error', () => undefined);
    port.stdout!.on('data', (bytes: Buffer) => {
      // A board that speaks has begun.
      listensAt = -Infinity;
      link.heard(bytes);
    });
    return {
      // The line sends again what was not answered: nothing is lost that is held back here.
      write: (bytes) => void (performance.now() >= listensAt && port.stdin!.write(bytes)),
      end: () => port.stdin!.end(),
    };
  });
