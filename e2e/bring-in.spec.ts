import { claims, drop } from './files.js';
import { box, broughtIn, expect, type Page, pop, remark, rows, status, test, wrong } from './sheet.js';

const said = (page: Page) => page.locator('.sentence');
const preview = (page: Page) => page.locator('un-preview-rows tbody tr');
const troubles = (page: Page) => page.locator('un-trouble-list section');

/** Takes away the table on show. Not by its name: another test may have brought in the same file. */
async function forgetShown(page: Page): Promise<void> {
  await page.request.delete(`/api/tables/${/table\/(\d+)/.exec(page.url())![1]}`);
}

/** Takes away what a test brought in. */
async function forget(page: Page, name: string): Promise<void> {
  const { tables } = (await (await page.request.get('/api/tables')).json()) as {
    tables: { id: number; name: string }[];
  };
  for (const table of tables.filter((one) => one.name === name)) await page.request.delete(`/api/tables/${table.id}`);
}

async function dropped(page: Page, name = 'claims-october.csv', content = claims()): Promise<void> {
  await page.goto('/');
  await expect(page.locator('section.table').first()).toBeVisible();
  await drop(page, name, content);
  await expect(page).toHaveURL(/bring-in/);
  await expect(page.locator('footer')).toContainText('every row looked at');
}

test('a dropped file is looked through, says what it is, and is brought in', async ({ page }) => {
  await dropped(page);
  await expect(said(page)).toContainText(
    'Reads claims-october.csv as semicolon-separated text in Windows-1252, with its first row as the header. Brings 4 columns and 400 rows in as a new table called Claims october. 4 cells and 1 row want a look.',
  );
  await expect(page.getByRole('button', { name: 'Lost on, date, day first' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Value, number, 1.250,50' })).toBeVisible();
  await expect(preview(page).first()).toContainText('1 Oct 2026');
  await expect(troubles(page).first()).toContainText('2 dates in Lost on are no dates: “31.02.2026”, “last week”');
  expect(await wrong(page)).toEqual([]);
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(remark(page)).toContainText('Claims october is brought in: 400 rows.');
  await expect(page).toHaveURL(/table\/\d+/);
  await box(page).fill('value > 1250');
  await expect(status(page)).toContainText('1 of 400 rows match');
  await box(page).fill('Søndre');
  await expect(rows(page).first()).toContainText('“Søndre”');
  await forgetShown(page);
});

test('cells pasted from a sheet are a table, too', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('section.table').first()).toBeVisible();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData('text/plain', 'Shelf\tThing\n"A 1"\t"two\nlines"\nB 2\tkey\n');
    document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
  });
  await expect(said(page)).toContainText('Reads pasted cells as tab-separated text');
  await expect(preview(page)).toHaveCount(2);
  await expect(preview(page).first()).toContainText('two ⏎ lines');
  // What is pasted into the box is what is typed there.
  await page.goto('/');
  await page.locator('#everywhere').fill('a');
  await expect(page).toHaveURL(/\/(\?q=a)?$/);
});

test('the delimiter, the header and the encoding are corrected in the sentence', async ({ page }) => {
  await dropped(page, 'odd.txt', Buffer.from('1^a,b\n2^c,d\n3^Br\u00fcckl,e\n', 'latin1'));
  await said(page).getByRole('button', { name: 'comma-separated' }).click();
  await pop(page).getByLabel('another sign').fill('^');
  await page.keyboard.press('Enter');
  await expect(said(page)).toContainText('as “^”-separated text');
  await expect(said(page)).toContainText('with no row as the header');
  await expect(page.getByRole('button', { name: 'Column 1, number' })).toBeVisible();
  await said(page).getByRole('button', { name: 'no row' }).click();
  await page.getByRole('radio', { name: 'its first row' }).click();
  await expect(page.getByRole('button', { name: 'a,b, text' })).toBeVisible();
  await expect(preview(page).last()).toContainText('Brückl');
  await said(page).getByRole('button', { name: 'Windows-1252' }).click();
  await page.getByRole('radio', { name: 'UTF-8' }).click();
  await expect(troubles(page).first()).toContainText('1 letter cannot be read in this encoding');
  await page.getByRole('button', { name: 'Read as Windows-1252' }).click();
  await expect(preview(page).last()).toContainText('Brückl');
});

test('what does not fit is mended each way', async ({ page }) => {
  await dropped(page);
  const many = troubles(page).filter({ hasText: 'a cell too many' });
  await expect(many).toContainText(
    '1 row has a cell too many: line 9: “903J” … The cell is joined to the one before it.',
  );
  await many.getByRole('button', { name: 'Show it' }).click();
  await expect(preview(page)).toHaveCount(1);
  await expect(preview(page)).toContainText('6,00;903J');
  await many.getByRole('button', { name: 'Drop the cell' }).click();
  await expect(many).toContainText('The cell is dropped.');
  await expect(said(page)).toContainText('3 cells and 1 row');
  await many.getByRole('button', { name: 'Leave the rows out' }).click();
  await expect(said(page)).toContainText('399 rows');
  await many.getByRole('button', { name: 'Join the cell' }).click();
  await expect(said(page)).toContainText('400 rows');
  // A kind that is set by hand, and back.
  await troubles(page).filter({ hasText: 'in Lost on' }).getByRole('button', { name: 'Make it text' }).click();
  await expect(page.getByRole('button', { name: 'Lost on, text' })).toBeVisible();
  await page.getByRole('button', { name: 'Lost on, text' }).click();
  await page.getByRole('radio', { name: 'date, month first' }).click();
  await expect(troubles(page).filter({ hasText: 'in Lost on' })).toContainText(/\d+ dates/);
  // A column that is left out, and one of another name.
  await page.getByRole('button', { name: 'Value, number, 1.250,50' }).click();
  await page.getByRole('button', { name: 'Leave this column out' }).click();
  await expect(said(page)).toContainText('Brings 3 of 4 columns');
  await page.getByRole('button', { name: 'Claim no., text' }).click();
  await pop(page).getByLabel('Name').fill('Number');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(remark(page)).toContainText('is brought in');
  await expect(page.getByRole('columnheader').filter({ hasText: 'Number' })).toBeVisible();
  await expect(page.getByRole('columnheader').filter({ hasText: 'Value' })).toHaveCount(0);
  await forgetShown(page);
});

test('what can be tidied is found, counted and mended, group by group, and shown at once', async ({ page }) => {
  const lines = Array.from({ length: 40 }, (_, i) => `Book ${i},Non-fiction,"${i},50 €",0${(i % 9) + 1}.11.26`);
  const odd = [' Harbour ,Non fiction,n/a,18.11.26', 'Lantern,non-fiction,"1.849,63 €",31.12.99', lines[0]];
  const content = Buffer.from(`Title,Kind,Price,Lent on\n${[...odd, ...lines].join('\n')}\n`);
  await dropped(page, 'library.csv', content);
  await expect(page.getByRole('button', { name: /^Price, number/ })).toBeVisible();
  const group = (says: string) => troubles(page).filter({ hasText: says });
  expect(await wrong(page)).toEqual([]);
  await group('1 cell in Price says that there is no value').getByRole('button', { name: 'Make them blank' }).click();
  await expect(preview(page).first()).not.toContainText('n/a');
  await group('have years of two digits')
    .getByRole('button', { name: /^They are 19/ })
    .first()
    .click();
  await expect(preview(page).first()).toContainText('18 Nov 2026');
  await expect(preview(page).nth(1)).toContainText('31 Dec 1999');
  await group('2 cells in Kind are nearly another value').getByRole('button', { name: 'Write them alike' }).click();
  await expect(preview(page).nth(1)).toContainText('Non-fiction');
  await group('1 cell has spaces before or after').getByRole('button', { name: 'Take the spaces away' }).click();
  await group('1 row is a row that has been before').getByRole('button', { name: 'Leave them out' }).click();
  await expect(group('1 row is a row that has been before')).toContainText('Left out.');
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(remark(page)).toContainText('Library is brought in: 42 rows.');
  await box(page).fill('Kind="Non-fiction"');
  await expect(status(page)).toContainText('42 of 42 rows match');
  // A newer file is tidied in the same way: nothing of it has changed.
  const { pathname } = new URL(page.url());
  await page.goto('/');
  const band = page.getByRole('region', { name: 'Library' });
  const chooser = page.waitForEvent('filechooser');
  await band.getByRole('button', { name: 'Refresh Library' }).click();
  await (await chooser).setFiles({ name: 'library.csv', mimeType: 'text/csv', buffer: content });
  await expect(page.locator('un-refresh-rows')).toBeVisible();
  await expect(group('1 cell has spaces before or after')).toContainText('They are taken away.');
  await expect(page.locator('un-refresh-rows')).toContainText('0 changed');
  await page.goto(pathname);
  await forgetShown(page);
});

test('a box is tried on the rows before anything is stored, by the keyboard alone', async ({ page }) => {
  await dropped(page);
  await page.keyboard.press('/');
  await page.keyboard.type('red rib');
  await expect(preview(page)).toHaveCount(1);
  await expect(preview(page).locator('.mark')).toHaveText(['red', 'rib']);
  await page.keyboard.press('Escape');
  await expect(preview(page)).toHaveCount(200);
  await page.keyboard.press('Shift+Tab');
  await page.getByRole('slider').focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.locator('footer')).toContainText('from this place of the file shown');
  await page.getByRole('button', { name: 'Back to the first rows' }).click();
  await expect(preview(page)).toHaveCount(200);
});

test('an upload is stopped half-way, and one whose connection breaks: nothing is stored, and all that was chosen is there', async ({
  page,
}) => {
  await dropped(page);
  await said(page).getByRole('button', { name: 'Claims october' }).click();
  await pop(page).getByLabel('Name of the table').fill('Stopped');
  await page.keyboard.press('Enter');
  await page.route('**/api/tables?*', () => undefined);
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByRole('progressbar', { name: 'Bringing in' })).toBeVisible();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('Stopped. Nothing was stored');
  await page.unroute('**/api/tables?*');
  await page.route('**/api/tables?*', (route) => route.abort());
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByRole('alert')).toContainText('The connection broke. Nothing was stored');
  await expect(said(page)).toContainText('called Stopped');
  expect(await wrong(page)).toEqual([]);
  await page.unroute('**/api/tables?*');
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(remark(page)).toContainText('Stopped is brought in: 400 rows.');
  const { tables } = (await (await page.request.get('/api/tables')).json()) as { tables: { name: string }[] };
  expect(tables.filter(({ name }) => name === 'Stopped').length).toBe(1);
  await forget(page, 'Stopped');
});

const BAD: [what: string, name: string, content: Buffer, says: RegExp][] = [
  ['an empty file', 'empty.csv', Buffer.from(''), /is empty/],
  ['a picture', 'photo.csv', Buffer.from(Uint8Array.from({ length: 5000 }, (_, i) => (i * 31) % 29)), /not a table/],
  ['a cut workbook', 'book.xlsx', Buffer.from('PK\u0003\u0004 and nothing'), /damaged|no workbook/],
  ['a quote that is never closed', 'a.csv', Buffer.from('A,B\n1,2\n"3,4\n'), /line 3/],
];
for (const [what, name, content, says] of BAD)
  test(`${what} is said, and another file can be dropped`, async ({ page }) => {
    await page.goto('/');
    await expect(page.locator('section.table').first()).toBeVisible();
    await drop(page, name, content);
    await expect(page.getByRole('alert')).toContainText(says);
    await expect(page.getByRole('button', { name: 'Bring it in' })).toBeDisabled();
    expect(await wrong(page)).toEqual([]);
    await drop(page, 'claims.csv', claims(20));
    await expect(said(page)).toContainText('20 rows');
    await expect(page.getByRole('alert')).toHaveCount(0);
  });

test('a table is refreshed by a newer file with a renamed column, and that is undone', async ({ page }) => {
  const before = 'Item no.,Thing,Status\nLP-1,umbrella,Held\nLP-2,hat,Held\nLP-3,glove,Held\n';
  const id = await broughtIn(page, 'Refreshed', before);
  await page.goto('/');
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Refresh Refreshed' }).click(),
  ]);
  await chooser.setFiles({
    name: 'newer.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('Item number,Thing,Status\nLP-1,umbrella,Returned\nLP-2,hat,Held\nLP-9,key,Held\n'),
  });
  await expect(page).toHaveURL(new RegExp(`refresh/${id}`));
  await expect(said(page)).toContainText('matching rows by their places');
  await page.getByRole('button', { name: 'Take it for Item no.' }).click();
  await expect(said(page)).toContainText(
    'Refreshes Refreshed from newer.csv, read as comma-separated text in UTF-8, with its first row as the header, matching rows by Item no.: adds 1, changes 1 row, keeps 1 that is gone, leaves 1 as it is.',
  );
  await page.getByRole('radio', { name: '1 changed' }).click();
  await expect(page.locator('un-refresh-rows tbody tr')).toHaveCount(1);
  await expect(page.locator('un-refresh-rows del')).toHaveText('Held');
  expect(await wrong(page)).toEqual([]);
  await said(page).getByRole('button', { name: 'keeps' }).click();
  await page.getByRole('radio', { name: 'removes rows that are gone' }).click();
  await expect(said(page)).toContainText('removes 1 that is gone');
  await page.getByRole('button', { name: 'Refresh it' }).click();
  await expect(remark(page)).toContainText('Refreshed is refreshed.');
  await expect(status(page)).toContainText('3 of 3 rows');
  await expect(rows(page).last()).toContainText('LP-9');
  await page.getByRole('button', { name: 'Undo it' }).click();
  await expect(remark(page)).toContainText('as it was before the refresh');
  await expect(rows(page).nth(2)).toContainText('LP-3');
  await page.request.delete(`/api/tables/${id}`);
});

for (const width of [768, 1280])
  test(`preview and shelf hold at ${width} px, in the dark`, async ({ page }) => {
    await page.setViewportSize({ width, height: 800 });
    await page.emulateMedia({ colorScheme: 'dark' });
    await dropped(page);
    const broad = (): Promise<boolean> =>
      page.evaluate(() => document.documentElement.scrollWidth > document.documentElement.clientWidth);
    expect(await broad()).toBe(false);
    expect(await wrong(page)).toEqual([]);
    await page.goto('/?q=red+key');
    await expect(page.locator('.summary')).toContainText('every row searched');
    expect(await broad()).toBe(false);
    expect(await wrong(page)).toEqual([]);
  });

test('the shelf asks every box as one types, and leads to a row by the keyboard alone', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('heading', { level: 2 })).toContainText(['Found items', 'Stops', 'Claims']);
  await page.keyboard.press('/');
  await page.keyboard.type('umbr wood');
  await expect(page.locator('.summary')).toContainText(/[\d,]+ rows in \d tables? · every row searched/);
  const desk = page.locator('.box', { hasText: 'Front desk look-up' });
  await expect(desk.locator('.count')).toHaveText('161 rows');
  await expect(desk.locator('.hit')).toHaveCount(3);
  // A tab of its own, or a copied address, gets it, too.
  await expect(desk.locator('.hit').first()).toHaveAttribute('href', /^\/box\/1\?q=umbr%20wood&row=\d+$/);
  await expect(page.getByRole('region', { name: 'Stops', exact: true })).toHaveClass(/pale/);
  await expect(page).toHaveURL(/\?q=umbr%20wood|\?q=umbr\+wood/);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(desk.locator('.hit').first()).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(box(page)).toHaveValue('umbr wood');
  await expect(status(page)).toContainText('161 of 4,120 rows match');
  await page.goBack();
  await expect(page.locator('#everywhere')).toHaveValue('umbr wood');
  await page.locator('#everywhere').press('Escape');
  await expect(page.locator('#everywhere')).toHaveValue('');
  await expect(page.locator('.hit')).toHaveCount(0);
});

test('a table is renamed, described, copied and deleted from its band, and comes back', async ({ page }) => {
  await broughtIn(page, 'Band', 'A\n"x, y"\n');
  await page.goto('/');
  const more = (name: string) => page.getByRole('button', { name: `More of ${name}` });
  await more('Band').click();
  await page.getByRole('button', { name: 'Rename …' }).click();
  await pop(page).getByLabel('Name').fill('Banded');
  await page.keyboard.press('Enter');
  await more('Banded').click();
  await page.getByRole('button', { name: 'Describe …' }).click();
  await pop(page).getByRole('textbox').fill('A table for a test.');
  await page.getByRole('button', { name: 'Describe it so' }).click();
  await expect(page.getByText('A table for a test.')).toBeVisible();
  await more('Banded').click();
  await page.getByRole('button', { name: 'Take a copy, as CSV …' }).click();
  await page.getByRole('radio', { name: 'semicolon' }).check();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByText('Take the copy').click()]);
  expect(download.suggestedFilename()).toBe('Banded.csv');
  await more('Banded').click();
  await page.getByRole('button', { name: 'Delete …', exact: true }).click();
  await expect(page.locator('un-dependents')).toContainText('Nothing depends on it.');
  await page.getByRole('button', { name: 'Delete Banded' }).click();
  await expect(page.locator('section.table', { hasText: 'Banded' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Bring it back' }).click();
  await expect(page.locator('section.table', { hasText: 'Banded' })).toBeVisible();
  expect(await wrong(page)).toEqual([]);
  await forget(page, 'Banded');
});

test('a column is made another kind on the sheet, and back, and no cell is lost', async ({ page }) => {
  const data = 'No,Worth\n007,"1.250,50"\n012,"3,00"\n';
  const id = await broughtIn(page, 'Kinds', data);
  await page.goto(`/table/${id}`);
  const holds = async (kind: string): Promise<void> => {
    await page.getByRole('button', { name: 'What to do with No' }).click();
    await page.getByRole('combobox', { name: 'Holds' }).click();
    await page.getByRole('option', { name: kind, exact: true }).click();
    await expect(remark(page)).toContainText('No is changed for everybody');
    await page.keyboard.press('Escape');
  };
  await holds('number, decimal point');
  await box(page).fill('no > 8');
  await expect(status(page)).toContainText('1 of 2 rows match');
  await holds('text');
  await box(page).fill('007');
  await expect(status(page)).toContainText('1 of 2 rows match');
  await box(page).fill('worth > 1250');
  await expect(status(page)).toContainText('1 of 2 rows match');
  await page.request.delete(`/api/tables/${id}`);
});
