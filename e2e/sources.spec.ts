import { createServer, type Server } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { broughtIn, expect, pop, remark, status, test, wrong, type Page } from './sheet.js';

const FIRST = 'Item no.,Thing\nA-1,hat\nA-2,key\nA-3,glove\nA-4,cap\n';

let depot: Server;
let content = FIRST;
let isAway = false;
test.beforeAll(async () => {
  depot = createServer((_, response) =>
    isAway ? response.writeHead(500).end() : response.writeHead(200, { 'content-type': 'text/csv' }).end(content),
  );
  depot.listen(0, '127.0.0.1');
  await once(depot, 'listening');
});
test.afterAll(() => void depot.close());
test.beforeEach(() => {
  content = FIRST;
  isAway = false;
});

const address = (): string => `127.0.0.1:${(depot.address() as AddressInfo).port}/found.csv`;
const band = (page: Page, name: string) => page.getByRole('region', { name, exact: true });
const phrase = (page: Page, part: string) => page.locator(`.sentence [data-sets=${part}]`).first();
const heading = (page: Page) => page.getByRole('heading', { name: 'Refreshes itself' });

/** A table that refreshes itself from the depot, as it is kept by a program. */
async function keptFor(page: Page, name: string, more: object = {}): Promise<number> {
  const table = await broughtIn(page, name, FIRST);
  const source = {
    from: { address: `http://${address()}`, signIn: 'none' },
    rhythm: { every: 'day', at: '02:00', zone: 'Etc/UTC' },
    ...{ key: ['Item no.'], gone: 'remove', most: 30 },
    ...more,
  };
  const kept = await page.request.put(`/api/tables/${table}/source`, { data: { source } });
  expect(kept.ok()).toBe(true);
  return table;
}
const run = (page: Page, table: number) => page.request.post(`/api/tables/${table}/source/run`, { data: {} });

test('a table is let refresh itself by its sentence: tried, kept, and done at once', async ({ page }) => {
  await broughtIn(page, 'Nightly', FIRST);
  content = 'Item no.,Thing\nA-1,hat\nA-2,keys on a ring\nA-3,glove\nA-4,cap\nA-5,comb\n';
  await page.goto('/');
  await band(page, 'Nightly').getByRole('button', { name: 'More of Nightly' }).click();
  await pop(page).getByRole('link', { name: 'Let it refresh itself …' }).click();
  await expect(heading(page)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Keep it' })).toBeDisabled();
  await expect(phrase(page, 'key')).toHaveText('Item no.');
  await phrase(page, 'from').click();
  expect(await wrong(page, '.p-popover')).toEqual([]);
  await page.getByLabel('The address').fill(`http://${address()}`);
  await page.keyboard.press('Enter');
  await expect(phrase(page, 'from')).toHaveText(address());
  await phrase(page, 'rhythm').click();
  await page.getByRole('radio', { name: 'every so many minutes' }).click();
  await page.getByLabel('every').fill('20');
  await page.keyboard.press('Enter');
  await phrase(page, 'most').click();
  await page.getByLabel(/It waits for me/).fill('40');
  await page.keyboard.press('Enter');
  await phrase(page, 'gone').click();
  await page.getByRole('radio', { name: 'go', exact: true }).click();
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByRole('status').first()).toHaveText(
    'It would change this now: 1 added, 1 changed; 3 as they are.',
  );
  await page.getByRole('radio', { name: '1 changed' }).click();
  await expect(page.locator('un-refresh-rows')).toContainText('keys on a ring');
  expect(await wrong(page)).toEqual([]);
  // A sentence that was changed since is to be tried again.
  await phrase(page, 'gone').click();
  await page.getByRole('radio', { name: 'stay', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Keep it' })).toBeDisabled();
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(remark(page)).toContainText('Nightly refreshes itself from now on: next on');
  await expect(band(page, 'Nightly')).toContainText(
    `Refreshes itself every 20 minutes from ${address()}, matching rows by Item no.; rows that are gone stay; waits for me if more than 40 % would change. It has not run yet.`,
  );
  await remark(page).getByRole('button', { name: 'Do it now' }).click();
  await expect(band(page, 'Nightly')).toContainText('Last time 1 added, 1 changed. 1 run without a miss.');
  await expect(band(page, 'Nightly')).toContainText('5 rows');
  await band(page, 'Nightly').getByRole('button', { name: '1 run' }).click();
  await expect(pop(page)).toContainText('1 added, 1 changed');
});

test('what is more than may change waits: it is looked at, left, or done', async ({ page }) => {
  const table = await keptFor(page, 'Waiting');
  content = 'Item no.,Thing\nA-1,hat\n';
  await run(page, table);
  await page.goto('/');
  const waits = band(page, 'Waiting').getByRole('status');
  await expect(waits).toContainText('3 of 4 rows would go.');
  expect(await wrong(page)).toEqual([]);
  await waits.getByRole('link', { name: 'Look at it' }).click();
  await expect(heading(page)).toBeVisible();
  await expect(page.locator('un-refresh-rows')).toContainText('3 gone');
  await page.getByRole('button', { name: 'Leave it, and go on' }).click();
  await expect(band(page, 'Waiting')).toContainText('What the last run brought was left.');
  await run(page, table);
  await expect(waits).toBeVisible();
  // Who opens the table meanwhile is told from when its rows are.
  await page.goto(`/table/${table}`);
  await expect(status(page)).toContainText(/These rows are from \d+ \w+: the table could not refresh itself since\./);
  await page.goto('/');
  await waits.getByRole('button', { name: 'Do it' }).click();
  await expect(band(page, 'Waiting')).toContainText('Last time 3 gone.');
  await page.goto(`/table/${table}`);
  await expect(status(page)).toContainText('1 of 1 row');
  await expect(status(page)).not.toContainText('These rows are from');
});

test('what does not answer, and what may not be asked, is said; what was typed stays', async ({ page }) => {
  const table = await keptFor(page, 'Failing');
  isAway = true;
  await page.goto(`/source/${table}`);
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByRole('alert')).toContainText('127.0.0.1 answered with 500');
  await phrase(page, 'from').click();
  await page.getByLabel('The address').fill('http://10.0.0.1/found.csv');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByRole('alert')).toContainText('10.0.0.1 is an address of the server’s own network.');
  await expect(phrase(page, 'from')).toHaveText('10.0.0.1/found.csv');
  await phrase(page, 'from').click();
  await page.getByRole('combobox', { name: 'It is asked' }).click();
  await page.getByRole('option', { name: 'with a token' }).click();
  await page.getByLabel('Token', { exact: true }).fill('s3cret-token');
  await page.getByLabel('The address').fill(`http://${address()}`);
  await page.keyboard.press('Enter');
  isAway = false;
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(band(page, 'Failing')).toContainText('Refreshes itself');
  await page.goto(`/source/${table}`);
  await expect(phrase(page, 'from')).toBeVisible();
  expect(await page.content()).not.toContain('s3cret');
  await page.setViewportSize({ width: 390, height: 844 });
  await phrase(page, 'from').click();
  expect(await wrong(page)).toEqual([]);
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'End it' }).click();
  await expect(remark(page)).toContainText('Failing does not refresh itself any more.');
  await expect(band(page, 'Failing')).not.toContainText('Refreshes itself');
});
