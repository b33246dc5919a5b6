/** The serial ports of this computer, as a process of its own finds them. */
import type { PortList } from '@cork-elbow/core/contract';
import { startPort } from './serial';
import type { PortSays } from './serial-port';

/** Longer (ms) than looking takes anywhere. */
const MOST = 5000;

export const listPorts = (): Promise<PortList> =>
  new Promise((done) => {
    const child = startPort(['list']);
    const none = (): void =>
      done({
        ports: [],
        problem: 'The ports of this computer could not be looked up; the path of one can be typed.',
      });
    const timer = setTimeout(() => child.kill(), MOST);
    child.on('message', (said: PortSays) => said.type === 'ports' && done(said.list));
    child.on('error', none);
    child.on('exit', () => {
      clearTimeout(timer);
      none();
    });
  });
