import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';

const runs = Number(process.env.PROPERTY_RUNS ?? 100);

export default defineConfig({
  test: {
    // Both cores of a small machine; the default would leave one of two idle.
    maxWorkers: Math.max(2, availableParallelism() - 1),
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
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          setupFiles: ['scripts/vitest-server.ts'],
          globalSetup: ['scripts/vitest-threads.mjs'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
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
