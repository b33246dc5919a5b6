/** Development: the server restarts and the pages reload on change. */
import { spawn } from 'node:child_process';
import { child, install, root } from './lib.mjs';

if (install() !== 0) process.exit(1);
const server = spawn(process.execPath, ['--import', 'tsx', '--watch', 'server/src/main.ts', '--demo'], {
  cwd: root,
  stdio: 'inherit',
  env: {
    ...process.env,
    CORK_ELBOW_DATA: process.env.CORK_ELBOW_DATA ?? './data/demo',
    CORK_ELBOW_ORIGINS: 'http://127.0.0.1:5173 http://localhost:5173',
  },
});
process.on('exit', () => server.kill());
child(process.execPath, [
  'node_modules/vite/bin/vite.js',
  'web',
  '--config',
  'web/vite.config.ts',
  '--host',
  '127.0.0.1',
]);
