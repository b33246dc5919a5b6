/** The built server as a process of its own, on a data folder. */
import { spawn, type ChildProcess } from 'node:child_process';

export interface Served {
  readonly child: ChildProcess;
  readonly url: string;
  /** Ends it, cleanly or without warning. */
  end(signal?: NodeJS.Signals): Promise<void>;
}
export async function launch(main: string, folder: string, env: NodeJS.ProcessEnv = {}): Promise<Served> {
  const child = spawn(process.execPath, [main, '--demo'], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: { ...process.env, PORT: '0', CORK_ELBOW_DATA: folder, ...env },
  });
  const ended = new Promise<void>((done) => child.once('exit', () => done()));
  const url = await new Promise<string>((done, fail) => {
    child.once('message', (m) => done((m as { address: string }).address));
    child.once('exit', (code) => fail(new Error(`the server ended with ${code}`)));
  });
  return {
    child,
    url,
    async end(signal) {
      child.kill(signal);
      await ended;
    },
  };
}
