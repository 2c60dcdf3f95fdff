/** A box is handed to somebody: by a link, in another browser, within what its builder has opened; and people who sign in. */
import { freshServer } from '../tools/fresh-server.mjs';
import type { FreshServer } from '../tools/fresh-server.mjs';
import type { Browser, BrowserContext } from '@playwright/test';
import { box, expect, type Page, rows, test, wrong } from './sheet.js';

// One after the other, on one server: the last one has everybody sign in.
test.describe.configure({ mode: 'serial' });

let server: FreshServer;
test.beforeAll(async () => {
  server = await freshServer();
});
test.afterAll(() => server.stop());

const PASSWORD = 'a long enough password';

const browserOf = (browser: Browser): Promise<BrowserContext> =>
  browser.newContext({ baseURL: server.address, serviceWorkers: 'block' });

/** Opens a phrase of the sentence, ticks what is named, and closes it. */
async function tick(page: Page, phrase: string | RegExp, ...labels: readonly (string | RegExp)[]): Promise<void> {
  await page.locator('main').getByRole('button', { name: phrase }).click();
  for (const label of labels) {
    // Whoever leaves the page before it is saved takes it with them.
    const saved = page.waitForResponse((reply) => reply.request().method() === 'PUT' && reply.url().endsWith('/share'));
    await page.getByRole('dialog').getByLabel(label).click();
    await saved;
  }
  await page.keyboard.press('Escape');
}

test('from Share to a row that the reader has found: four actions of the builder, and well under a minute', async ({
  browser,
}) => {
  const builder = await browserOf(browser);
  const page = await builder.newPage();
  await page.goto('/box/1');
  await expect(rows(page).first()).toBeVisible();
  const began = performance.now();
  let actions = 0;
  const act = async (does: () => Promise<unknown>): Promise<void> => (actions++, void (await does()));
  await act(() => page.getByRole('link', { name: 'Share' }).click());
  await act(() => page.getByRole('button', { name: 'Make a link' }).click());
  const link = page.getByRole('textbox', { name: 'The link' });
  await expect(link).toHaveValue(/\/b\/front-desk-look-up-[\w-]{22}$/);
  const address = await link.inputValue();

  const reader = await browserOf(browser);
  const theirs = await reader.newPage();
  await theirs.goto(new URL(address).pathname);
  await box(theirs).fill('umbrella');
  await expect(rows(theirs).first()).toContainText(/umbrella/i);
  expect(actions).toBeLessThanOrEqual(6);
  expect(performance.now() - began).toBeLessThan(60_000);
  // Nothing that changes the box, and no way to the table.
  for (const name of ['Save', 'Wording', 'Share', 'History', 'Chart'])
    await expect(theirs.getByRole('button', { name, exact: true })).toHaveCount(0);
  expect(await wrong(theirs)).toEqual([]);
  await builder.close();
  await reader.close();
});

test('what a reader gets is said column by column, and is what they get', async ({ browser }) => {
  const builder = await browserOf(browser);
  const page = await builder.newPage();
  await page.goto('/box/1/share');
  await expect(page.getByRole('row', { name: /^Description/ })).toContainText('yes');
  await tick(page, /of \d+ columns/, 'Colour');
  await expect(
    page
      .getByRole('row', { name: /^Colour/ })
      .getByRole('cell')
      .first(),
  ).toHaveText('no');
  await tick(page, /narrow, sort/, 'sort', 'flip');
  await expect(page.locator('p.says').first()).toContainText('They may narrow;');
  expect(await wrong(page)).toEqual([]);
  await page.getByRole('link', { name: 'See it as a reader' }).click();
  await expect(rows(page).first()).toBeVisible();
  await expect(page.getByRole('columnheader', { name: /Description/ })).toBeVisible();
  await expect(page.getByRole('columnheader', { name: /Colour/ })).toHaveCount(0);
  await expect(page.getByRole('button', { name: /Flip/ })).toHaveCount(0);
  await expect(page.locator('.sorted')).toHaveCount(0);
  expect(await page.content()).not.toContain('Colour');
  await builder.close();
});

test('readers edit the columns that are open to them, in their sheet, and no others', async ({ browser }) => {
  const builder = await browserOf(browser);
  const page = await builder.newPage();
  await page.goto('/box/1/share');
  await tick(page, /narrow/, 'edit', 'take out');
  await page.goto('/b/1');
  await box(page).fill('umbrella');
  await page.getByRole('button', { name: 'Take out' }).click();
  const taken = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Take it out' }).click();
  expect((await taken).suggestedFilename()).toBe('Front desk look-up.xlsx');
  await page.goto('/box/1/share');
  await tick(page, /narrow/, 'take out');
  await page
    .locator('main')
    .getByRole('button', { name: /narrow/ })
    .click();
  await page.getByRole('dialog').getByLabel('Marks', { exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(
    page
      .getByRole('row', { name: /^Marks/ })
      .getByRole('cell')
      .nth(3),
  ).toHaveText('yes');
  await page.goto('/b/1?q=umbrella');
  await expect(rows(page).first()).toBeVisible();
  const cell = (name: string) =>
    page
      .locator('.head .name')
      .allInnerTexts()
      .then((names) =>
        rows(page)
          .first()
          .locator('.cell')
          .nth(names.findIndex((one) => one.startsWith(name))),
      );
  await (await cell('Description')).dblclick();
  await expect(page.locator('.remark')).toContainText('Description is not to be edited here.');
  await (await cell('Marks')).dblclick();
  await page.locator('un-cell-editor textarea').fill('a star in ink');
  await page.keyboard.press('Enter');
  await expect(await cell('Marks')).toContainText('a star in ink');
  await expect(page.getByRole('button', { name: 'Add a row' })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Remove row' })).toHaveCount(0);
  // Nothing is offered that was not opened.
  await expect(page.getByRole('button', { name: 'Take out' })).toHaveCount(0);
  const told = await page.request.get('/api/tables/1/changes?brief=true&limit=1');
  expect(JSON.stringify(await told.json())).toContain('a star in ink');
  await builder.close();
});

test('people come by a link, sign in and out, and are told to sign in where they have to', async ({ browser }) => {
  const first = await browserOf(browser);
  const page = await first.newPage();
  await page.goto('/');
  await page.getByRole('link', { name: 'People' }).click();
  await expect(page.locator('main')).toContainText('Nobody can sign in here yet');
  await page.getByRole('button', { name: 'Make yourself first' }).click();
  await page.getByRole('textbox', { name: /Your name/ }).fill('M. Lind');
  await page.getByRole('button', { name: 'Make the link' }).click();
  const link = page.getByRole('textbox', { name: 'The link' });
  await expect(link).toHaveValue(/\/come\//);
  const address = new URL(await link.inputValue()).pathname;
  await page.goto(address);
  await page.getByLabel(/Password/).fill(PASSWORD);
  await page.getByRole('button', { name: 'Come in' }).click();
  await expect(page.getByRole('button', { name: 'Sign out' })).toBeVisible();
  await expect(page.locator('header')).toContainText('M. Lind');
  // The link is used up.
  await page.goto(address);
  await expect(page.getByRole('alert')).toContainText('It was used');

  await page.goto('/people');
  await page.getByRole('button', { name: 'Invite someone' }).click();
  await page.getByRole('textbox', { name: /Their name/ }).fill('T. Kessel');
  await page.getByRole('button', { name: 'Make the link' }).click();
  await expect(page.locator('main')).toContainText('The link for T. Kessel');
  const theirs = new URL(await page.getByRole('textbox', { name: 'The link' }).inputValue()).pathname;
  await page.getByRole('button', { name: /What T. Kessel may do/ }).click();
  await page.getByRole('radiogroup', { name: 'Found items' }).getByRole('radio', { name: 'keeps' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: /What T. Kessel may do/ })).toContainText('Keeps Found items');
  // What somebody new starts as, and for how long a sign-in lasts, are phrases of the sentence.
  // Each is chosen while the one before is still on its way, and none is lost.
  await page.route('**/api/people**', async (route) => {
    if (route.request().method() === 'PATCH') await new Promise((done) => setTimeout(done, 700));
    await route.continue();
  });
  await page.getByRole('button', { name: /What T. Kessel may do/ }).click();
  await page.getByRole('radiogroup', { name: 'Stops' }).getByRole('radio', { name: 'keeps' }).click();
  await page.getByRole('radiogroup', { name: 'Claims' }).getByRole('radio', { name: 'keeps' }).click();
  await page.getByRole('radiogroup', { name: 'Stops' }).getByRole('radio', { name: 'has no part in it' }).click();
  await page.getByRole('radiogroup', { name: 'Claims' }).getByRole('radio', { name: 'has no part in it' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: '30 days' }).click();
  await page.getByRole('radio', { name: '7 days' }).click();
  await page.getByRole('button', { name: 'a reader of what is shared with everyone' }).click();
  await page.getByRole('radio', { name: 'a keeper of every table' }).click();
  await expect(page.locator('p.says')).toContainText('starts as a keeper of every table. Signing in lasts 7 days.');
  await expect(page.getByRole('list', { name: 'What was changed about access' })).toContainText(
    'lets newcomers keep every table, and sign-ins last 7 days',
  );
  await page.unroute('**/api/people**');
  await page.reload();
  await expect(page.getByRole('button', { name: /What T. Kessel may do/ })).toContainText('Keeps Found items; reads');
  expect(await wrong(page)).toEqual([]);

  const second = await browserOf(browser);
  const other = await second.newPage();
  await other.goto('/');
  await expect(other).toHaveURL(/\/sign-in/);
  expect(await wrong(other)).toEqual([]);
  await other.goto(theirs);
  await other.getByLabel(/Password/).fill(PASSWORD);
  await other.getByRole('button', { name: 'Come in' }).click();
  await expect(other.locator('section.table')).toHaveCount(1);
  await expect(other.getByRole('link', { name: 'People' })).toHaveCount(0);
  await other.getByRole('button', { name: 'Sign out' }).click();
  await other.goto('/table/1');
  await expect(other).toHaveURL(/sign-in\?to=%2Ftable%2F1/);
  await other.getByLabel('Name').fill('t. kessel');
  await other.getByLabel('Password').fill('not that');
  await other.keyboard.press('Enter');
  await expect(other.getByRole('alert')).toContainText('do not go together');
  await other.getByLabel('Password').fill(PASSWORD);
  await other.keyboard.press('Enter');
  await expect(rows(other).first()).toBeVisible();
  await expect(other).toHaveURL(/\/table\/1/);
  await first.close();
  await second.close();
});
