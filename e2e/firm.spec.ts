/** What real use had found: refreshes over mended cells, dates as they are written, boxes changed elsewhere, files on their way. */
import { box, broughtIn, expect, open, type Page, pop, remark, rows, sentence, status, test } from './sheet.js';

const LENT =
  'No;Title;Lent on;Price;ISBN\n1;Sea tales;01.03.2015;1.250,50;978-1\n2;Brückl;19.06.2015;999,9;978-2\n3;Tram lines;soon;n/a;978-3\n4;Ferries;20.06.2016;3;978-4\n';
const JSON_TYPE = { 'content-type': 'application/json' };
let keys = 0;

/** A table of another country: dates with the day first, decimal commas. */
async function library(page: Page, name: string): Promise<number> {
  const id = await broughtIn(page, name, LENT);
  const change = (data: object) =>
    page.request.patch(`/api/tables/${id}/columns`, { data, headers: { ...JSON_TYPE, 'if-match': '*' } });
  await change({ name: 'Lent on', kind: 'date', dateOrder: 'day first', shown: { date: 'd MMM yyyy' } });
  await change({ name: 'Price', kind: 'number', decimal: 'comma' });
  return id;
}

const edit = (page: Page, id: number, row: number, column: string, now: string) =>
  page.request.post(`/api/tables/${id}/changes`, {
    data: {
      key: `firm-edit-${++keys}`,
      kind: 'edited',
      columns: [column],
      changed: [{ id: row, was: [null], now: [now] }],
    },
  });

test('a refresh shows what was mended here and what clashes, one by one, and lets one go on without unclear keys', async ({
  page,
}) => {
  const id = await broughtIn(page, 'Mended', 'No,Thing,State\n1,umbrela,new\n2,hat,old\n3,glove,old\n');
  await edit(page, id, 1, 'Thing', 'umbrella');
  await edit(page, id, 2, 'Thing', 'hats');
  await page.goto(`/refresh/${id}`);
  const file = 'No,Thing,Condition\n1,umbrela,worn\n2,cap,old\n2,twin,old\n3,glove,old\n';
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'newer.csv', mimeType: 'text/csv', buffer: Buffer.from(file) });
  await expect(page.locator('aside')).toContainText('Condition is new');
  await page.locator('aside .alike').filter({ hasText: 'Condition' }).getByRole('button', { name: 'State' }).click();
  await expect(page.locator('aside')).toContainText('Condition of the file is our State');
  const says = page.locator('.sentence');
  await expect(says).toContainText('1 row of the file has a blank or repeated No, and are to be settled');
  await expect(page.getByRole('button', { name: 'Refresh it' })).toBeDisabled();
  await says.getByRole('button', { name: 'are to be settled' }).click();
  await page.getByRole('radio', { name: 'takes the first of each' }).click();
  await expect(says).toContainText('Leaves 1 cell as it was mended here');
  await expect(says).toContainText('1 cell was changed here and in the file: ours stand');
  await page.getByRole('radio', { name: '1 clashing' }).click();
  await expect(page.locator('un-refresh-rows tbody')).toContainText('hat');
  await page.getByRole('button', { name: 'cap', exact: true }).click();
  await expect(says).toContainText('ours stand, but for 1');
  await page.getByRole('button', { name: 'Refresh it' }).click();
  await expect(remark(page)).toContainText('Mended is refreshed');
  await expect(rows(page).nth(0)).toContainText('umbrella');
  await expect(rows(page).nth(0)).toContainText('worn');
  await expect(rows(page).nth(1)).toContainText('cap');
});

test('days and numbers are typed into pickers as the cells write them, and it says what it expects', async ({
  page,
}) => {
  const id = await library(page, 'Library');
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  await page.getByRole('button', { name: 'Add a picker' }).click();
  await page.getByRole('menuitem', { name: 'Lent on' }).click();
  const from = page.locator('#day-from');
  for (const [typed, count] of [
    ['19.06.2015', '2 of 2'],
    ['01/03/2015', '3 of 3'],
    ['2016', '1 of 1'],
    ['2015-06-01', '2 of 2'],
    ['1 Mar 2015', '3 of 3'],
  ]) {
    await from.fill(typed);
    await from.press('Enter');
    await expect(status(page)).toContainText(`${count} rows (4 in all)`);
  }
  await from.fill('tuesday');
  await from.press('Enter');
  await expect(pop(page)).toContainText('“tuesday” is no date that is read here');
  await expect(pop(page)).toContainText('20 Jun 2016');
  await from.fill('');
  await from.press('Enter');
  await page.keyboard.press('Escape');
  await box(page).fill('price>1.000,50');
  await expect(status(page)).toContainText('1 of 4 rows match');
  await box(page).fill('19.06.2015');
  await page.locator('#sentence').getByRole('button', { name: /Title/ }).click();
  await page.getByRole('button', { name: 'Every column', exact: true }).click();
  await expect(status(page)).toContainText('1 of 4 rows match');
});

test('cells that do not fit are counted on the column’s menu, listed, and explained where they stand', async ({
  page,
}) => {
  const id = await library(page, 'Unfit');
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  await expect(rows(page).nth(2).locator('.cell').nth(2)).toHaveAttribute('aria-description', /This is no date/);
  await page.getByRole('button', { name: 'What to do with Lent on' }).click();
  await page.getByRole('button', { name: '1 cell that is no date' }).click();
  await expect(status(page)).toContainText('1 of 1 rows (4 in all)');
  await expect(rows(page).first()).toContainText('Tram lines');
});

test('every column is meant: later ones too; a hit that is not on show is said in the row', async ({ page }) => {
  const id = await library(page, 'Every');
  await page.goto(`/table/${id}`);
  await page.locator('#sentence').getByRole('button', { name: /Title/ }).click();
  await page.getByRole('button', { name: 'Every column', exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText('Looks in every column');
  await page.request.post(`/api/tables/${id}/columns`, {
    data: { add: { name: 'Later', kind: 'text' } },
    headers: { ...JSON_TYPE, 'if-match': '*' },
  });
  await edit(page, id, 2, 'Later', 'zeppelin');
  await box(page).fill('zeppelin');
  await expect(status(page)).toContainText('1 of 4 rows match');
  await page.getByRole('button', { name: 'What to do with ISBN' }).click();
  await page.getByRole('button', { name: 'Hide this column' }).click();
  await box(page).fill('978-3');
  await expect(rows(page).first()).toContainText('in ISBN');
});

test('what depends on a column is said before it goes; a box that lacks it says so, to readers too', async ({
  page,
}) => {
  const id = await library(page, 'Lacking');
  const kept = {
    format: 'usual-needle box',
    version: 1,
    name: 'By ISBN',
    threaded: ['ISBN'],
    columns: [{ name: 'Title' }],
  };
  const made = await page.request.post(`/api/tables/${id}/boxes`, { data: { box: kept } });
  const { id: boxId } = (await made.json()) as { id: number };
  await page.goto(`/box/${boxId}`);
  await expect(rows(page).first()).toBeVisible();
  await page.goto(`/table/${id}`);
  await page.getByRole('button', { name: 'What to do with ISBN' }).click();
  await page.getByRole('button', { name: 'Remove from the table …' }).click();
  await expect(pop(page)).toContainText('The box “By ISBN” uses it: opened 1 time.');
  await page.getByRole('button', { name: 'Remove it from the table' }).click();
  await page.goto(`/read/${boxId}?q=978`);
  await expect(page.locator('un-box-news')).toContainText('ISBN, which the box names, is not there any more');
  await expect(page.locator('un-nothing-found')).toContainText('ISBN is not there any more');
});

test('a box saved elsewhere is said at once, and taken over or saved over', async ({ page, context }) => {
  const id = await library(page, 'Saved elsewhere');
  const kept = { format: 'usual-needle box', version: 1, name: 'Shared', threaded: ['Title'] };
  const made = await page.request.post(`/api/tables/${id}/boxes`, { data: { box: kept } });
  const { id: boxId } = (await made.json()) as { id: number };
  await page.goto(`/box/${boxId}`);
  await expect(rows(page).first()).toBeVisible();
  const save = (version: number, more: object) =>
    context.request.put(`/api/boxes/${boxId}`, {
      data: { box: { ...kept, ...more }, who: 'Ada' },
      headers: { 'if-match': `"${version}"` },
    });
  await save(1, { effect: 'mark in place' });
  const news = page.locator('un-box-news');
  await expect(news).toContainText('Ada changed and saved this box');
  await news.getByRole('button', { name: 'Take it over' }).click();
  await expect(sentence(page)).toContainText('Marks matching cells in place');
  await sentence(page).getByRole('button', { name: 'every word' }).click();
  await page.getByRole('radio', { name: 'any word' }).click();
  await save(2, { effect: 'leave matches out' });
  await news.getByRole('button', { name: 'Save it over theirs' }).click();
  await expect(remark(page)).toContainText('“Shared” is saved');
  const now = (await (await page.request.get(`/api/boxes/${boxId}`)).json()) as {
    box: { need: string; effect: string };
  };
  expect([now.box.need, now.box.effect]).toEqual(['any word', 'mark in place']);
});

test('a row found on the shelf opens its box with that row beside the others; counts there follow changes', async ({
  page,
}) => {
  const id = await library(page, 'Found on the shelf');
  await page.goto('/');
  await page.getByRole('textbox', { name: 'Find everywhere' }).fill('tram lines');
  const band = page.locator('section.table', { hasText: 'Found on the shelf' });
  await expect(band).toContainText('1 of 4 rows');
  await edit(page, id, 4, 'Title', 'Tram lines again');
  await expect(band).toContainText('2 of 4 rows');
  await band.locator('a.hit').filter({ hasText: 'again' }).click();
  const peek = page.locator('un-peek');
  await expect(peek).toContainText('Tram lines again');
  await expect(box(page)).toHaveValue('tram lines');
  await page.goBack();
  await expect(page.getByRole('textbox', { name: 'Find everywhere' })).toHaveValue('tram lines');
});

test('a link on the shelf leads where it says, however soon after a key it is clicked', async ({ page }) => {
  // The page that it leads to takes longer to come than what was typed takes to get into the address.
  let late = false;
  await page.route('**/chunk-*.js', async (route) => {
    if (late) await new Promise((done) => setTimeout(done, 700));
    await route.continue();
  });
  for (const [of, name] of [
    ['link', 'People'],
    ['link', 'Front desk look-up'],
  ] as const) {
    late = false;
    await page.goto('/');
    await expect(page.getByRole('link', { name: 'Front desk look-up' })).toBeVisible();
    late = true;
    await page.getByRole('textbox', { name: 'Find everywhere' }).fill('umbrella');
    await page.getByRole(of, { name }).click();
    await expect(page).toHaveURL(name === 'People' ? /\/people/ : /\/box\/1/);
    await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
  }
});

test('what is too long for an address is kept beside it; what is too long for a box is refused', async ({ page }) => {
  await open(page, '/box/1');
  const long = Array.from({ length: 700 }, (_, i) => `wo${i}`).join('|');
  await box(page).fill(`umbrella|${long.slice(0, 1_900)}`);
  for (let i = 1; i < 4; i++) {
    await page.keyboard.press('Alt+ArrowDown');
    await page.keyboard.insertText(`qq${i}|${long.slice(0, 1_900)}`);
  }
  await expect(page).toHaveURL(/kept-as=/);
  expect(page.url().length).toBeLessThan(4_096);
  await page.reload();
  await expect(box(page)).toHaveValue(/^umbrella\|wo0/);
  await expect(page.locator('un-search-box')).toHaveCount(4);
  await box(page).fill('umbr');
  await box(page).fill('x'.repeat(100_000));
  await expect(remark(page)).toContainText('A box takes 20,000 letters at most; this was 100,000');
  await expect(box(page)).toHaveValue('umbr');
});

test('a file goes on being brought in while one is elsewhere, and leads nowhere by itself', async ({ page }) => {
  await page.goto('/bring-in');
  const file = `No,Thing\n${Array.from({ length: 3_000 }, (_, i) => `${i},thing ${i}`).join('\n')}\n`;
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'slow.csv', mimeType: 'text/csv', buffer: Buffer.from(file) });
  await page.route('**/api/tables?name=*', async (route) => {
    await new Promise((done) => setTimeout(done, 3_000));
    await route.continue();
  });
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await page.getByRole('button', { name: 'Go on elsewhere' }).click();
  const line = page.locator('un-going-on');
  await expect(line).toContainText('Bringing in Slow');
  await page.getByRole('textbox', { name: 'Find everywhere' }).fill('umb');
  await expect(line).toContainText('Slow is brought in');
  await expect(page.getByRole('textbox', { name: 'Find everywhere' })).toHaveValue('umb');
  await expect(page).toHaveURL(/\/(?:\?q=umb)?$/);
  await line.getByRole('button', { name: 'Open it' }).click();
  await expect(status(page)).toContainText('3,000 of 3,000 rows');
});

test('a record that cannot be fetched says so, and is there again with the server', async ({ page }) => {
  const id = await library(page, 'Out of reach');
  await page.routeWebSocket('**', (socket) => socket.close());
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  await page.route('**/search', (route) => route.abort());
  await rows(page).first().locator('.cell').nth(1).click();
  await page.keyboard.press('Space');
  await expect(page.locator('un-peek')).toContainText('The server does not answer');
  await page.unroute('**/search');
  await page.getByRole('button', { name: 'Next row' }).click();
  await expect(page.locator('un-peek')).toContainText('Brückl');
});
