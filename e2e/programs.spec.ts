/** The demo looked at as its made-up people, in windows of their own; and tokens that a person gives to programs. */
import { freshServer } from '../tools/fresh-server.mjs';
import type { FreshServer } from '../tools/fresh-server.mjs';
import { box, expect, rows, test, wrong } from './sheet.js';

test.describe.configure({ mode: 'serial' });

let server: FreshServer;
test.beforeAll(async () => {
  server = await freshServer();
});
test.afterAll(() => server.stop());

const PASSWORD = 'a long enough password';

test('the demo is looked at as its made-up people, by one click, in two windows at once', async ({ browser }) => {
  const context = await browser.newContext({ baseURL: server.address, serviceWorkers: 'block' });
  const page = await context.newPage();
  await page.goto('/');
  const as = async (name: string) => {
    const opened = context.waitForEvent('page');
    await page.getByRole('link', { name }).click();
    return opened;
  };
  const [kessel, brandt] = [await as('T. Kessel'), await as('O. Brandt')];
  // One who keeps Found items has that table, and nothing that only its builder can do.
  await expect(kessel.locator('section.table')).toHaveCount(1);
  await expect(kessel.getByText('you see it as T. Kessel, who keeps Found items')).toBeVisible();
  for (const name of ['Refresh Found items', 'More to do with Found items', 'Sign out'])
    await expect(kessel.getByRole('button', { name })).toHaveCount(0);
  await expect(kessel.getByText('Bring a table in')).toBeHidden();
  expect(await wrong(kessel)).toEqual([]);
  await kessel.getByRole('link', { name: 'Front desk look-up' }).click();
  await expect(rows(kessel).first()).toBeVisible();
  for (const name of ['Save', 'Wording'])
    await expect(kessel.getByRole('button', { name, exact: true })).toHaveCount(0);
  await expect(kessel.getByRole('link', { name: 'Share' })).toHaveCount(0);
  await expect(kessel.getByRole('button', { name: 'History' })).toBeVisible();
  // A reader has the box that is shared with them, and no table.
  await expect(brandt.locator('section.table')).toHaveCount(0);
  await brandt.getByRole('link', { name: 'Front desk look-up' }).click();
  await box(brandt).fill('umbrella');
  await expect(rows(brandt).first()).toContainText(/umbrella/i);
  await expect(brandt.getByRole('button', { name: 'History' })).toHaveCount(0);
  // The first window goes on as it was.
  await page.reload();
  await expect(page.locator('section.table')).toHaveCount(3);
  await brandt.getByRole('link', { name: 'Be yourself again' }).click();
  await expect(brandt.locator('section.table')).toHaveCount(3);
  await context.close();
});

test('a token is made by a sentence, told once, used by a program, and ended; a password is changed', async ({
  browser,
}) => {
  const context = await browser.newContext({ baseURL: server.address, serviceWorkers: 'block' });
  const page = await context.newPage();
  await page.goto('/you');
  await expect(page.locator('main')).toContainText('Nobody signs in here');
  const made = await context.request.post('/api/people', { data: { name: 'M. Lind', everything: true } });
  await page.goto(((await made.json()) as { path: string }).path);
  await page.getByLabel(/Password/).fill(PASSWORD);
  await page.getByRole('button', { name: 'Come in' }).click();
  await page.getByRole('link', { name: 'M. Lind' }).click();
  await expect(page.locator('main')).toContainText('No program has a token of yours.');
  expect(await wrong(page)).toEqual([]);

  // A field that is typed into has the size that it had: what is clicked next is where it was.
  const name = page.getByLabel('What the token is for');
  const before = await name.boundingBox();
  await name.fill('Nightly refresh');
  expect(await name.boundingBox()).toEqual(before);
  await page.getByRole('button', { name: 'reads' }).click();
  await page.getByRole('radio', { name: 'refreshes' }).click();
  await page.getByRole('button', { name: 'all my tables' }).click();
  await page.getByRole('dialog').getByLabel('Found items').click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Make a token' }).click();
  const told = page.getByRole('textbox', { name: 'The token', exact: true });
  await expect(told).toHaveValue(/^needle-[\w-]{22}$/);
  const token = await told.inputValue();
  const list = page.getByRole('list', { name: 'Tokens' });
  await expect(list).toContainText('refreshes Found items, until');
  expect(await wrong(page)).toEqual([]);

  const program = await browser.newContext({
    baseURL: server.address,
    extraHTTPHeaders: { authorization: `Bearer ${token}` },
  });
  const ask = async (path: string) => (await program.request.get(path)).status();
  expect([await ask('/api/tables'), await ask('/api/tables/1')]).toEqual([200, 403]);
  await page.reload();
  await expect(told).toHaveCount(0);
  await expect(list).toContainText('used just now');
  expect(await page.content()).not.toContain(token.slice(7));
  await page.getByRole('button', { name: 'End Nightly refresh' }).click();
  await expect(list).toContainText('No program has a token of yours.');
  expect(await ask('/api/tables')).toBe(401);

  await page.getByLabel('The one you have').fill('not that one');
  await page.getByLabel(/A new one/).fill('another long password');
  await page.getByRole('button', { name: 'Change it' }).click();
  await expect(page.getByRole('alert')).toContainText('not the password that you have');
  await page.getByLabel('The one you have').fill(PASSWORD);
  await page.getByLabel(/A new one/).fill('another long password');
  await page.getByRole('button', { name: 'Change it' }).click();
  await expect(page.getByText('Your password is changed.')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('link', { name: 'M. Lind' })).toBeVisible();
  await context.close();
  await program.close();
});
