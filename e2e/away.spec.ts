/** A server that is away, or still starting: a page says so, and opens what was asked for by itself. */
import { freshServer } from '../tools/fresh-server.mjs';
import { expect, rows, test, wrong } from './sheet.js';

test.use({ serviceWorkers: 'allow' });

test('where the server is away a page says so, and what was asked for opens once it is back', async ({ browser }) => {
  test.setTimeout(180_000);
  let server = await freshServer();
  const { address, data } = server;
  const port = Number(new URL(address).port);
  const context = await browser.newContext({ baseURL: address, serviceWorkers: 'allow' });
  const page = await context.newPage();
  await page.goto('/box/1?q=umbr');
  await expect(rows(page).first()).toContainText(/umbr/i);
  // From now on the browser has what it needs.
  await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
  await server.stop({ keep: true });
  await page.reload();
  await expect(page.getByRole('heading', { name: 'The server is away' })).toBeVisible();
  expect(await wrong(page)).toEqual([]);
  await page.goto('/table/2');
  await expect(page.getByRole('heading', { name: 'The server is away' })).toBeVisible();
  await page.goto('/box/1?q=umbr').catch(() => undefined);
  server = await freshServer({ port, data });
  await expect(rows(page).first()).toContainText(/umbr/i);
  await expect(page).toHaveURL(/q=umbr/);
  await context.close();
  await server.stop();
});

test('a document for programs is never what a browser is shown', async ({ page, request, address }) => {
  await page.goto('/nothing.txt');
  await expect(page.getByRole('heading', { name: 'There is nothing at this address' })).toBeVisible();
  await page.getByRole('link', { name: 'Go to the shelf' }).click();
  await expect(page.getByRole('textbox', { name: 'Find everywhere' })).toBeVisible();
  const asked = await request.get(`${address}/nothing.txt`, { headers: { accept: '*/*' } });
  expect(asked.headers()['content-type']).toContain('application/problem+json');
});

test('the demo is put away in one click, and brought back', async ({ browser }) => {
  const server = await freshServer();
  const page = await browser.newPage({ baseURL: server.address, serviceWorkers: 'block' });
  await page.goto('/');
  await expect(page.locator('section.table')).toHaveCount(3);
  await page.getByRole('button', { name: 'Put the demo away' }).click();
  await expect(page.getByRole('heading', { name: 'Drop a file here' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Drop a file here' })).toBeVisible();
  await page.getByRole('button', { name: 'Bring the demo back' }).click();
  await expect(page.locator('section.table')).toHaveCount(3);
  await page.close();
  await server.stop();
});
