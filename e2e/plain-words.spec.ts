/** What a sheet says, and where it stands, so that who sees it for the first time is not puzzled. */
import { box, broughtIn, editElsewhere, expect, open, type Page, pop, rows, sentence, status, test } from './sheet.js';

for (const width of [1200, 1360, 1700]) {
  test(`a reader’s help line stands once, and above the sentence, at ${width} pixels`, async ({ page }) => {
    await page.setViewportSize({ width, height: 800 });
    await open(page, '/read/1');
    const help = page.getByText('Try what it is, its colour or a number on it.');
    await expect(help).toHaveCount(1);
    const [above, below] = [await help.boundingBox(), await sentence(page).boundingBox()];
    expect(above!.y + above!.height).toBeLessThanOrEqual(below!.y);
  });
}

test('what has become of rows stands beside their cells, never over them', async ({ page }) => {
  await page.setViewportSize({ width: 1000, height: 700 });
  const wide = Array.from({ length: 9 }, (_, i) => `Column ${i}`);
  const lines = Array.from({ length: 30 }, (_, i) => `${i},${wide.map((name) => `${name} of ${i}`).join(',')}`);
  const id = await broughtIn(page, 'Wide', `No,${wide.join(',')}\n${lines.join('\n')}\n`);
  await page.goto(`/table/${id}`);
  await expect(rows(page).first()).toContainText('Column 0 of 0');
  await expect(page.locator('.notes')).toHaveCount(0);
  await editElsewhere(page, id, {
    who: 'T. Kessel',
    kind: 'edited',
    columns: ['Column 8'],
    changed: [{ id: 3, was: ['Column 8 of 2'], now: ['mended'] }],
  });
  const note = page.locator('.notes .note');
  await expect(note).toHaveText('changed · T. Kessel');
  await expect(note).toBeInViewport({ ratio: 1 });
  // Whatever is in the last column can be brought clear of it.
  await page.locator('.scroller').evaluate((grid) => (grid.scrollLeft = grid.scrollWidth));
  const last = rows(page).nth(2).locator('.cell').last();
  await expect(last).toHaveText('mended');
  const [cell, notes] = [await last.boundingBox(), await page.locator('.notes').boundingBox()];
  expect(cell!.x + cell!.width).toBeLessThanOrEqual(notes!.x + 1);
  // So is a cell that the arrows go to.
  await page.locator('.scroller').evaluate((grid) => (grid.scrollLeft = 0));
  await rows(page).nth(2).locator('.cell').nth(1).click();
  await page.keyboard.press('End');
  await expect
    .poll(async () => {
      const at = await page.locator('#active-cell').boundingBox();
      return at!.x + at!.width;
    })
    .toBeLessThanOrEqual(notes!.x + 1);
});

test('numbers stand right, under the name of their column, and a picker tells days as the column shows them', async ({
  page,
}) => {
  const id = await broughtIn(page, 'Worths', 'Thing,Worth,Found\nhat,12.5,2026-11-05\nglove,3,2026-11-20\n');
  await page.goto(`/table/${id}?pickers=${encodeURIComponent(JSON.stringify([]))}`);
  const right = (selector: string) =>
    page.locator(selector).evaluate((one) => {
      const range = document.createRange();
      range.selectNodeContents(one);
      return range.getBoundingClientRect().right;
    });
  await expect(rows(page)).toHaveCount(2);
  const worth = 'un-record-grid .row:has-text("hat") .cell.number';
  expect(await right(worth)).toBeCloseTo(await right('un-record-grid .row:has-text("glove") .cell.number'), 0);
  expect(Math.abs((await right(worth)) - (await right('.head.number .name')))).toBeLessThan(4);
  await page.request.patch(`/api/tables/${id}/columns`, {
    data: { name: 'Found', shown: { date: 'dd/MM/yyyy' } },
    headers: { 'if-match': '*' },
  });
  await page.goto(
    `/table/${id}?as=${encodeURIComponent(JSON.stringify({ pickers: [{ column: 'Found', days: { from: '2026-11-04', to: '2026-11' } }] }))}`,
  );
  await expect(page.locator('.chip.picker')).toHaveText(/Found 04\/11\/2026 to 2026-11/);
});

test('what shows while nothing is typed is chosen for every effect', async ({ page }) => {
  const id = await broughtIn(page, 'Effects', 'Thing\nhat\nglove\nscarf\n');
  for (const [effect, says] of [
    ['mark in place', 'marks nothing and shows every row'],
    ['leave matches out', 'leaves nothing out and shows every row'],
  ] as const) {
    await page.goto(`/table/${id}?as=${encodeURIComponent(JSON.stringify({ effect }))}`);
    await expect(sentence(page)).toContainText(`With nothing typed it ${says}`);
    await expect(rows(page)).toHaveCount(3);
    await sentence(page).getByRole('button', { name: 'shows every row' }).click();
    await page.getByRole('radio', { name: 'shows no row' }).click();
    await expect(status(page)).toContainText('0 of 3');
    await expect(page.locator('.prompting')).toBeVisible();
    await box(page).fill('hat');
    await expect(rows(page)).toHaveCount(effect === 'mark in place' ? 3 : 2);
    await expect(page.locator('.prompting')).toHaveCount(0);
  }
});

const press = (name: string | RegExp) => (page: Page) => page.getByRole('button', { name }).first().click();
const rest = (name: string | RegExp) => (page: Page) => page.getByRole('button', { name }).first().hover();
const tip = (page: Page) => page.locator('.p-tooltip');
const crib = (page: Page) => page.locator('.crib');

/** What a new user looks for, what is done for it, and where it is then said. Nothing but names and hints on the screen is used. */
const LOOKED_FOR: [
  what: string,
  does: ((page: Page) => Promise<void>)[],
  at: (page: Page) => ReturnType<typeof tip>,
  says: RegExp,
][] = [
  ['what can be typed', [press('What can be typed')], crib, /part of a word, in any column searched/],
  ['a pattern that ends with three digits', [press('What can be typed')], crib, /the cell ends with three digits/],
  ['how a date is typed', [press('What can be typed')], crib, /on that day, written as the cells write it/],
  ['what Flip does', [rest(/^Flip|^No others to flip/)], tip, /in place of those on show/],
  ['what Clear clears', [(page) => box(page).fill('hat'), rest('Clear')], tip, /Clears the text; pickers stay/],
  [
    'where what is lost goes when the server ends',
    [press('? keys')],
    (page) => page.getByRole('dialog'),
    /edits wait in this browser/,
  ],
  ['the newest first', [press('What to do with Found on'), press('newest first')], sorting, /Found on, newest first/],
  ['where the matches fall', [rest('Chart')], tip, /Where the matches fall/],
  ['who changed what', [press('History')], (page) => page.locator('un-history-drawer'), /Brought in/i],
  ['looking in one column less', [rest('Unthread Thing')], tip, /Do not look in this column/],
  [
    'another box of this one',
    [press('More'), (page) => pop(page).getByRole('button', { name: 'Save as a new box' }).hover()],
    pop,
    /Save as a new box/,
  ],
  ['what narrows by a column', [rest('Add a picker')], tip, /Narrow by one more column/],
];

/** What the rows are sorted by is said beside the pickers. */
function sorting(page: Page): ReturnType<typeof tip> {
  return page.locator('un-narrow-by');
}

test('what a new user looks for is found in two actions at most, by names and hints on the screen', async ({
  page,
}) => {
  const id = await broughtIn(
    page,
    'New here',
    'Thing,Found on,Worth\nold leather satchel 405,2026-11-05,12\nwooden box with hat,2026-11-20,3\n',
  );
  for (const [what, does, at, says] of LOOKED_FOR) {
    expect(does.length, what).toBeLessThanOrEqual(2);
    await page.goto(`/table/${id}`);
    await expect(rows(page)).toHaveCount(2);
    for (const action of does) await action(page);
    await expect(at(page), what).toContainText(says);
  }
});
