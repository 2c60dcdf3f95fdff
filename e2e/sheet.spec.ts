import { box, byRequestOnly, expect, open, rows, status, test } from './sheet.js';

test('nothing typed shows every row', async ({ page }) => {
  await open(page);
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await expect(status(page)).toContainText('every row searched');
  await expect(rows(page).first()).toContainText('18 Nov 2026');
  await expect(page.locator('un-record-grid .mark')).toHaveCount(0);
  await box(page).fill('   ');
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
});

test('typing answers at each keystroke, with marks in the cells and in the box', async ({ page }) => {
  await open(page);
  await box(page).pressSequentially('umbr wood');
  await expect(status(page)).toContainText(/^\s*161 of 4,120 rows match/);
  await expect(status(page)).toContainText('2 keywords in 3 columns');
  await expect(page.locator('.echo .mark')).toHaveText(['umbr', 'wood']);
  const cell = rows(page).first().locator('.cell').nth(1);
  await expect(cell.locator('.mark')).toHaveText(['umbr', 'wood']);
  await expect(cell.locator('.mark').first()).toHaveCSS('text-decoration-style', 'solid');
  await expect(cell.locator('.mark').last()).toHaveCSS('text-decoration-style', 'dashed');
  await expect(page.locator('.head', { hasText: 'Description' })).toContainText('161 rows');
  await expect(page.locator('un-search-box.first .count')).toHaveText('161 rows');
});

test('an eyelet unthreads its column, and threads it again', async ({ page }) => {
  await open(page, '/box/1?q=brückl');
  const note = page.locator('.head', { hasText: 'Finder’s note' });
  await expect(note).toContainText(/\d+ rows?/);
  const all = await page.locator('un-search-box.first .count').innerText();
  await page.getByRole('button', { name: 'Unthread Finder’s note' }).click();
  await expect(page.locator('#sentence')).toContainText('Looks in Description and Marks for');
  await expect(page.locator('un-search-box.first .count')).not.toHaveText(all);
  await expect(note).not.toContainText('row');
  await expect(page).toHaveURL(/as=.*Description.*Marks/);
  await page.reload();
  await expect(page.locator('#sentence')).toContainText('Looks in Description and Marks for');
  await page.getByRole('button', { name: 'Thread Finder’s note' }).click();
  await expect(page.locator('un-search-box.first .count')).toHaveText(all);
});

test('nothing found says so, with what was typed, and clears', async ({ page }) => {
  await open(page);
  await box(page).fill('umbrelaq mahogany');
  await expect(page.getByRole('heading', { name: 'Nothing handed in matches that yet.' })).toBeVisible();
  await expect(page.locator('un-nothing-found')).toContainText('is in no row');
  await expect(page.locator('un-search-box.first .count')).toHaveText('No rows');
  await page.getByRole('button', { name: 'Clear the box' }).click();
  await expect(box(page)).toBeFocused();
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await expect(page.locator('un-nothing-found')).toHaveCount(0);
});

test('Clear and Esc empty the box and keep the caret; / comes back to it', async ({ page }) => {
  await open(page);
  await box(page).fill('umbr');
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await expect(box(page)).toHaveValue('');
  await expect(box(page)).toBeFocused();
  await box(page).pressSequentially('wood');
  await page.keyboard.press('Escape');
  await expect(box(page)).toHaveValue('');
  await expect(box(page)).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(box(page)).not.toBeFocused();
  await page.keyboard.press('/');
  await expect(box(page)).toBeFocused();
  await expect(box(page)).toHaveValue('');
});

test('scrolling goes all the way, row after row', async ({ page }) => {
  await open(page, '/table/1');
  const scroller = page.locator('.scroller');
  await scroller.evaluate((element) => (element.scrollTop = 3999 * 33));
  await expect(rows(page).filter({ hasText: /^\s*4000/ })).toBeVisible();
  await scroller.evaluate((element) => (element.scrollTop = element.scrollHeight));
  await expect(rows(page).last()).toContainText(/^\s*4120/);
  await scroller.evaluate((element) => (element.scrollTop = 0));
  await expect(rows(page).first()).toContainText('LP-36001');
});

test('with nothing typed it shows the prompt, the help line and examples', async ({ page }) => {
  await open(page);
  await expect(box(page)).toHaveAttribute('placeholder', 'What was lost? A word or a bit of one');
  await expect(status(page)).toContainText('Try what it is, its colour or a number on it.');
  await page.getByRole('button', { name: 'keys lanyard' }).click();
  await expect(box(page)).toHaveValue('keys lanyard');
  await expect(status(page)).toContainText('2 keywords in 3 columns');
});

test('leaps while rows are being fetched end with the rows of where they ended', async ({ page }) => {
  await open(page);
  await page.locator('.scroller').evaluate(async (grid) => {
    for (let i = 0; i < 40; i++) {
      grid.scrollTop = ((i * 37) % 101) * 1_300;
      if (i % 3 === 0) await new Promise((done) => requestAnimationFrame(done));
    }
    grid.scrollTop = 66_000;
  });
  await expect(page.locator('.row[aria-rowindex="2004"] .cell').first()).toContainText('LP-');
});

test('reloading keeps the search, and a link carries it', async ({ page }) => {
  await open(page);
  await box(page).pressSequentially('umbr wood');
  await expect(page).toHaveURL(/q=umbr\+wood/);
  await page.reload();
  await expect(box(page)).toHaveValue('umbr wood');
  await expect(status(page)).toContainText('161 of 4,120 rows match');
});

test('a late answer never replaces a newer one', async ({ page }) => {
  await byRequestOnly(page);
  await open(page);
  await page.route('**/search', async (route) => {
    const { question } = route.request().postDataJSON() as { question: { strands: { text: string }[] } };
    if (question.strands[0].text === 'umbr') await new Promise((done) => setTimeout(done, 900));
    await route.continue().catch(() => undefined);
  });
  await box(page).pressSequentially('umbrella', { delay: 20 });
  const settled = page.locator('[data-answers="umbrella"]');
  await expect(settled).toBeVisible();
  const count = await page.locator('un-search-box.first .count').innerText();
  await page.waitForTimeout(1_200);
  await expect(settled).toBeVisible();
  await expect(page.locator('un-search-box.first .count')).toHaveText(count);
});

test('a server that fails keeps the rows and the text, says so, and recovers', async ({ page }) => {
  await byRequestOnly(page);
  await open(page);
  await page.route('**/search', (route) => route.abort());
  await box(page).fill('umbr');
  await expect(page.getByRole('alert')).toContainText(/The server does not answer\..*these are the rows of \d\d:\d\d/, {
    timeout: 10_000,
  });
  await expect(rows(page).first()).toContainText('18 Nov 2026');
  await expect(status(page)).toContainText('rows on show are for');
  await expect(box(page)).toHaveValue('umbr');
  await page.unroute('**/search');
  await box(page).press('e');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(status(page)).toContainText('rows match');
});

test('a new box on a table searches every text column at once', async ({ page }) => {
  await page.goto('/table/2');
  await box(page).fill('sondre');
  await expect(status(page)).toContainText('1 of 60 rows match');
  await expect(rows(page).first()).toContainText('Søndre Pier');
});

test('an address of nothing says so', async ({ page }) => {
  await page.goto('/box/999');
  await expect(page.getByRole('alert')).toContainText('This box is no longer there.');
  await page.goto('/nowhere');
  await expect(page.getByRole('heading')).toContainText('nothing at this address');
});
