import { availableParallelism } from 'node:os';
import { bundledCore, coreBundled } from './scripts/vitest-core.mjs';
import { defineConfig, type TestProjectInlineConfiguration } from 'vitest/config';

const runs = Number(process.env.PROPERTY_RUNS ?? 100);

const replacing = ['server/src/run/loop-guard.test.ts'];
const plugins = [coreBundled()];
const deps = { deps: { external: [bundledCore] } };
const server = (name: string, own: TestProjectInlineConfiguration['test']): TestProjectInlineConfiguration => ({
  plugins,
  test: {
    name,
    server: deps,
    ...own,
    setupFiles: ['scripts/vitest-server.ts'],
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});

/** What hears of all that happens to the page, or puts something in a module's place. */
const alone = ['web/src/stores/*.test.ts', 'web/src/api.test.ts'];
const web = (name: string, own: TestProjectInlineConfiguration['test']): TestProjectInlineConfiguration => ({
  extends: 'web/vite.config.ts',
  plugins,
  test: {
    name,
    server: deps,
    ...own,
    environment: 'happy-dom',
    testTimeout: 120_000,
    setupFiles: ['scripts/vitest-web.ts'],
  },
});

export default defineConfig({
  test: {
    // One more than the cores of a small machine: some wait for servers and threads.
    maxWorkers: Math.max(3, availableParallelism() - 1),
    projects: [
      {
        plugins,
        test: {
          name: 'core',
          server: deps,
          // Pure functions and nothing global: files of a worker share what they have read.
          isolate: false,
          include: ['core/src/**/*.test.ts', 'demo/**/*.test.ts'],
          // Nothing is timed; a busy machine is no fault.
          testTimeout: 120_000,
          setupFiles: ['scripts/vitest-setup.ts'],
          provide: { propertyRuns: runs },
        },
      },
      // Files of a worker share what they have read; those that put something else in a module's place do not.
      server('server', {
        isolate: false,
        include: ['server/**/*.test.ts'],
        exclude: ['**/node_modules/**', ...replacing],
        globalSetup: ['scripts/vitest-threads.mjs'],
      }),
      server('server, replacing', { include: replacing }),
      web('web', { isolate: false, include: ['web/src/**/*.test.ts'], exclude: ['**/node_modules/**', ...alone] }),
      web('web, alone', { include: alone }),
    ],
  },
});
