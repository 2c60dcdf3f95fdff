/** `npm run screenshots`: takes docs/screenshots afresh, from the demo data. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { ensureBuilt, ensureChromium, ensureInstalled, ROOT } from './run.mjs';

await ensureInstalled();
const executablePath = await ensureChromium();
await ensureBuilt();

/** Name, address, whether it is dark or narrow, and what is done before. */
const VIEWS = [
  ['shelf', '/'],
  ['sheet', '/box/1?q=umbr+wood'],
  ['sheet-dark', '/box/1?q=umbr+wood', { dark: true }],
  ['mark-in-place', '/box/2?q=police'],
  ['nothing-found', '/box/1?q=umbrelaq+mahogany'],
  [
    'peek-and-spread',
    '/box/1?q=umbr+wood',
    {
      act: async (page) => {
        await page.locator('.row .cell').nth(8).click();
        await page.keyboard.press('Space');
        await page.getByRole('button', { name: 'Spread', exact: true }).click();
        await page.waitForTimeout(900);
      },
    },
  ],
  [
    'column-menu',
    '/box/1?q=umbr',
    {
      act: async (page) => {
        await page.getByRole('button', { name: 'What to do with Colour' }).focus();
        await page.keyboard.press('Enter');
      },
    },
  ],
  ['wording', '/box/1', { act: (page) => page.getByRole('button', { name: 'Word it' }).click() }],
  ['phone', '/read/1?q=umbr+wood', { width: 390 }],
];

const port = 4788;
const folder = join(ROOT, 'docs/screenshots');
mkdirSync(folder, { recursive: true });
const server = spawn(process.execPath, [join(ROOT, 'tools/fresh-server.mjs'), String(port)], {
  stdio: ['ignore', 'pipe', 'inherit'],
});
await once(server.stdout, 'data').catch(() => undefined);
const address = `http://127.0.0.1:${port}`;
for (let i = 0; i < 100 && !(await fetch(`${address}/api/tables`).catch(() => undefined)); i++) {
  await new Promise((done) => setTimeout(done, 200));
}
const browser = await chromium.launch({
  executablePath,
  args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
});
try {
  for (const [name, path, { dark = false, width = 1280, act } = {}] of VIEWS) {
    const page = await browser.newPage({ viewport: { width, height: 800 }, colorScheme: dark ? 'dark' : 'light' });
    await page.goto(address + path);
    await page.waitForLoadState('networkidle');
    await act?.(page);
    await page.waitForTimeout(400);
    await page.screenshot({ path: join(folder, `${name}.png`) });
    await page.close();
    console.log(`docs/screenshots/${name}.png`);
  }
} finally {
  await browser.close();
  server.kill('SIGTERM');
  await once(server, 'exit');
}
