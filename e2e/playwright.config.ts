import { defineConfig } from '@playwright/test';

const port = Number(process.env['E2E_PORT'] ?? 4789);

/** The real thing: a server over a fresh data folder, driven through Debian's Chromium. */
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
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
    },
    trace: 'off',
  },
  webServer: {
    command: `node ../tools/fresh-server.mjs ${port}`,
    url: `http://127.0.0.1:${port}/api/tables`,
    timeout: 180_000,
    reuseExistingServer: false,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 10_000 },
  },
});
