/** Mutation run, by hand: npm run mutate, or npm run mutate -- --mutate "core/src/board/*.ts" for a part of it. */
import process from 'node:process';

process.env.PROPERTY_RUNS ??= '25';
// What tests belong to a file is asked of the runner, which knows its own modules only.
process.env.TEST_CORE = 'sources';

export default {
  testRunner: 'vitest',
  plugins: ['@stryker-mutator/vitest-runner'],
  vitest: { configFile: 'vitest.config.ts', related: true },
  mutate: [
    'server/src/run/**/*.ts',
    'core/src/board/*.ts',
    'core/src/{actuators,calibration,wiring,bring-up,transmissions}/*.ts',
    'web/src/stores/*.ts',
    '!**/*.test.ts',
    '!**/*.testkit.ts',
    '!**/index.ts',
    // The thread's own entry: the clock and the port alone.
    '!server/src/run/worker.ts',
    // Figures of kinds, not behaviour.
    '!core/src/actuators/catalogue.ts',
    '!core/src/wiring/boards.ts',
  ],
  coverageAnalysis: 'perTest',
  ignoreStatic: true,
  ignorePatterns: ['docs/screenshots', 'e2e', '**/dist', '.cache', 'test-results', '.ci'],
  concurrency: 2,
  dryRunTimeoutMinutes: 30,
  timeoutMS: 15000,
  timeoutFactor: 3,
  reporters: ['progress-append-only', 'clear-text', 'json'],
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
  jsonReporter: { fileName: '.cache/mutation.json' },
  tempDirName: '.cache/mutation',
  thresholds: { high: 95, low: 85, break: 85 },
};
