import { readFile } from 'node:fs/promises';
import { box, expect, keepAs, remark, sentence, status, test, type Page } from './sheet.js';

const menu = (page: Page) => page.locator('un-box-menu');

async function more(page: Page, item: string): Promise<void> {
  await menu(page).getByRole('button', { name: 'More' }).click();
  await page.getByRole('button', { name: item }).click();
}

/** A new box on Found items, kept under a name. */
async function newBox(page: Page, name: string): Promise<void> {
  await page.goto('/table/1');
  await expect(status(page)).toContainText('4,120');
  await keepAs(page, name);
  await expect(page).toHaveURL(/\/box\/\d+/);
}

test('a new box is built, worded, narrowed, kept, and found on the shelf', async ({ page }) => {
  await page.goto('/table/1');
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await box(page).pressSequentially('hat');
  await expect(status(page)).toContainText(/^\s*\d+ of 4,120 rows match/);
  await page.getByRole('button', { name: 'Unthread Finder’s note' }).click();
  await page.getByRole('button', { name: 'Add a picker' }).click();
  await page.getByRole('menuitem', { name: 'Status' }).click();
  await menu(page).getByRole('button', { name: 'Wording' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Hats in the house');
  await page.getByLabel('Nothing found says').fill('No such hat.');
  await page.getByLabel('Example searches').fill('felt hat\nbeanie');
  await page.getByRole('button', { name: 'Save this box' }).click();
  await expect(remark(page)).toContainText('is saved on the shelf');
  await page.goto('/');
  const band = page.locator('.box', { hasText: 'Hats in the house' });
  await page.locator('#everywhere').fill('knitted');
  await expect(band.locator('.count')).toContainText('row');
  // Bands grow as rows are found: only then does everything stand still.
  await expect(page.locator('.summary')).toContainText('every row searched');
  await band.getByRole('link', { name: 'Hats in the house' }).click();
  await expect(page.getByRole('heading', { name: 'Hats in the house' })).toBeVisible();
  await expect(box(page)).toHaveValue('knitted');
  await expect(sentence(page)).not.toContainText('Finder’s note');
  await box(page).fill('zzzz');
  await expect(page.getByRole('heading', { name: 'No such hat.' })).toBeVisible();
  await box(page).fill('');
  await page.getByRole('button', { name: 'felt hat' }).click();
  await expect(box(page)).toHaveValue('felt hat');
});

test('unsaved changes are said, survive a reload, can be saved, and be gone back from', async ({ page }) => {
  await newBox(page, 'To be changed');
  await expect(menu(page)).not.toContainText('unsaved changes');
  await sentence(page).getByRole('button', { name: 'every word' }).click();
  await page.getByRole('radio', { name: 'any word' }).click();
  await expect(menu(page)).toContainText('unsaved changes');
  await page.reload();
  await expect(sentence(page)).toContainText('for any word');
  await expect(menu(page)).toContainText('unsaved changes');
  await menu(page).getByRole('button', { name: 'Save' }).click();
  await expect(remark(page)).toContainText('is saved');
  await expect(menu(page)).not.toContainText('unsaved changes');
  const { pathname } = new URL(page.url());
  await page.goto(pathname);
  await expect(sentence(page)).toContainText('for any word');
  await sentence(page).getByRole('button', { name: 'anywhere in the cell' }).click();
  await page.getByRole('radio', { name: 'as a whole word' }).click();
  await expect(menu(page)).toContainText('unsaved changes');
  await more(page, 'Back to the box as saved');
  await expect(sentence(page)).toContainText('anywhere in the cell');
  await expect(menu(page)).not.toContainText('unsaved changes');
});

test('a change made on an older version is refused, and nothing is lost', async ({ page, context }) => {
  await newBox(page, 'Edited twice');
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(status(other)).toContainText('4,120');
  for (const [one, word] of [
    [other, 'any word'],
    [page, 'any word'],
  ] as const) {
    await sentence(one).getByRole('button', { name: 'every word' }).click();
    await one.getByRole('radio', { name: word }).click();
    await menu(one).getByRole('button', { name: 'Save' }).click();
  }
  await expect(remark(other)).toContainText('is saved');
  await expect(remark(page)).toContainText('Somebody changed this box in the meantime');
  await expect(sentence(page)).toContainText('for any word');
});

test('a box is copied under a new name, deleted, and brought back', async ({ page }) => {
  await newBox(page, 'The first of two');
  const first = page.url();
  await menu(page).getByRole('button', { name: 'More' }).click();
  await page.getByRole('button', { name: 'Save as a new box …' }).click();
  await page.getByLabel('Name of the new box').fill('The second of two');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'The second of two' })).toBeVisible();
  expect(page.url()).not.toBe(first);
  await more(page, 'Delete this box');
  await expect(page).toHaveURL(/\/$/);
  await expect(page.locator('.box', { hasText: 'The second of two' })).toHaveCount(0);
  await expect(page.locator('.box', { hasText: 'The first of two' })).toHaveCount(1);
  await remark(page).getByRole('button', { name: 'Bring it back' }).click();
  await expect(page.getByRole('heading', { name: 'The second of two' })).toBeVisible();
});

test('a box goes out as a file and comes in from one; another file is refused in words', async ({ page }) => {
  await page.goto('/box/2');
  await expect(status(page)).toContainText('4,120');
  await menu(page).getByRole('button', { name: 'More' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Box file out' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('night-audit.box.json');
  const file = await readFile((await download.path())!, 'utf8');
  expect(JSON.parse(file)).toMatchObject({
    format: 'usual-needle box',
    version: 1,
    name: 'Night audit',
    effect: 'mark in place',
  });
  await page.goto('/table/1');
  await expect(sentence(page)).toContainText('Shows only matching rows');
  const put = (text: string): Promise<void> =>
    page
      .locator('input[type=file]')
      .setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  await menu(page).getByRole('button', { name: 'More' }).click();
  await put(file);
  await expect(sentence(page)).toContainText('in place');
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(sentence(page)).toContainText('Shows only matching rows');
  await menu(page).getByRole('button', { name: 'More' }).click();
  await put('{"format":"else"}');
  await expect(remark(page)).toContainText('This file is not a box.');
});
