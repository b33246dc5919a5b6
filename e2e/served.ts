/** The built product as a process of its own. */
import { spawn, type ChildProcess } from 'node:child_process';

/** Serves the demo from a folder; its address is known once it answers. */
export async function launch(folder: string, port: number): Promise<{ child: ChildProcess; address: string }> {
  const child = spawn(process.execPath, [new URL('../server/dist/main.js', import.meta.url).pathname, '--demo'], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: { ...process.env, PORT: String(port), CORK_ELBOW_DATA: folder },
  });
  const address = await new Promise<string>((done, fail) => {
    child.once('message', (message) => done((message as { address: string }).address));
    child.once('exit', () => fail(new Error('the server ended before it served')));
  });
  return { child, address };
}
export const end = (child: ChildProcess): Promise<void> =>
  new Promise((done) => {
    child.once('exit', () => done());
    child.kill();
  });
