import { defineConfig } from '@playwright/test';

/** The real thing, a server for each worker, driven through Debian's Chromium. */
export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  fullyParallel: true,
  workers: 2,
  // A test that fails once has a reason, which a second try would hide.
  retries: 0,
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
    // What a worker fetches, no test can hold up or fail.
    serviceWorkers: 'block',
    trace: 'off',
  },
});
