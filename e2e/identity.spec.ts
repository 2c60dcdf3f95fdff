/** While a row or column is gone to, selected or typed into, others remove, move and rename it: the next key strikes the same, or nothing. */
import { broughtIn, expect, type Locator, type Page, remark, rows, test } from './sheet.js';

const THINGS = ['apple', 'brolly', 'cap', 'drum', 'easel', 'flute', 'glove', 'hat'];
const CSV = `No,Thing,Status\n${THINGS.map((thing, i) => `${i + 1},${thing},Held`).join('\n')}\n`;

const cell = (page: Page, row: number, column: number): Locator => rows(page).nth(row).locator('.cell').nth(column);
const field = (page: Page): Locator => page.locator('un-cell-editor textarea');
let keys = 0;

async function stored(page: Page, id: number): Promise<string[]> {
  const reply = await page.request.get(`/api/tables/${id}/rows`);
  return ((await reply.json()) as { rows: { cells: string[] }[] }).rows.map(({ cells }) => cells.join('|'));
}

async function changes(page: Page, id: number): Promise<number> {
  return ((await (await page.request.get(`/api/tables/${id}`)).json()) as { change: number }).change;
}

/** Another keeper does something, and the sheet has heard of it. */
async function elsewhere(page: Page, id: number, edit: object): Promise<void> {
  const data = { key: `elsewhere-${++keys}`, columns: [], who: 'Ada', ...edit };
  const reply = await page.request.post(`/api/tables/${id}/changes`, { data });
  expect(reply.status()).toBe(200);
}

const removal = (...ids: number[]) => ({ kind: 'removed', removed: ids.map((id) => ({ id, seen: 1_000 })) });

async function open(page: Page, query = ''): Promise<number> {
  const id = await broughtIn(page, `Identity ${++keys}`, CSV);
  await page.goto(`/table/${id}${query}`);
  await expect(rows(page).nth(7)).toBeVisible();
  return id;
}

test('a row that another removed takes no key, and its neighbour none either', async ({ page }) => {
  const id = await open(page);
  await cell(page, 2, 1).click();
  await elsewhere(page, id, removal(3));
  await expect(remark(page)).toContainText('The row you were on');
  await expect(remark(page)).toContainText('was removed by Ada');
  for (const key of ['Delete', 'x', 'F2', 'Control+Delete']) await page.keyboard.press(key);
  await expect(field(page)).toHaveCount(0);
  expect(await stored(page, id)).toEqual(THINGS.flatMap((thing, i) => (i === 2 ? [] : [`${i + 1}|${thing}|Held`])));
  // The arrow goes on from there: to the row that is in its place.
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Delete');
  await expect.poll(() => stored(page, id)).toContain('4||Held');
});

test('a selected block is the same rows, whatever comes into its middle, goes from it, or moves', async ({ page }) => {
  const id = await open(page);
  await page.getByRole('button', { name: 'Sort by Thing' }).click();
  await cell(page, 1, 1).click();
  await cell(page, 3, 1).click({ modifiers: ['Shift'] });
  await expect(page.locator('footer')).toContainText('3 rows × 1 column');
  // One comes between, one of them goes to the end, one before them is removed.
  await elsewhere(page, id, { kind: 'added', columns: ['No', 'Thing', 'Status'], added: [['9', 'button', 'Held']] });
  await elsewhere(page, id, {
    kind: 'edited',
    columns: ['Thing'],
    changed: [{ id: 3, was: ['cap'], now: ['zebra cap'] }],
  });
  await elsewhere(page, id, removal(1));
  await expect(rows(page).nth(1)).toContainText('button');
  await expect(page.locator('footer')).toContainText('3 rows × 1 column');
  await page.keyboard.press('Delete');
  await expect
    .poll(() => stored(page, id))
    .toEqual([
      '2||Held',
      '3||Held',
      '4||Held',
      '5|easel|Held',
      '6|flute|Held',
      '7|glove|Held',
      '8|hat|Held',
      '9|button|Held',
    ]);
});

test('a column is the same column when others are removed or put in order, and no other when it is removed', async ({
  page,
}) => {
  const id = await open(page);
  await cell(page, 0, 2).click();
  const columns = (data: object, method: 'patch' | 'post' = 'patch') =>
    page.request[method](`/api/tables/${id}/columns`, { data, headers: { 'if-match': '*' } });
  expect((await columns({ order: ['Status', 'No', 'Thing'] }, 'post')).status()).toBe(200);
  await expect(page.getByRole('columnheader').nth(1)).toContainText('Status');
  expect((await columns({ name: 'No', removed: true })).status()).toBe(200);
  await expect(page.getByRole('columnheader')).toHaveCount(3);
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await stored(page, id))[0]).toBe('|apple');
  expect((await columns({ name: 'Status', removed: true })).status()).toBe(200);
  await expect(page.getByRole('columnheader')).toHaveCount(2);
  const before = await changes(page, id);
  await page.keyboard.press('Delete');
  await expect(remark(page)).toContainText('The column you were in is not here any more');
  expect(await changes(page, id)).toBe(before);
});

test('what is typed into a row or column that is removed meanwhile is shown, and kept to be copied', async ({
  page,
}) => {
  const id = await open(page);
  await cell(page, 1, 1).click();
  await page.keyboard.type('long words for a row');
  await elsewhere(page, id, removal(2));
  await expect(rows(page)).toHaveCount(7);
  await expect(field(page)).toHaveValue('long words for a row');
  await page.keyboard.press('Enter');
  const panel = page.locator('un-clash-panel');
  await expect(panel).toContainText('removed while you were typing');
  await expect(panel).toContainText('long words for a row');
  await page.reload();
  await expect(panel).toContainText('long words for a row');
  await panel.getByRole('button', { name: 'Copy it' }).click();
  await panel.getByRole('button', { name: 'Let it go' }).click();
  await cell(page, 0, 2).click();
  await page.keyboard.type('words for a column');
  await page.request.patch(`/api/tables/${id}/columns`, {
    data: { name: 'Status', removed: true },
    headers: { 'if-match': '*' },
  });
  await expect(page.getByRole('columnheader')).toHaveCount(3);
  await page.keyboard.press('Enter');
  await expect(panel).toContainText('There is no column “Status” any more');
  await expect(panel).toContainText('words for a column');
});

test('a key that is not finished, and one that changes nothing, write nothing; line ends stay', async ({ page }) => {
  const id = await broughtIn(page, 'Ends', 'No,Thing\n1,"a\r\nb"\n2,hat\n');
  await page.goto(`/table/${id}`);
  await cell(page, 1, 1).click();
  await page.locator('un-record-grid .scroller').dispatchEvent('keydown', { key: 'Dead' });
  await expect(field(page)).toBeFocused();
  await cell(page, 0, 0).click();
  await cell(page, 0, 1).click();
  await page.keyboard.press('F2');
  await expect(field(page)).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(field(page)).toHaveCount(0);
  expect(await changes(page, id)).toBe(1);
  await cell(page, 0, 1).click();
  await page.keyboard.press('F2');
  await page.keyboard.press('Control+End');
  await page.keyboard.type('!');
  await page.keyboard.press('Enter');
  await expect.poll(() => stored(page, id)).toEqual(['1|a\r\nb!', '2|hat']);
});

test('more letters than a cell holds are not cut: it says so, and they stay', async ({ page }) => {
  const id = await open(page);
  await cell(page, 0, 1).click();
  await page.keyboard.press('F2');
  await field(page).fill('word '.repeat(20_000) + 'x');
  await page.keyboard.press('Enter');
  await expect(page.locator('un-cell-editor')).toContainText('100,000 letters at most; this is 100,001');
  await expect(field(page)).toBeFocused();
  expect(await changes(page, id)).toBe(1);
  await field(page).fill('word '.repeat(19_999) + 'words');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await stored(page, id))[0].length).toBe('1||Held'.length + 100_000);
});

test('a waiting edit that is undone stays undone over a reload; one shows on when its column is renamed', async ({
  page,
}) => {
  const id = await open(page);
  // Its answer is lost on the way, though it has arrived.
  let lost = 0;
  await page.route(`**/api/tables/${id}/changes`, async (route) => {
    if (route.request().method() !== 'POST') return route.continue();
    lost++;
    await route.fetch();
    await route.abort();
  });
  await cell(page, 0, 1).click();
  await page.keyboard.type('unwanted');
  await page.keyboard.press('Enter');
  await expect.poll(() => lost).toBeGreaterThan(0);
  await page.request.patch(`/api/tables/${id}/columns`, {
    data: { name: 'Thing', rename: 'What' },
    headers: { 'if-match': '*' },
  });
  await expect(page.getByRole('columnheader').nth(2)).toContainText('What');
  await expect(cell(page, 0, 1)).toHaveText('unwanted');
  await page.keyboard.press('Control+z');
  await page.reload();
  await page.unroute(`**/api/tables/${id}/changes`);
  await expect.poll(async () => (await stored(page, id))[0], { timeout: 15_000 }).toBe('1|apple|Held');
  await expect(cell(page, 0, 1)).toHaveText('apple');
  await page.waitForTimeout(4_000);
  expect((await stored(page, id))[0]).toBe('1|apple|Held');
});

test('a row that is added late does not take the keyboard from who types elsewhere', async ({ page }) => {
  const id = await open(page);
  await page.route(`**/api/tables/${id}/changes`, async (route) => {
    if (route.request().method() === 'POST') await new Promise((done) => setTimeout(done, 1_500));
    await route.continue();
  });
  await page.getByRole('button', { name: 'Add a row' }).click();
  const find = page.getByLabel('Find', { exact: true });
  await find.click();
  await page.keyboard.type('umb', { delay: 900 });
  await expect.poll(async () => (await stored(page, id)).length).toBe(9);
  await page.keyboard.type('rella', { delay: 100 });
  await expect(find).toHaveValue('umbrella');
  await expect(field(page)).toHaveCount(0);
});
