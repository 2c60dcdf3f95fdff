/**
 * A page that is used for half an hour as a keeper does: it types, takes back, opens a row, history and chart, edits cells, goes to
 * the shelf and back. Every minute, once garbage has been collected, its nodes, listeners and heap are told: they are to be flat.
 */
import { existsSync } from 'node:fs';
import { chromium } from '@playwright/test';

const TEXTS = ['umbrella wood', 'black hat', 'lp-4051', 'gnome', '/umb.*wood/', '~walet', 'zzz'];

export async function pageSoak(address: string, table: number, minutes: number): Promise<void> {
  const executablePath = process.env['CHROMIUM'] ?? '/usr/bin/chromium';
  if (!existsSync(executablePath)) return console.log('no Chromium: the page is left out');
  const browser = await chromium.launch({ executablePath, args: ['--no-sandbox', '--disable-gpu'] });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  const devtools = await page.context().newCDPSession(page);
  await devtools.send('Performance.enable');
  const rows = page.locator('un-record-grid .row');
  await page.goto(`${address}/table/${table}`);
  let rounds = 0;
  const round = async (): Promise<void> => {
    const box = page.getByLabel('Find', { exact: true });
    await box.fill('');
    for (const letter of TEXTS[rounds++ % TEXTS.length]) await box.press(letter === ' ' ? 'Space' : letter);
    await page.waitForTimeout(200);
    await box.fill('');
    await page.locator('footer').getByText('every row searched').waitFor();
    await page.waitForTimeout(300);
    await rows.nth(2).locator('.cell').nth(1).click();
    await page.keyboard.press('Space');
    await page.locator('un-peek dd').first().waitFor();
    await page.keyboard.press('Escape');
    await rows.nth(3).locator('.cell').nth(1).click();
    await page.keyboard.type(`soak ${rounds}`);
    await page.keyboard.press('Enter');
    for (const [name, panel] of [
      ['History', 'un-history-drawer article'],
      ['Chart', 'un-chart-panel'],
    ]) {
      await page.getByRole('button', { name, exact: true }).click();
      await page.locator(panel).first().waitFor();
      await page.keyboard.press('Escape');
    }
    if (rounds % 3 === 0) {
      await page.locator('a[href="/"]').first().click();
      await page.getByRole('textbox', { name: 'Find everywhere' }).fill(`umb${'r'.repeat(rounds % 2)}`);
      await page.waitForTimeout(300);
      await page.goBack();
      await rows.nth(3).waitFor();
    }
  };
  for (let minute = 1; minute <= minutes; minute++) {
    const until = performance.now() + 60_000;
    while (performance.now() < until) await round();
    await devtools.send('HeapProfiler.collectGarbage');
    const { metrics } = await devtools.send('Performance.getMetrics');
    const of = (name: string): number => metrics.find((metric) => metric.name === name)!.value;
    const said = `${of('Nodes')} nodes, ${of('JSEventListeners')} listeners, heap ${(of('JSHeapUsedSize') / 1e6).toFixed(1)} MB`;
    console.log(`  page, minute ${minute}, ${rounds} rounds: ${said}, ${errors.length} errors ${errors.at(-1) ?? ''}`);
  }
  await browser.close();
}
