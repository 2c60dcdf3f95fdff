/** Rows leave: as a file, as cells, as a page, by an address; whole, of what is on show or selected, or not at all. */
import { readFile } from 'node:fs/promises';
import { readSheet } from 'read-excel-file/node';
import { box, broughtIn, expect, type Locator, type Page, remark, rows, test, wrong } from './sheet.js';

const CSV = `Item,Status,Weight
red hat,Held,1500
blue hat,Sold,=1+1
red cap,Held,3.5
"glove, left",Held,
`;

const panel = (page: Page): Locator => page.getByRole('complementary', { name: 'Take out' });
const cell = (page: Page, row: number, column: number): Locator => rows(page).nth(row).locator('.cell').nth(column);
let tables = 0;

async function open(page: Page, csv = CSV): Promise<number> {
  const id = await broughtIn(page, `Out ${++tables}`, csv);
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  await page.getByRole('button', { name: 'Take out' }).click();
  await expect(panel(page)).toBeVisible();
  return id;
}

/** Chooses in a phrase of the sentence. */
async function choose(page: Page, phrase: string | RegExp, choice: string | RegExp): Promise<void> {
  await panel(page).getByRole('button', { name: phrase }).click();
  await page.getByRole('dialog').getByRole('radio', { name: choice }).click();
}

async function taken(page: Page): Promise<{ name: string; bytes: Buffer }> {
  const coming = page.waitForEvent('download');
  await panel(page).getByRole('button', { name: 'Take it out' }).click();
  const download = await coming;
  return { name: download.suggestedFilename(), bytes: await readFile(await download.path()) };
}

test('the rows on show leave as a spreadsheet file, then as CSV; the way is remembered', async ({ page }) => {
  await open(page);
  await box(page).fill('hat');
  await expect(panel(page)).toContainText('Takes out the 2 rows on show with every column, in the table’s own order');
  await expect(panel(page).locator('pre')).toContainText('red hat');
  const file = await taken(page);
  expect(file.name).toMatch(/\.xlsx$/);
  expect(await readSheet(file.bytes)).toEqual([
    ['Item', 'Status', 'Weight'],
    ['red hat', 'Held', '1500'],
    ['blue hat', 'Sold', '=1+1'],
  ]);
  await expect(remark(page)).toContainText('2 rows are taken out, as of change 1.');
  await choose(page, 'a spreadsheet file', 'CSV');
  await choose(page, 'to the letter', 'safe to open');
  await choose(page, 'parted by commas', 'parted by semicolons');
  expect((await taken(page)).bytes.toString()).toBe(
    "Item;Status;Weight\r\nred hat;Held;1500\r\nblue hat;Sold;'=1+1\r\n",
  );
  expect(await wrong(page)).toEqual([]);
  await page.reload();
  await page.getByRole('button', { name: 'Take out' }).click();
  await expect(panel(page)).toContainText('as CSV, parted by semicolons, as plain UTF-8, safe to open');
  await panel(page).getByRole('checkbox', { name: 'names of the columns first' }).click();
  await choose(page, /rows on show/, /not on show/);
  expect((await taken(page)).bytes.toString()).toBe('red cap;Held;3.5\r\nglove, left;Held;\r\n');
});

test('rows selected by Ctrl and click, by Shift, and all on show by Ctrl+A leave in the order on show', async ({
  page,
}) => {
  await open(page);
  await choose(page, 'a spreadsheet file', 'CSV');
  await cell(page, 3, 0).click();
  await cell(page, 0, 0).click({ modifiers: ['Control'] });
  await cell(page, 2, 0).click({ modifiers: ['Control'] });
  await cell(page, 2, 0).click({ modifiers: ['Control'] });
  await expect(page.locator('footer')).toContainText('2 rows selected');
  await choose(page, /rows on show/, 'the 2 rows selected');
  expect((await taken(page)).bytes.toString()).toBe(
    'Item,Status,Weight\r\nred hat,Held,1500\r\n"glove, left",Held,\r\n',
  );
  await cell(page, 1, 0).click();
  await cell(page, 2, 0).click({ modifiers: ['Shift'] });
  await expect(panel(page)).toContainText('the 2 rows selected');
  await page.keyboard.press('Control+a');
  await expect(page.locator('footer')).toContainText('4 rows selected');
  await expect(panel(page)).toContainText('the 4 rows selected');
  // The page itself is not selected, and one cell is gone to again by Esc.
  expect(await page.evaluate(() => getSelection()?.toString())).toBe('');
  await page.keyboard.press('Escape');
  await expect(panel(page)).toContainText('the 4 rows on show');
  // By keys alone, rows apart from each other; what was selected once is let go the same way.
  await cell(page, 0, 0).click();
  for (const key of ['Control+Space', 'ArrowDown', 'Control+Space', 'ArrowDown', 'ArrowDown', 'Control+Space'])
    await page.keyboard.press(key);
  await expect(page.locator('footer')).toContainText('3 rows selected');
  for (const key of ['ArrowUp', 'ArrowUp', 'Control+Space']) await page.keyboard.press(key);
  await expect(panel(page)).toContainText('the 2 rows selected');
  expect((await taken(page)).bytes.toString()).toBe(
    'Item,Status,Weight\r\nred hat,Held,1500\r\n"glove, left",Held,\r\n',
  );
  await cell(page, 0, 0).click();
  await expect(panel(page)).toContainText('the 4 rows on show');
  await cell(page, 2, 0).click({ modifiers: ['Control'] });
  await page.keyboard.press('Control+Delete');
  await expect(remark(page)).toContainText('2 rows are removed.');
  await expect(panel(page)).toContainText('the 2 rows on show');
});

test('copied cells are text with tabs, and a table with the marks for documents', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await open(page, 'Item,Note\nhat <b>,"a\nb"\nred hat,=1\ncap,x\npen,y\n');
  await box(page).fill('hat');
  await expect(panel(page)).toContainText('the 2 rows on show');
  await panel(page).getByRole('button', { name: 'Copy as cells' }).click();
  await expect(remark(page)).toContainText('2 rows copied.');
  const read = (type: string): Promise<string> =>
    page.evaluate(async (of) => (await (await navigator.clipboard.read())[0].getType(of)).text(), type);
  expect(await read('text/plain')).toBe('Item\tNote\nhat <b>\t"a\nb"\nred hat\t=1');
  const html = await read('text/html');
  expect(html).toContain('<b><u>hat</u></b> &lt;b&gt;');
  expect(html.replace(/\s+(style|class)="[^"]*"/g, '')).toContain('a<br>b');
});

test('a page to print opens by itself, with what was asked and the marks', async ({ page, context }) => {
  await open(page);
  await box(page).fill('hat');
  await choose(page, 'a spreadsheet file', 'a page to print');
  await choose(page, 'without marks', 'with the marks');
  const coming = context.waitForEvent('page');
  await panel(page).getByRole('button', { name: 'Take it out' }).click();
  const printed = await coming;
  await expect(printed.locator('tbody tr')).toHaveCount(2);
  await expect(printed.locator('mark')).toHaveText(['hat', 'hat']);
  await expect(printed.locator('.typed')).toHaveText('hat');
  await expect(printed.locator('body')).toContainText('Looks in Item');
});

test('an address gives the rows of the page that it is of; a box that is not saved has none yet', async ({ page }) => {
  await open(page);
  await expect(panel(page)).toContainText('Save this one first');
  await page.goto('/box/1');
  await box(page).fill('umbr wood');
  await page.getByRole('button', { name: 'Take out' }).click();
  const address = panel(page).getByRole('textbox', { name: 'The address' });
  await expect(address).toHaveValue(/\/b\/1\.csv\?q=umbr\+wood$/);
  const reply = await page.request.get(await address.inputValue());
  const count = Number(/the (\d+) rows on show/.exec((await panel(page).textContent())!)![1]);
  expect((await reply.text()).trim().split('\r\n').length).toBe(count + 1);
  await expect(panel(page).getByRole('link', { name: 'as JSON', exact: true })).toHaveAttribute(
    'href',
    /\/b\/1\.json\?q=/,
  );
});

test('rows go on leaving while the panel is closed, and a phone has them in its menu', async ({ page }) => {
  const id = await open(page);
  let go: () => void = () => undefined;
  await page.route(`**/api/tables/${id}/take-out`, async (route) => {
    await new Promise<void>((done) => (go = done));
    await route.continue();
  });
  await panel(page).getByRole('button', { name: 'Take it out' }).click();
  await expect(panel(page).getByRole('button', { name: 'Stop' })).toBeVisible();
  await panel(page).getByRole('button', { name: 'Close' }).click();
  await expect(page.locator('footer')).toContainText('Rows are being taken out');
  const coming = page.waitForEvent('download');
  go();
  expect((await coming).suggestedFilename()).toMatch(/\.xlsx$/);
  await expect(page.locator('footer')).not.toContainText('being taken out');
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('button', { name: 'Take rows out …' }).click();
  await expect(panel(page)).toContainText('the 4 rows on show');
  expect(await wrong(page)).toEqual([]);
});

test('what is stopped, or cut off, leaves no file; what cannot be is said before', async ({ page }) => {
  const id = await open(
    page,
    `Item\n${Array.from({ length: 5 }, (_, i) => `thing ${i}`).join('\n')}\n${'x'.repeat(40_000)}\n`,
  );
  let files = 0;
  page.on('download', () => files++);
  let go: () => void = () => undefined;
  await page.route(`**/api/tables/${id}/take-out`, async (route) => {
    await new Promise<void>((done) => (go = done));
    await route.abort().catch(() => undefined);
  });
  const take = panel(page).getByRole('button', { name: 'Take it out' });
  await take.click();
  await expect(panel(page).getByRole('status')).toContainText('looked up');
  await panel(page).getByRole('button', { name: 'Stop' }).click();
  await expect(take).toBeVisible();
  go();
  await take.click();
  await expect(panel(page).getByRole('button', { name: 'Stop' })).toBeVisible();
  go();
  await expect(panel(page).getByRole('alert')).toContainText('nothing of it is kept');
  await page.unroute(`**/api/tables/${id}/take-out`);
  await take.click();
  await expect(panel(page).getByRole('alert')).toContainText('one of “Item” has 40,000. Leave that column out');
  expect(files).toBe(0);
});
