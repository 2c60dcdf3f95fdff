/** What a new user finds by names and hints on the screen alone: what can be typed, and what the controls do. */
import { box, broughtIn, byRequestOnly, expect, open, rows, sentence, status, test, wrong } from './sheet.js';

const THINGS =
  'No,Thing,Colour,Found on,Worth\n1,Old leather satchel,dark brown,2026-01-05,12\n2,leather satchel,red,2026-01-06,5\n' +
  '3,wooden box 405,,2026-02-01,700\n4,felt hat,red,2026-02-02,3\n';

test('the crib tells what can be typed by this table’s own values; each count is true when its line is clicked', async ({
  page,
}) => {
  const id = await broughtIn(page, 'Crib', THINGS);
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  const opener = page.getByRole('button', { name: 'What can be typed' });
  const lines = page.locator('.crib .item');
  await opener.click();
  await expect(lines.first()).toBeVisible();
  expect(await wrong(page, '.crib')).toEqual([]);
  const told = await lines.evaluateAll((all) =>
    all.map((line) => [line.querySelector('code')!.textContent, line.querySelector('.rows')!.textContent]),
  );
  expect(told.map(([text]) => text)).toEqual(
    expect.arrayContaining(['leat', '"leather satchel"', '/^old/', '/\\d{3}$/', 'colour:<blank>']),
  );
  for (const [text, count] of told) {
    await page
      .locator('.crib .item')
      .filter({ has: page.getByText(text!, { exact: true }) })
      .click();
    await expect(box(page)).toBeFocused();
    await expect(box(page)).toHaveValue(text!);
    await expect(status(page)).toContainText(`${/\d+/.exec(count!)![0]} of 4`);
    await box(page).fill('');
    await opener.click();
    await expect(lines.first()).toBeVisible();
  }
  await page.keyboard.press('Escape');
  // What is typed already stays.
  await box(page).fill('leather');
  await opener.click();
  await page.locator('.crib .item').filter({ hasText: 'colour:red' }).first().click();
  await expect(box(page)).toHaveValue('leather colour:red');
  await expect(rows(page)).toHaveCount(1);
  // Another reading has other lines.
  await page.getByRole('button', { name: 'How this strand is read' }).click();
  await page.getByRole('radio', { name: 'Pattern' }).click();
  await expect(sentence(page)).toContainText('for the pattern that is typed, ignoring case');
  await expect(sentence(page)).not.toContainText('every word');
  await box(page).fill('');
  await opener.click();
  await expect(page.locator('.crib')).toContainText('the cell ends with three digits');
  await page.locator('.crib .item').filter({ hasText: 'three digits' }).click();
  await expect(rows(page).first()).toContainText('wooden box 405');
});

test('OR, AND and NOT between words are said to be words, with what to type in their place', async ({ page }) => {
  await open(page);
  await box(page).fill('umbrella OR hat');
  await expect(page.locator('#notices')).toContainText('“OR” is looked for as a word.');
  await page.getByRole('button', { name: 'Use |' }).click();
  await expect(box(page)).toHaveValue('umbrella | hat');
  await expect(box(page)).toBeFocused();
  await expect(page.locator('#notices')).toHaveText('');
  await box(page).fill('umbrella NOT wood');
  await page.getByRole('button', { name: 'Use -' }).click();
  await expect(box(page)).toHaveValue('umbrella -wood');
});

test('controls say what they do on hover and on focus', async ({ page }) => {
  await open(page);
  const hint = page.locator('.p-tooltip');
  await page.getByRole('button', { name: 'Thread Item no.' }).hover();
  await expect(hint).toHaveText('Look in this column too');
  await page.mouse.move(0, 0);
  await expect(hint).toHaveCount(0);
  for (const [name, says] of [
    ['Chart', 'Where the matches fall'],
    ['History', 'Who changed what'],
    ['What can be typed', 'examples from this table'],
  ]) {
    await page.getByRole('button', { name, exact: true }).focus();
    await expect(hint).toContainText(says);
    await expect(page.getByRole('button', { name, exact: true })).toHaveAccessibleDescription(new RegExp(says));
  }
});

test('where matches are marked in place, typing leads to the first of them, and an empty box back to where one was', async ({
  page,
}) => {
  const lines = Array.from({ length: 600 }, (_, i) => `${i + 1},thing ${i + 1}`).join('\n');
  const id = await broughtIn(page, 'Marked', `No,Thing\n${lines}\n`);
  await page.goto(`/table/${id}?as=${encodeURIComponent(JSON.stringify({ effect: 'mark in place' }))}`);
  const scroller = page.locator('un-record-grid').first();
  const hit = page.locator('un-record-grid .row.match');
  const first = page.locator('un-record-grid .row').first();
  await expect(first).toContainText('thing 1');
  await box(page).fill('"thing 555"');
  await expect(hit.first()).toBeInViewport();
  await expect(hit.first()).toContainText('thing 555');
  await box(page).fill('');
  await expect(page.locator('.row', { hasText: /thing 3$/ })).toBeInViewport();
  // Who has scrolled elsewhere meanwhile stays there.
  await box(page).fill('"thing 555"');
  await expect(hit.first()).toBeInViewport();
  await scroller.hover();
  await page.mouse.wheel(0, -9_000);
  await expect(hit).toHaveCount(0);
  // Rows that are not fetched yet are blank.
  await expect(first).toContainText('thing');
  const place = await first.textContent();
  await box(page).fill('');
  await expect(status(page)).toContainText('600 of 600');
  await page.waitForTimeout(300);
  expect(await first.textContent()).toBe(place);
});

test('the shelf says what was opened here lately, last first, and leads there', async ({ page }) => {
  const id = await broughtIn(page, 'Lately', THINGS);
  await page.goto('/');
  await expect(page.getByRole('textbox', { name: 'Find everywhere' })).toBeVisible();
  await expect(page.locator('.lately')).toHaveCount(0);
  await open(page);
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  await page.goto('/');
  await expect(page.locator('.lately a')).toHaveText(['Lately', 'Front desk look-up']);
  await page.locator('.lately a').first().click();
  await expect(page).toHaveURL(new RegExp(`/table/${id}$`));
});

test('what the crib and the first match are late with moves neither the focus nor the rows of who has gone on', async ({
  page,
}) => {
  await byRequestOnly(page);
  const lines = Array.from({ length: 600 }, (_, i) => `${i + 1},thing ${i + 1}`).join('\n');
  const id = await broughtIn(page, 'Late', `No,Thing\n${lines}\n`);
  await page.goto(`/table/${id}?as=${encodeURIComponent(JSON.stringify({ effect: 'mark in place' }))}`);
  const first = page.locator('un-record-grid .row').first();
  await expect(first).toContainText('thing 1');
  let late: (() => void)[] = [];
  const holdUp = (address: string) =>
    page.route(address, async (route) => {
      await new Promise<void>((done) => late.push(done));
      await route.continue().catch(() => undefined);
    });
  const letGo = async (address: string): Promise<void> => {
    await page.unroute(address);
    late.forEach((done) => done());
    late = [];
    await page.waitForTimeout(500);
  };
  // The first match comes after one has scrolled.
  await holdUp('**/next');
  await box(page).fill('"thing 555"');
  await expect.poll(() => late.length).toBe(1);
  await page.locator('un-record-grid').first().hover();
  await page.mouse.wheel(0, 2_000);
  await expect(first).toContainText(/thing (?!1$)/);
  const place = await first.textContent();
  await letGo('**/next');
  expect(await first.textContent()).toBe(place);
  // The examples come after the crib was closed, and after one has begun to type.
  await holdUp('**/search');
  await page.getByRole('button', { name: 'What can be typed' }).click();
  await expect(page.locator('.crib')).toContainText('Looking for examples');
  await page.getByRole('button', { name: 'What can be typed' }).click();
  await expect(page.locator('.crib')).toHaveCount(0);
  await box(page).focus();
  await letGo('**/search');
  await expect(box(page)).toBeFocused();
  await expect(page.locator('.crib')).toHaveCount(0);
});
