import { defineConfig } from '@playwright/test';
import { flags } from '../scripts/chromium.mjs';

export default defineConfig({
  testDir: '.',
  timeout: 150_000,
  expect: { timeout: 30_000 },
  workers: 2,
  // A test that passes only when it is run again is named in the end as one to be mended; it holds nothing up.
  retries: 1,
  fullyParallel: true,
  reporter: [['list'], ['json', { outputFile: '../.cache/e2e.json' }]],
  outputDir: '../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: { executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: flags },
  },
});
