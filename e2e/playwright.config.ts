import { defineConfig } from '@playwright/test';
// @ts-expect-error: a script without types, shared with scripts and benches
import { CHROMIUM } from '../scripts/chromium.mjs';

export default defineConfig({
  testDir: '.',
  testMatch: '*.story.ts',
  fullyParallel: false,
  workers: 1,
  timeout: 120_000,
  // The gate runs unit tests beside the stories.
  expect: { timeout: 30_000 },
  outputDir: '../test-results',
  reporter: [['list'], ['json', { outputFile: '../.cache/stories.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    trace: 'off',
    launchOptions: CHROMIUM,
  },
});
