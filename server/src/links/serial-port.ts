/**
 * The process that holds a serial port: `open PATH BAUD` passes bytes between it and the standard streams until either ends;
 * `list` says which ports there are.
 */
import { readdir } from 'node:fs/promises';
import { SerialPort } from 'serialport';
import type { PortList } from '@cork-elbow/core/contract';
import { portTrouble } from './port-trouble';

/** What it says of itself, beside the bytes. */
export type PortSays =
  | { readonly type: 'open' }
  | { readonly type: 'failed'; readonly reason: string }
  | { readonly type: 'ports'; readonly list: PortList };

const say = (said: PortSays, then?: () => void): void => void process.send?.(said, then ?? (() => undefined));

/** Names that serial ports of Linux have. */
const PORTS = /^tty(USB|ACM|AMA|S)\d+$|^rfcomm\d+$/;

async function list(): Promise<PortList> {
  try {
    const ports = await SerialPort.list();
    return {
      ports: ports.map(({ path, manufacturer, serialNumber, pnpId }) => ({
        path,
        about: [manufacturer, serialNumber ?? pnpId].filter(Boolean).join(', '),
      })),
      problem: null,
    };
  } catch {
    const names = (await readdir('/dev').catch(() => [])).filter((name) => PORTS.test(name));
    return {
      ports: names.map((name) => ({ path: `/dev/${name}`, about: '' })),
      problem: 'This computer does not say what hangs on its ports; the path of one can be typed.',
    };
  }
}

function open(path: string, baudRate: number): void {
  const port = new SerialPort({ path, baudRate, autoOpen: false });
  let isEnding = false;
  const fail = (reason: string): void => say({ type: 'failed', reason }, () => process.exit(1));
  port.on('error', ({ message }) => fail(portTrouble(message, path)));
  port.on('close', () => (isEnding ? process.exit(0) : fail(`${path} is gone, as when its cable is pulled`)));
  port.open((error) => {
    if (error) return fail(portTrouble(error.message, path));
    say({ type: 'open' });
    port.on('data', (bytes: Buffer) => process.stdout.write(bytes));
    process.stdin.on('data', (bytes: Buffer) => port.write(bytes));
  });
  const end = (): void => {
    isEnding = true;
    if (!port.isOpen) process.exit(0);
    port.drain(() => port.close());
  };
  process.stdin.on('end', end);
  process.on('disconnect', end);
}

const [what, path, baud] = process.argv.slice(2);
if (what === 'list') void list().then((found) => say({ type: 'ports', list: found }, () => process.exit(0)));
else open(path, Number(baud));
