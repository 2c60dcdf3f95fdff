import type { BrowserContext } from '@playwright/test';
import {
  box,
  broughtIn,
  byRequestOnly,
  editElsewhere,
  expect,
  type Locator,
  type Page,
  pop,
  remark,
  rows,
  status,
  test,
  wrong,
} from './sheet.js';

const ROWS = 'Item no.,Thing,Status,Found on,Worth\n';
const things = (count: number): string =>
  ROWS +
  Array.from({ length: count }, (_, i) => {
    const day = String((i % 28) + 1).padStart(2, '0');
    return `LP-${100 + i},${['umbrella', 'hat', 'glove', 'key'][i % 4]} ${i},${i % 3 ? 'Held' : 'Returned'},2026-10-${day},${i}`;
  }).join('\n') +
  '\n';

/** A table of a test's own. @returns its id */
const made = (page: Page, name: string, csv = things(60)): Promise<number> => broughtIn(page, name, csv);

const cell = (page: Page, row: number, column: number): Locator => rows(page).nth(row).locator('.cell').nth(column);
const grid = (page: Page): Locator => page.locator('un-record-grid .scroller');
const field = (page: Page): Locator => page.locator('un-cell-editor textarea');

async function stored(page: Page, id: number, after = 0, limit = 100): Promise<string[]> {
  const reply = await page.request.get(`/api/tables/${id}/rows?after=${after}&limit=${limit}`);
  return ((await reply.json()) as { rows: { cells: string[] }[] }).rows.map(({ cells }) => cells.join('|'));
}

async function open(page: Page, id: number, query = ''): Promise<void> {
  await page.goto(`/table/${id}${query}`);
  await expect(rows(page).first()).toBeVisible();
}

async function another(context: BrowserContext, name: string): Promise<Page> {
  const other = await context.browser()!.newContext({ baseURL: new URL(context.pages()[0].url()).origin });
  const page = await other.newPage();
  await page.addInitScript((called) => localStorage.setItem('usual-needle name', called), name);
  return page;
}

test('a cell is opened by F2, by Enter, by typing and by a double click, written by Enter and Tab, left by Esc', async ({
  page,
}) => {
  const id = await made(page, 'Cells');
  await open(page, id);
  await cell(page, 0, 1).click();
  await page.keyboard.press('F2');
  await expect(field(page)).toBeFocused();
  await expect(field(page)).toHaveValue('umbrella 0');
  await page.keyboard.press('End');
  await page.keyboard.type(', blue');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 1)).toHaveText('umbrella 0, blue');
  // Enter has gone on to the row below; typing takes the place of what is there, and no letter of it is lost.
  await page.keyboard.type('bowler hat');
  await page.keyboard.press('Tab');
  await expect(cell(page, 1, 1)).toHaveText('bowler hat');
  await page.keyboard.press('Enter');
  await expect(field(page)).toHaveValue('Held');
  await page.keyboard.type('Sold');
  await page.keyboard.press('Escape');
  await expect(cell(page, 1, 2)).toHaveText('Held');
  await expect(grid(page)).toBeFocused();
  await cell(page, 2, 1).dblclick();
  await page.keyboard.type('mitten');
  // A click elsewhere writes it, too.
  await cell(page, 4, 1).click();
  await expect(cell(page, 2, 1)).toHaveText('mitten');
  await expect
    .poll(() => stored(page, id))
    .toEqual(
      expect.arrayContaining([
        'LP-100|umbrella 0, blue|Returned|2026-10-01|0',
        'LP-101|bowler hat|Held|2026-10-02|1',
        'LP-102|mitten|Held|2026-10-03|2',
      ]),
    );
  await page.request.delete(`/api/tables/${id}`);
});

test('a cell of several lines, a choice taken by the arrows, and a value that does not fit, which is kept and pointed out', async ({
  page,
}) => {
  const id = await made(page, 'Kinds kept');
  await open(page, id);
  await cell(page, 0, 1).click();
  await page.keyboard.type('two');
  await page.keyboard.press('Alt+Enter');
  await page.keyboard.type('lines');
  await page.keyboard.press('Enter');
  await cell(page, 0, 2).dblclick();
  await expect(page.getByRole('option')).toHaveText(['Held', 'Returned']);
  await page.keyboard.press('ArrowDown');
  expect(await wrong(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await cell(page, 0, 3).click();
  await page.keyboard.type('last week');
  await expect(page.locator('un-cell-editor [role=status]')).toContainText('This is no date: one looks like');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 3)).toHaveClass(/unfit/);
  await expect.poll(() => stored(page, id, 0, 1)).toEqual(['LP-100|two\nlines|Held|last week|0']);
  await page.request.delete(`/api/tables/${id}`);
});

test('a block is selected, filled down, blanked, copied and pasted, each one change, each undone', async ({ page }) => {
  const id = await made(page, 'Blocks');
  await open(page, id);
  await cell(page, 0, 2).click();
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowDown');
  await expect(page.locator('footer')).toContainText('4 rows × 1 column');
  await page.keyboard.press('Control+d');
  await expect(cell(page, 3, 2)).toHaveText('Returned');
  await expect
    .poll(async () => (await stored(page, id, 0, 4)).map((row) => row.split('|')[2]))
    .toEqual(Array(4).fill('Returned'));
  await page.getByRole('button', { name: 'Undo edit' }).click();
  await expect(cell(page, 1, 2)).toHaveText('Held');
  // Drawn with the mouse.
  const [from, to] = [(await cell(page, 5, 1).boundingBox())!, (await cell(page, 6, 2).boundingBox())!];
  await page.mouse.move(from.x + 20, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(to.x + 20, to.y + 10, { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('footer')).toContainText('2 rows × 2 columns');
  await page.evaluate(() => {
    const copied = document.execCommand.bind(document);
    document.execCommand = (command: string) => {
      const event = new ClipboardEvent('copy', { clipboardData: new DataTransfer(), bubbles: true, cancelable: true });
      document.dispatchEvent(event);
      (window as unknown as { copied: string }).copied = event.clipboardData!.getData('text/plain');
      return command === 'copy' || copied(command);
    };
  });
  await page.keyboard.press('Control+c');
  await expect(remark(page)).toContainText('4 cells copied');
  expect(await page.evaluate(() => (window as unknown as { copied: string }).copied)).toBe(
    'hat 5\tHeld\nglove 6\tReturned',
  );
  await page.keyboard.press('Delete');
  await expect(cell(page, 6, 1)).toHaveText('');
  await cell(page, 8, 1).click();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData('text/plain', '"two\nlines"\tNew\nplain\tOld\n');
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
  });
  await expect(cell(page, 9, 2)).toHaveText('Old');
  await expect
    .poll(async () => (await stored(page, id, 5, 5)).map((row) => row.split('|').slice(1, 3)))
    .toEqual([
      ['', ''],
      ['', ''],
      ['key 7', 'Held'],
      ['two\nlines', 'New'],
      ['plain', 'Old'],
    ]);
  await page.request.delete(`/api/tables/${id}`);
});

test('a paste that goes beyond the last row adds rows; ten thousand cells are one change', async ({ page }) => {
  const id = await made(page, 'Pasted', things(3));
  await open(page, id);
  await cell(page, 2, 0).click();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData(
      'text/plain',
      Array.from({ length: 2_500 }, (_, i) => `P-${i}\tthing ${i}\tHeld\t2026-01-01`).join('\n'),
    );
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
  });
  await expect(status(page)).toContainText('2,502 of 2,502 rows');
  await expect(cell(page, 2, 1)).toHaveText('thing 0');
  await page.getByRole('button', { name: 'Undo edit' }).click();
  await expect(status(page)).toContainText('3 of 3 rows');
  await expect(cell(page, 2, 1)).toHaveText('glove 2');
  await page.request.delete(`/api/tables/${id}`);
});

test('a row that is added is gone to, also where others hear of it before its own answer comes', async ({ page }) => {
  const id = await made(page, 'Late answer', things(8));
  await open(page, id);
  await page.route(`**/api/tables/${id}/changes`, async (route) => {
    if (route.request().method() !== 'POST') return route.continue();
    const response = await route.fetch();
    await expect(status(page)).toContainText('9 of 9 rows');
    await page.waitForTimeout(500);
    await route.fulfill({ response });
  });
  await page.getByRole('button', { name: 'Add a row' }).click();
  await expect(field(page)).toBeFocused();
  await page.request.delete(`/api/tables/${id}`);
});

test('a row is added with what the pickers ask, and rows are removed, and both are undone', async ({ page }) => {
  const id = await made(page, 'Rows', things(8));
  await open(page, id);
  await page.getByRole('button', { name: 'Add a picker' }).click();
  await page.getByRole('menuitem', { name: 'Status' }).click();
  await page.locator('un-choice-picker .list label').filter({ hasText: 'Held' }).click();
  await page.keyboard.press('Escape');
  await expect(status(page)).toContainText('5 of 5 rows (8 in all)');
  await page.getByRole('button', { name: 'Add a row' }).click();
  await expect(field(page)).toBeFocused();
  await page.keyboard.type('LP-900');
  await page.keyboard.press('Enter');
  await expect(status(page)).toContainText('6 of 6 rows (9 in all)');
  await expect.poll(async () => (await stored(page, id)).at(-1)).toBe('LP-900||Held||');
  await cell(page, 0, 0).click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+Delete');
  await expect(status(page)).toContainText('4 of 4 rows (7 in all)');
  await page.getByRole('button', { name: 'Undo it' }).click();
  await expect(status(page)).toContainText('6 of 6 rows (9 in all)');
  await page.request.delete(`/api/tables/${id}`);
});

test('an edited row that no longer matches stays, is marked as such, and goes at the next key', async ({ page }) => {
  const id = await made(page, 'Staying', things(12));
  await open(page, id, '?q=umbrella');
  await expect(status(page)).toContainText('3 of 12');
  await cell(page, 1, 1).click();
  await page.keyboard.type('parasol');
  await page.keyboard.press('Enter');
  await expect(status(page)).toContainText('2 of 12');
  await expect(rows(page)).toHaveCount(3);
  await expect(rows(page).nth(1)).toContainText('parasol');
  await expect(rows(page).nth(1)).toContainText('no longer matches');
  await box(page).press('End');
  await box(page).pressSequentially(' ');
  await expect(rows(page)).toHaveCount(2);
  await page.request.delete(`/api/tables/${id}`);
});

test('in a sorted list an edited row stays put until sorted again, or moves, as the box says', async ({ page }) => {
  const id = await made(page, 'Sorted', things(6));
  await open(page, id);
  await page.getByRole('button', { name: 'Sort by Worth' }).click();
  await page.locator('#sentence').getByRole('button', { name: 'moves to its place' }).click();
  await page.getByRole('radio', { name: 'stays put until sorted anew' }).click();
  await cell(page, 0, 4).click();
  await page.keyboard.type('99');
  await page.keyboard.press('Enter');
  await expect(page.locator('footer')).toContainText('1 row is out of its place');
  await expect(rows(page).first()).toContainText('LP-100');
  await page.getByRole('button', { name: 'Sort again' }).click();
  await expect(rows(page).last()).toContainText('LP-100');
  await page.locator('#sentence').getByRole('button', { name: 'stays put until sorted anew' }).click();
  await page.getByRole('radio', { name: 'moves to its place' }).click();
  await cell(page, 0, 4).click();
  await page.keyboard.type('98');
  await page.keyboard.press('Enter');
  await expect(rows(page).nth(4)).toContainText('LP-101');
  await page.request.delete(`/api/tables/${id}`);
});

test('what others do is there within a second, ten times of ten, while one types, and no open cell is disturbed', async ({
  page,
  context,
}) => {
  const id = await made(page, 'Live', things(40));
  await open(page, id, '?q=LP');
  const other = await another(context, 'T. Kessel');
  await open(other, id);
  await expect(page.getByRole('button', { name: 'Here too: T. Kessel.' })).toBeVisible();
  await cell(page, 3, 1).dblclick();
  await page.keyboard.type('half a wo');
  for (let i = 0; i < 10; i++) {
    await cell(other, 4 + i, 1).click();
    await other.keyboard.type(`told ${i}`);
    await other.keyboard.press('Enter');
    await expect(cell(page, 4 + i, 1)).toHaveText(`told ${i}`, { timeout: 1_000 });
    await page.keyboard.type('r');
  }
  await expect(rows(page).nth(4)).toContainText('changed · T. Kessel');
  await expect(field(page)).toHaveValue('half a worrrrrrrrrr');
  await expect(field(page)).toBeFocused();
  // A row that is added matches, and is marked as new; the box keeps its caret and text.
  await page.keyboard.press('Enter');
  await box(page).click();
  await other.getByRole('button', { name: 'Add a row' }).click();
  await expect(field(other)).toBeFocused();
  await other.keyboard.type('LP-777');
  await other.keyboard.press('Enter');
  await expect(page.locator('footer')).toContainText('1 new since you typed');
  await expect(box(page)).toBeFocused();
  await other.context().close();
  await expect(page.getByRole('button', { name: 'Nobody else has this table open.' })).toBeVisible();
  await page.request.delete(`/api/tables/${id}`);
});

test('rows that come above leave what is in view where it is, and the open cell the same cell', async ({ page }) => {
  const id = await made(page, 'Above', things(300));
  await open(page, id);
  await page.getByRole('button', { name: 'Sort by Item no.' }).click();
  await expect(page.locator('un-narrow-by')).toContainText('Sorted by');
  await grid(page).focus();
  await page.keyboard.press('Control+End');
  await expect(rows(page).last()).toContainText('LP-399');
  const first = rows(page).nth(6);
  const name = await first.locator('.cell').first().innerText();
  const top = (await first.boundingBox())!.y;
  await page.keyboard.press('F2');
  await editElsewhere(page, id, { kind: 'added', columns: ['Item no.'], added: [['A-1'], ['A-2'], ['A-3']] });
  await expect(status(page)).toContainText('303 of 303');
  const there = rows(page).filter({ hasText: name });
  await expect.poll(async () => Math.round((await there.boundingBox())!.y - top)).toBe(0);
  await page.keyboard.type('LP-last');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await stored(page, id, 299, 1))[0].split('|')[0]).toBe('LP-last');
  await page.request.delete(`/api/tables/${id}`);
});

test('a clash shows the three values; mine, theirs, or later', async ({ page }) => {
  const id = await made(page, 'Clashes', things(5));
  await open(page, id);
  const theirs = (row: number, was: string, now: string) =>
    editElsewhere(page, id, {
      kind: 'edited',
      who: 'T. Kessel',
      columns: ['Status'],
      changed: [{ id: row, was: [was], now: [now] }],
    });
  const panel = page.getByRole('dialog', { name: /changed this cell while you were typing/ });
  const clash = async (row: number, was: string): Promise<void> => {
    await cell(page, row - 1, 2).dblclick();
    await page.keyboard.type('Mine');
    await theirs(row, was, 'Given to charity');
    await page.keyboard.press('Enter');
    await expect(panel).toContainText('T. Kessel changed this cell while you were typing.');
  };
  await clash(1, 'Returned');
  await expect(panel.locator('dd')).toHaveText(['Returned', /^Given to charity · just now$/, 'Mine']);
  expect(await wrong(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await stored(page, id, 0, 1))[0]).toContain('|Mine|');
  await clash(2, 'Held');
  await panel.getByRole('button', { name: 'Keep theirs' }).click();
  await expect(cell(page, 1, 2)).toHaveText('Given to charity');
  await clash(3, 'Held');
  await page.keyboard.press('Escape');
  await expect(panel).toHaveCount(0);
  await expect(cell(page, 2, 2)).toHaveText('Mine');
  await page.getByRole('button', { name: '1 edit clashes' }).click();
  await panel.getByRole('button', { name: 'Keep theirs' }).click();
  await expect(cell(page, 2, 2)).toHaveText('Given to charity');
  await page.request.delete(`/api/tables/${id}`);
});

test('edits wait while the server is away, are kept over a reload, and go through once it is back', async ({
  page,
}) => {
  const id = await made(page, 'Away', things(5));
  await open(page, id);
  await page.route(`**/api/tables/${id}/changes`, (route) => route.abort());
  await cell(page, 0, 1).click();
  await page.keyboard.type('written offline');
  await page.keyboard.press('Enter');
  await expect(page.locator('footer')).toContainText('1 edit waits for the server');
  await expect(cell(page, 0, 1)).toHaveText('written offline');
  await page.reload();
  await expect(cell(page, 0, 1)).toHaveText('written offline');
  expect((await stored(page, id, 0, 1))[0]).toContain('umbrella 0');
  await page.unroute(`**/api/tables/${id}/changes`);
  await expect(page.locator('footer')).not.toContainText('waits for the server', { timeout: 10_000 });
  await expect.poll(async () => (await stored(page, id, 0, 1))[0]).toContain('written offline');
  await page.request.delete(`/api/tables/${id}`);
});

test('an answer that does not come does not write an edit twice', async ({ page }) => {
  const id = await made(page, 'Twice', things(3));
  await open(page, id);
  let first = true;
  await page.route(`**/api/tables/${id}/changes`, async (route) => {
    if (!first) return route.continue();
    first = false;
    await route.fetch();
    return route.abort();
  });
  await page.getByRole('button', { name: 'Add a row' }).click();
  await expect(status(page)).toContainText('4 of 4 rows', { timeout: 10_000 });
  await expect(page.locator('footer')).not.toContainText('waits', { timeout: 10_000 });
  expect(await stored(page, id)).toHaveLength(4);
  await page.request.delete(`/api/tables/${id}`);
});

test('the history tells changes in sentences, shows and undoes them, and says why one cannot be undone', async ({
  page,
}) => {
  const id = await made(page, 'Told', things(5));
  await open(page, id);
  for (const [was, now] of [
    ['Returned', 'Held'],
    ['Held', 'Sold'],
  ])
    await editElsewhere(page, id, {
      kind: 'edited',
      who: 'T. Kessel',
      columns: ['Status'],
      changed: [{ id: 1, was: [was], now: [now] }],
    });
  await page.getByRole('button', { name: 'History' }).click();
  const told = page.locator('un-history-drawer article');
  await expect(told).toHaveText([
    /T\. Kessel changed Status in 1 row/,
    /T\. Kessel changed Status in 1 row/,
    /Brought in: 5 rows/,
  ]);
  await expect(told.first().locator('del')).toHaveText('Held');
  await told.first().getByRole('button', { name: 'Show' }).click();
  await expect(told.first().locator('li')).toContainText('LP-100');
  expect(await wrong(page)).toEqual([]);
  await told.nth(1).getByRole('button', { name: 'Undo' }).click();
  await expect(remark(page)).toContainText('1 of its rows was changed since, by change 3');
  await told.first().getByRole('button', { name: 'Undo' }).click();
  await expect(told.first()).toContainText('undid change 3');
  await expect(cell(page, 0, 2)).toHaveText('Held');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'History' })).toBeFocused();
  await page.request.delete(`/api/tables/${id}`);
});

test('a table is looked at as it was then, through the box, and is not changed', async ({ page }) => {
  const id = await made(page, 'Then', things(30));
  await editElsewhere(page, id, {
    kind: 'edited',
    columns: ['Thing'],
    changed: [{ id: 1, was: ['umbrella 0'], now: ['hat'] }],
  });
  await editElsewhere(page, id, { kind: 'removed', columns: [], removed: [{ id: 5, seen: 2 }] });
  await open(page, id);
  await box(page).fill('umb');
  await expect(status(page)).toContainText('6 of 29 rows match');
  await page.getByRole('button', { name: 'Sort by Worth' }).click();
  await page.getByRole('button', { name: 'History' }).click();
  await page.getByRole('link', { name: 'As it was then' }).last().click();
  await expect(page.getByRole('note')).toContainText('Then as it was on');
  await expect(page.getByRole('note')).toContainText('after change 1.');
  await expect(box(page)).toHaveValue('umb');
  await expect(status(page)).toContainText('8 of 30 rows match');
  await expect(page.getByRole('columnheader', { name: 'Worth' })).toHaveAttribute('aria-sort', 'ascending');
  await expect(cell(page, 0, 1)).toHaveText('umbrella 0');
  expect(await wrong(page)).toEqual([]);
  // Neither by keys nor by hand.
  await cell(page, 0, 1).click();
  await page.keyboard.press('F2');
  await page.keyboard.type('x');
  await cell(page, 0, 1).dblclick();
  await expect(field(page)).toHaveCount(0);
  await page.keyboard.press('Delete');
  for (const name of ['Save', 'Add a row', 'History', 'Wording', 'Remove row'])
    await expect(page.getByRole('button', { name, exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'What to do with Thing' }).click();
  await expect(pop(page)).toContainText('Hide this column');
  await expect(pop(page)).not.toContainText('Rename');
  await page.keyboard.press('Escape');
  const file = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Take it out as CSV' }).click();
  expect((await file).suggestedFilename()).toBe('Then, change 1.csv');
  // Its address opens it again, and it stays as it was while others go on.
  await page.reload();
  await expect(status(page)).toContainText('8 of 30 rows match');
  for (const wrongly of ['abc', '0', '99999999999', '99']) {
    await page.goto(`/table/${id}/then/${wrongly}`);
    await expect(page.getByRole('alert')).toContainText('There is no such change of this table');
  }
  await page.goto(`/table/${id}/then/1`);
  await page.getByRole('link', { name: 'To the table as it is now' }).click();
  // What was typed there before is there again.
  await expect(status(page)).toContainText('6 of 29 rows match');
  expect((await stored(page, id, 0, 1))[0]).toContain('|hat|');
  await page.request.delete(`/api/tables/${id}`);
});

test('a table as it was that comes late lands nowhere; one that was put away says so, and how it is had again', async ({
  page,
}) => {
  const id = await made(page, 'Late then', things(30));
  await editElsewhere(page, id, {
    kind: 'edited',
    columns: ['Thing'],
    changed: [{ id: 1, was: ['umbrella 0'], now: ['hat'] }],
  });
  let go!: () => void;
  const held = new Promise<void>((done) => (go = done));
  await page.route('**/earlier', async (route) => {
    await held;
    await route.continue().catch(() => undefined);
  });
  await open(page, id);
  await page.getByRole('button', { name: 'History' }).click();
  await page.getByRole('link', { name: 'As it was then' }).click();
  await expect(page).toHaveURL(/then\/1/);
  await page.goBack();
  await expect(status(page)).toContainText('30 of 30 rows');
  go();
  await page.unroute('**/earlier');
  await expect(cell(page, 0, 1)).toHaveText('hat');
  await expect(page.getByRole('note')).toHaveCount(0);
  await page.goForward();
  await expect(cell(page, 0, 1)).toHaveText('umbrella 0');
  // Four others are looked at meanwhile.
  for (let at = 2; at <= 5; at++) {
    await editElsewhere(page, id, { kind: 'added', columns: ['Thing'], added: [[`hat ${at}`]] });
    await page.request.post(`/api/tables/${id}/earlier`, { data: { at } });
  }
  await box(page).fill('umb');
  await expect(page.getByRole('alert')).toContainText('has been put away meanwhile. Reload this page');
  await page.reload();
  await expect(status(page)).toContainText('8 of 30 rows match');
  await expect(cell(page, 0, 1)).toHaveText('umbrella 0');
  await page.request.delete(`/api/tables/${id}`);
});

test('one Undo for the box and for the rows says which it is', async ({ page }) => {
  const id = await made(page, 'Undone', things(5));
  await open(page, id);
  let go!: () => void;
  const held = new Promise<void>((done) => (go = done));
  await page.route('**/changes', async (route) => {
    await held;
    await route.continue();
  });
  const written = page.waitForResponse('**/changes');
  await cell(page, 0, 1).click();
  await page.keyboard.type('edited');
  await page.keyboard.press('Enter');
  const undo = page.getByRole('button', { name: /^Undo/ });
  await expect(undo).toHaveText('Undo edit');
  await page.getByRole('button', { name: 'Sort by Thing' }).click();
  await expect(undo).toHaveText('Undo');
  // What was done last stays so, though what was done before it arrives later.
  go();
  await written;
  await expect(page.locator('footer .waiting')).toHaveCount(0);
  await expect(rows(page).nth(1)).toContainText('glove 2');
  await expect(undo).toHaveText('Undo');
  await undo.click();
  await expect(undo).toHaveText('Undo edit');
  await undo.click();
  await expect(cell(page, 0, 1)).toHaveText('umbrella 0');
  await page.getByRole('button', { name: 'Redo edit' }).click();
  await expect(cell(page, 0, 1)).toHaveText('edited');
  await page.request.delete(`/api/tables/${id}`);
});

test('a table that is deleted while it is open says so; a reader edits nothing', async ({ page }) => {
  const id = await made(page, 'Deleted', things(5));
  await open(page, id);
  await page.request.delete(`/api/tables/${id}`);
  await expect(page.getByRole('alert')).toContainText('This table has been deleted');
  await page.goto('/read/1');
  await cell(page, 0, 1).click();
  await page.keyboard.press('F2');
  await page.keyboard.type('x');
  await expect(field(page)).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Add a row' })).toHaveCount(0);
});

test('the record beside the rows edits every field, by the keyboard too, and tells what happened to its row', async ({
  page,
}) => {
  const id = await made(page, 'Peeked', things(5));
  await open(page, id);
  await cell(page, 1, 1).click();
  await page.keyboard.press('Space');
  const peek = page.locator('un-peek');
  await peek.getByRole('button', { name: 'Change Status' }).focus();
  await page.keyboard.press('Enter');
  await expect(peek.getByRole('textbox', { name: 'Status' })).toBeFocused();
  await page.keyboard.type('Sold');
  await page.keyboard.press('Tab');
  await expect(peek.getByRole('textbox', { name: 'Found on' })).toHaveValue('2026-10-02');
  await page.keyboard.press('Escape');
  await expect(peek.getByRole('button', { name: 'Change Found on' })).toBeFocused();
  await expect(cell(page, 1, 2)).toHaveText('Sold');
  await peek.getByText('History of this row').click();
  await expect(peek.locator('un-row-history article')).toContainText('Status: Held Sold');
  expect(await wrong(page)).toEqual([]);
  await page.request.delete(`/api/tables/${id}`);
});

test('what is typed beside the rows stays while others write there or above, and goes to its own row', async ({
  page,
}) => {
  const id = await made(page, 'Typed beside', things(5));
  await open(page, id);
  await page.getByRole('button', { name: 'Sort by Item no.' }).click();
  await expect(page.locator('un-narrow-by')).toContainText('Sorted by');
  await cell(page, 1, 1).click();
  await page.keyboard.press('Space');
  const status = page.locator('un-peek').getByRole('textbox', { name: 'Status' });
  await page.getByRole('button', { name: 'Change Status' }).click();
  await page.keyboard.type('Mi');
  await editElsewhere(page, id, {
    kind: 'edited',
    columns: ['Status'],
    changed: [{ id: 2, was: ['Held'], now: ['Given to charity'] }],
  });
  await expect(cell(page, 1, 2)).toHaveText('Given to charity');
  await page.waitForTimeout(300);
  await expect(status).toHaveValue('Mi');
  await page.keyboard.type('ne');
  await page.keyboard.press('Enter');
  const panel = page.getByRole('dialog', { name: /changed this cell while you were typing/ });
  await panel.getByRole('button', { name: 'Keep theirs' }).click();
  await expect(cell(page, 1, 2)).toHaveText('Given to charity');
  await page.getByRole('button', { name: 'Change Status' }).click();
  await page.keyboard.type('Sold');
  await editElsewhere(page, id, { kind: 'added', columns: ['Item no.'], added: [['A-1'], ['A-2'], ['A-3']] });
  await expect(page.locator('footer')).toContainText('8 of 8');
  await page.waitForTimeout(300);
  await page.keyboard.press('Enter');
  await expect
    .poll(async () => (await stored(page, id)).map((row) => row.split('|')[2]))
    .toEqual(['Returned', 'Sold', 'Held', 'Returned', 'Held', '', '', '']);
  await page.request.delete(`/api/tables/${id}`);
});

test('columns are added, renamed, put in order and removed, and values renamed, live for others, each undone', async ({
  page,
  context,
}) => {
  const id = await made(page, 'Columns', things(60));
  await open(page, id, '?q=LP');
  const other = await another(context, 'T. Kessel');
  await open(other, id);
  const heads = (of: Page) => of.locator('.head .name');
  const menu = async (column: string, entry: string): Promise<void> => {
    await page.getByRole('button', { name: `What to do with ${column}` }).click();
    await page.locator('un-column-keeping').getByRole('button', { name: entry }).click();
  };
  await menu('Thing', 'Rename …');
  expect(await wrong(page)).toEqual([]);
  await page.getByLabel('Another name for Thing').fill(' ');
  await page.keyboard.press('Enter');
  await expect(remark(page)).toContainText('A column needs a name.');
  await page.getByLabel('Another name for Thing').fill('What');
  await page.keyboard.press('Enter');
  await expect(heads(page)).toHaveText(['Item no.', 'What', 'Status', 'Found on', 'Worth']);
  await expect(heads(other)).toHaveText(['Item no.', 'What', 'Status', 'Found on', 'Worth']);
  await expect(page.locator('#sentence')).toContainText('Looks in Item no., What and Status');
  await menu('What', 'Add a column …');
  await page.getByLabel('Name of the new column').press('Enter');
  await expect(remark(page)).toContainText('A column needs a name.');
  await page.getByLabel('Name of the new column').fill('Remark');
  await page.keyboard.press('Enter');
  await expect(heads(other).last()).toHaveText('Remark');
  await cell(page, 0, 5).click();
  await page.keyboard.type('kept dry');
  await page.keyboard.press('Enter');
  await expect(cell(other, 0, 5)).toHaveText('kept dry');
  await menu('Remark', 'Remove from the table …');
  await page.getByRole('button', { name: 'Remove it from the table' }).click();
  await expect(heads(page)).toHaveCount(5);
  await page.getByRole('button', { name: 'Undo it' }).click();
  await expect(cell(other, 0, 5)).toHaveText('kept dry');
  await page.locator('#sentence').getByRole('button', { name: 'every column' }).click();
  await page.getByRole('button', { name: 'Move Worth to the left' }).click();
  await page.getByRole('button', { name: 'Make this the table’s order' }).click();
  await page.keyboard.press('Escape');
  await expect(heads(other)).toHaveText(['Item no.', 'What', 'Status', 'Worth', 'Found on', 'Remark']);
  await menu('Status', 'Rename one of its values …');
  await page.getByRole('combobox', { name: 'Value' }).click();
  await page.getByRole('option', { name: 'Held', exact: true }).click();
  await page.getByLabel('is to be, in every row').fill('On the shelf');
  await page.keyboard.press('Enter');
  await expect(cell(other, 1, 2)).toHaveText('On the shelf');
  await page.getByRole('button', { name: 'Undo it' }).click();
  await expect(cell(other, 1, 2)).toHaveText('Held');
  await other.context().close();
  await page.request.delete(`/api/tables/${id}`);
});

test('what others do asks nothing that one has only typed yet; Enter then does', async ({ page }) => {
  const id = await made(page, 'On Enter', things(40));
  await open(page, id);
  await page.locator('#sentence').getByRole('button', { name: 'at each keystroke' }).click();
  await page.getByRole('radio', { name: 'on Enter' }).click();
  await box(page).fill('umbrella');
  await expect(status(page)).toContainText('rows on show are for “nothing typed”; Enter searches');
  await editElsewhere(page, id, { kind: 'added', columns: ['Thing'], added: [['umbrella stand']] });
  // The rows on show go on being counted, and said to be of another text.
  await expect(status(page)).toContainText('41 of 41 rows');
  await expect(status(page)).toContainText('rows on show are for “nothing typed”; Enter searches');
  await expect(rows(page).nth(1)).toContainText('hat 1');
  await box(page).press('Enter');
  await expect(status(page)).toContainText('11 of 41 rows match');
  await page.request.delete(`/api/tables/${id}`);
});

test('what is in an open cell is not lost to a closed window', async ({ page }) => {
  const id = await made(page, 'Closed', things(5));
  await open(page, id);
  await cell(page, 0, 1).click();
  await page.keyboard.type('typed, and then the window');
  await page.reload();
  await expect(cell(page, 0, 1)).toHaveText('typed, and then the window');
  await expect.poll(async () => (await stored(page, id, 0, 1))[0]).toContain('typed, and then the window');
  await page.request.delete(`/api/tables/${id}`);
});

test('a table whose last row is removed takes new ones; a wide one and a narrow window are edited, too', async ({
  page,
}) => {
  const wide = Array.from({ length: 200 }, (_, i) => `Column ${i}`).join(',');
  const id = await made(page, 'Wide', `${wide}\n${'x,'.repeat(199)}x\n`);
  await open(page, id);
  await cell(page, 0, 0).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.press('Control+ArrowRight');
  await page.keyboard.type('last');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 199)).toHaveText('last');
  await page.keyboard.press('Control+Delete');
  await expect(status(page)).toContainText('0 of 0 rows');
  await page.getByRole('button', { name: 'Add a row' }).click();
  await expect(field(page)).toBeFocused();
  await page.keyboard.type('first again');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 0)).toHaveText('first again');
  await page.setViewportSize({ width: 390, height: 800 });
  await expect(page.locator('un-box-menu').getByRole('button', { name: 'More' })).toBeInViewport({ ratio: 1 });
  await rows(page).first().click();
  const peek = page.locator('un-peek');
  await peek.getByRole('button', { name: 'Change Column 0' }).click();
  await page.keyboard.type('by thumb');
  await page.keyboard.press('Enter');
  await expect.poll(() => stored(page, id).then(([row]) => row.split('|')[0])).toBe('by thumb');
  await page.request.delete(`/api/tables/${id}`);
});

test('an edit of one’s own is asked about once, though it is also heard of as news; another’s once, too', async ({
  page,
}) => {
  await byRequestOnly(page);
  const id = await made(page, 'Asked once');
  await open(page, id);
  await expect(page.locator('un-record-grid')).toContainText('umbrella 0');
  let asked = 0;
  page.on('request', (request) => (asked += request.url().endsWith(`/tables/${id}/search`) ? 1 : 0));
  const heard = page.waitForResponse((reply) => reply.url().endsWith(`/tables/${id}/search`));
  await cell(page, 0, 1).click();
  await page.keyboard.type('lantern');
  await page.keyboard.press('Enter');
  await heard;
  // Longer than two askings are apart.
  await page.waitForTimeout(700);
  expect(asked).toBe(1);
  await editElsewhere(page, id, {
    kind: 'edited',
    columns: ['Thing'],
    changed: [{ id: 2, was: [null], now: ['drum'] }],
  });
  await expect(cell(page, 1, 1)).toContainText('drum');
  await page.waitForTimeout(700);
  expect(asked).toBe(2);
});
