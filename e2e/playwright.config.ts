import { defineConfig } from '@playwright/test';
// @ts-expect-error: a script without types, shared with scripts and benches
import { CHROMIUM } from '../scripts/chromium.mjs';

export default defineConfig({
  testDir: '.',
  testMatch: '*.story.ts',
  fullyParallel: false,
  // Each file is a story of its own, on its own server: two of them go side by side.
  workers: 2,
  timeout: 120_000,
  // A story that fails is told once more, to keep a trace of it: recording all of them takes a sixth of their time. Once is enough to fail.
  retries: 1,
  failOnFlakyTests: true,
  // The gate runs unit tests beside the stories.
  expect: { timeout: 30_000 },
  outputDir: '../test-results',
  reporter: [['list'], ['json', { outputFile: '../.cache/stories.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    // What a person would have seen, kept where a story failed: npx playwright show-trace test-results/.../trace.zip
    trace: { mode: 'on-first-retry', screenshots: false, snapshots: true, sources: false },
    launchOptions: CHROMIUM,
  },
});
