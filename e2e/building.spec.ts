import { box, expect, open, rows, sentence, status, test, wrong } from './sheet.js';

test('a phrase of the sentence opens its choices, and the rows follow', async ({ page }) => {
  await open(page, '/box/1?q=umbr+zebra');
  await expect(status(page)).toContainText(/^\s*0 of/);
  await sentence(page).getByRole('button', { name: 'every word' }).click();
  await page.getByRole('radio', { name: 'any word' }).click();
  await expect(sentence(page)).toContainText('for any word');
  await expect(rows(page).first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(sentence(page)).toContainText('for every word');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(sentence(page)).toContainText('for any word');
  await page.reload();
  await expect(sentence(page)).toContainText('for any word');
});

test('the columns phrase threads columns', async ({ page }) => {
  await open(page, '/box/1?q=mahogany');
  const before = await status(page).innerText();
  await sentence(page)
    .getByRole('button', { name: /Description, Marks/ })
    .click();
  await page.getByRole('checkbox', { name: 'Colour' }).check();
  await expect(sentence(page)).toContainText('Description, Colour, Marks and Finder’s note');
  await expect(status(page)).not.toHaveText(before);
});

test('strands take away and add, each with its count, and can be removed', async ({ page }) => {
  await open(page);
  await box(page).fill('umbr wood');
  await page.keyboard.press('Alt+ArrowDown');
  await page.keyboard.type('broken | torn');
  const second = page.locator('un-search-box').nth(1);
  await expect(second.locator('.count')).toHaveText(/−10\s+leaves\s+151/);
  await expect(status(page)).toContainText('151 of 4,120 rows match');
  await second.getByRole('button', { name: /^What this strand does/ }).click();
  await page.getByRole('radio', { name: /^within/ }).click();
  await expect(second.locator('.count')).toContainText('leaves 10');
  await page.reload();
  await expect(status(page)).toContainText('10 of 4,120 rows match');
  await second.getByRole('button', { name: 'Remove' }).click();
  await expect(status(page)).toContainText('161 of 4,120 rows match');
});

test('a strand is read as it is told to be', async ({ page }) => {
  await open(page);
  await box(page).fill('^old umb');
  await expect(status(page)).toContainText(/^\s*0 of/);
  await page.getByRole('button', { name: /^How this strand is read/ }).click();
  await page.getByRole('radio', { name: /^Pattern/ }).click();
  await expect(rows(page).first()).toContainText(/old umbrella/i);
});

test('a pattern that cannot be read says where it stops, and the rows stay', async ({ page }) => {
  await open(page);
  await box(page).fill('umbr');
  await expect(status(page)).toContainText('453 of 4,120');
  await box(page).fill('umbr /(a/');
  await expect(page.locator('.notice.problem')).toContainText('This bracket is not closed.');
  await expect(rows(page).first().locator('.mark')).toHaveText(/umbr/i);
  await expect(status(page)).toContainText('rows on show are for “umbr”');
  await box(page).fill('"umbr');
  await expect(page.locator('.notice')).toContainText('This quote is not closed');
});

test('what is opened and cannot be read shows the rows of nothing typed, and gives no reasons for what was not searched', async ({
  page,
}) => {
  await open(page, `/box/1?q=${encodeURIComponent('/[a/')}`, 'rows on show are for “nothing typed”');
  await expect(page.locator('.notice.problem')).toContainText('This square bracket is not closed.');
  await expect(rows(page).first()).toBeVisible();
  await box(page).fill('umbrelaq mahogany');
  await expect(page.locator('un-nothing-found li').first()).toBeVisible();
  await box(page).fill('umbrelaq mahogany /[a/');
  await expect(status(page)).toContainText('rows on show are for “umbrelaq mahogany”');
  await expect(page.locator('un-nothing-found')).toBeVisible();
  await expect(page.locator('un-nothing-found li')).toHaveCount(0);
  await box(page).fill('umbr');
  await expect(status(page)).toContainText('453 of 4,120');
});

test('a picker narrows by its values, with counts, and reads as words', async ({ page }) => {
  await open(page, '/box/1?q=umbr');
  await page.getByRole('button', { name: 'Status any' }).click();
  const held = page.locator('label', { hasText: 'Held' });
  const count = Number((await held.locator('.rows').innerText()).replace(',', ''));
  await held.getByRole('checkbox').check();
  await expect(page.getByRole('button', { name: 'Status Held' })).toBeVisible();
  await expect(status(page)).toContainText(`${count} of 830 rows match (4,120 in all)`);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Clear all' }).click();
  await expect(page.getByRole('button', { name: 'Status any' })).toBeVisible();
});

test('a column’s name sorts by it, up, down and not at all', async ({ page }) => {
  await open(page);
  const name = page.getByRole('button', { name: 'Sort by Item no.' });
  await name.click();
  await expect(rows(page).first()).toContainText('LP-36001');
  await page.locator('.head').getByRole('button', { name: 'Sort by Item no.' }).click();
  await expect(rows(page).first()).toContainText('LP-405');
  await expect(page.locator('un-narrow-by')).toContainText('Sorted by Item no., Z first');
  await page.getByRole('button', { name: 'table’s own order' }).click();
  await expect(rows(page).first()).toContainText('LP-36001');
});

test('flip shows the others, and back', async ({ page }) => {
  await open(page, '/box/1?q=umbr+wood');
  await page.getByRole('button', { name: 'Flip to the 3,959 others' }).click();
  await expect(page.locator('un-search-box .count')).toHaveText('3,959 rows');
  await page.keyboard.press('Alt+f');
  await expect(page.locator('un-search-box .count')).toHaveText('161 rows');
});

test('marking in place keeps every row, and Enter steps through the hits', async ({ page }) => {
  await open(page, '/box/2');
  await expect(page.locator('un-record-grid .mark')).toHaveCount(0);
  await box(page).fill('police');
  await expect(status(page)).toContainText(/\d+ of 4,120 rows match/);
  await expect(page.locator('un-search-box .count')).toHaveText('407 rows');
  await expect(rows(page).first()).toContainText('LP-36001');
  await box(page).press('Enter');
  await expect(page.locator('.row.at')).toContainText('Police');
  const first = await page.locator('.row.at').innerText();
  await box(page).press('Enter');
  await expect(page.locator('.row.at')).not.toHaveText(first);
  await box(page).press('Shift+Enter');
  await expect(page.locator('.row.at')).toContainText(first.split('\n')[0]);
});

test('leaving out hides the matches, and with nothing typed hides nothing', async ({ page }) => {
  await open(page, '/box/3');
  const left = await page.locator('un-search-box .count').innerText();
  expect(left).not.toBe('4,120 rows');
  await expect(rows(page).first()).toContainText(/Held|Police/);
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await expect(page.locator('un-search-box .count')).toHaveText('4,120 rows');
});

test('nothing found offers ways out, each giving what it says', async ({ page }) => {
  await open(page);
  await box(page).fill('umbrellqa');
  const reason = page.locator('un-nothing-found li').first();
  await expect(reason).toContainText('umbrellqa is in no row. Near spelling: umbrella');
  const gives = /Gives ([\d,]+) rows/.exec(await reason.innerText())![1];
  await reason.getByRole('button', { name: 'Use umbrella' }).click();
  await expect(box(page)).toHaveValue('umbrella');
  await expect(page.locator('un-search-box .count')).toHaveText(`${gives} rows`);
});

for (const colorScheme of ['light', 'dark'] as const) {
  for (const [name, address] of [
    ['the shelf', '/'],
    ['the sheet', '/box/1?q=umbr+wood'],
    ['marking in place', '/box/2?q=police'],
    ['nothing found', '/box/1?q=umbrellqa'],
  ] as const) {
    test(`axe finds nothing wrong with ${name}, ${colorScheme}`, async ({ page }) => {
      await page.emulateMedia({ colorScheme });
      await page.goto(address);
      await page.waitForLoadState('networkidle');
      expect(await wrong(page)).toEqual([]);
    });
  }
}
