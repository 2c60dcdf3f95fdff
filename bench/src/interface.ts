/**
 * Key to painted rows, in the real interface: from the input event of a key to the frame after the one in which the grid
 * shows the rows that answer it. Run by `npm run bench`, against a server on BENCH_ADDRESS.
 */
import { chromium, type Page } from '@playwright/test';
import { figures, line } from './figures.js';

const TRACES = ['umbrella wood', 'keys lanyard', 'lp-40', 'brückl', 'e', 'serial', 'wallet red', 'owner rang', 'zzzz'];

interface Watched extends Window {
  painted?: number[];
}

async function watch(page: Page): Promise<void> {
  await page.evaluate(() => {
    const times: number[] = [];
    (window as Watched).painted = times;
    const grid = document.querySelector('.scroller')!;
    let waiting: { text: string; since: number } | undefined;
    document.addEventListener(
      'input',
      (event) => (waiting = { text: (event.target as HTMLInputElement).value, since: event.timeStamp }),
      true,
    );
    new MutationObserver(() => {
      if (!waiting || grid.getAttribute('data-answers') !== waiting.text) return;
      const { since } = waiting;
      waiting = undefined;
      requestAnimationFrame(() => {
        const channel = new MessageChannel();
        channel.port1.onmessage = () => times.push(performance.now() - since);
        channel.port2.postMessage(null);
      });
    }).observe(grid, { attributes: true, attributeFilter: ['data-answers'] });
  });
}

/** Prints the figures of a table or box at an address, typing at a person's quick pace. */
export async function benchInterface(address: string, name: string): Promise<void> {
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address);
    await page.waitForSelector('un-record-grid .row .cell');
    const box = page.getByLabel('Find', { exact: true });
    const type = async (text: string): Promise<void> => {
      await box.focus();
      for (const key of text) {
        await page.keyboard.type(key);
        await page.waitForTimeout(110);
      }
      for (let i = 0; i < text.length; i++) {
        await page.keyboard.press('Backspace');
        await page.waitForTimeout(60);
      }
      await page.waitForTimeout(150);
    };
    await type('warm');
    await watch(page);
    for (const text of TRACES) await type(text);
    const times = await page.evaluate(() => (window as Watched).painted!);
    console.log(line(`key to painted rows, ${name}`, figures(times)));
  } finally {
    await browser.close();
  }
}
