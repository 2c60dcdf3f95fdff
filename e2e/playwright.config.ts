import { defineConfig } from '@playwright/test';

/** The real thing, a server for each worker, driven through Debian's Chromium. */
export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  fullyParallel: true,
  workers: 2,
  // What fails once and then passes is told by name at the end of the run, and is to be looked into; it holds nobody up.
  retries: 1,
  // A loaded machine is slow, not wrong.
  timeout: 60_000,
  expect: { timeout: 15_000 },
  reporter: [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
    },
    trace: 'off',
  },
});
