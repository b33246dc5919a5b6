import { availableParallelism } from 'node:os';
import { defineConfig, type TestProjectInlineConfiguration } from 'vitest/config';

const runs = Number(process.env.PROPERTY_RUNS ?? 100);

const replacing = ['server/src/run/loop-guard.test.ts'];
const server = (name: string, own: TestProjectInlineConfiguration['test']): TestProjectInlineConfiguration => ({
  test: {
    name,
    ...own,
    setupFiles: ['scripts/vitest-server.ts'],
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});

export default defineConfig({
  test: {
    // One more than the cores of a small machine: some wait for servers and threads.
    maxWorkers: Math.max(3, availableParallelism() - 1),
    projects: [
      {
        test: {
          name: 'core',
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
      {
        extends: 'web/vite.config.ts',
        test: {
          name: 'web',
          include: ['web/src/**/*.test.ts'],
          environment: 'happy-dom',
          testTimeout: 120_000,
          setupFiles: ['scripts/vitest-web.ts'],
        },
      },
    ],
  },
});
