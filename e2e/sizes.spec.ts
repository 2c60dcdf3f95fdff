/** Every screen at four sizes with its panels open; editing by touch; two windows of one browser; a browser that keeps no more. */
import { box, broughtIn, editElsewhere, expect, open, type Page, pop, rows, status, test, wrong } from './sheet.js';

const SIZES = [
  [1280, 800],
  [768, 1024],
  [390, 844],
  [640, 400],
] as const;
const LENT =
  'No,Thing,Found,Worth\n1,umbrella,2026-01-02,12\n2,hat,soon,5\n3,glove,2026-02-03,n/a\n4,scarf,2026-03-04,7\n';

async function table(page: Page, name: string): Promise<number> {
  const id = await broughtIn(page, name, LENT);
  for (const [column, kind] of [
    ['Found', 'date'],
    ['Worth', 'number'],
  ])
    await page.request.patch(`/api/tables/${id}/columns`, {
      data: { name: column, kind },
      headers: { 'if-match': '*' },
    });
  return id;
}

for (const [width, height] of SIZES) {
  test(`at ${width}x${height} axe finds nothing wrong with any screen and its panels, and nothing is wider than the window`, async ({
    page,
  }) => {
    test.slow();
    await page.setViewportSize({ width, height });
    const check = async (what: string): Promise<void> => {
      expect(await wrong(page), what).toEqual([]);
      expect(await page.evaluate(() => document.documentElement.scrollWidth), what).toBeLessThanOrEqual(width);
    };
    const id = await table(page, `Sizes ${width}`);
    await page.goto(`/table/${id}`);
    await expect(rows(page).nth(3)).toBeVisible();
    await check('the sheet');
    // A phone has no room for these, nor for what is done with a column.
    if (width > 600) {
      await page.getByRole('button', { name: 'History' }).click();
      await expect(page.locator('un-history-drawer article').first()).toBeVisible();
      await check('history');
      await page.keyboard.press('Escape');
      await page.getByRole('button', { name: 'Chart', exact: true }).click();
      await expect(page.locator('un-chart-panel')).toBeVisible();
      await check('the chart');
      await page.keyboard.press('Escape');
    }
    await rows(page).first().locator('.cell').nth(1).click();
    // Where there is little room a press on a row is for its record.
    if (width > 800) await page.keyboard.press('Space');
    await expect(page.locator('un-peek')).toBeVisible();
    await check('the record beside the rows, whether it has come or not');
    await expect(page.locator('un-peek dd').first()).toBeVisible();
    await check('the record beside the rows');
    await page.keyboard.press('Escape');
    if (width > 600) {
      await page.getByRole('button', { name: 'What to do with Found' }).press('Enter');
      await expect(page.getByRole('button', { name: '1 cell that is no date' })).toBeVisible();
      await check('a column’s menu');
      await page.getByRole('button', { name: 'Remove from the table …' }).click();
      await check('removing a column');
      await page.keyboard.press('Escape');
    }
    await box(page).fill('zebra');
    await expect(page.locator('un-nothing-found')).toBeVisible();
    await check('nothing found');
    await page.goto(`/refresh/${id}`);
    await editElsewhere(page, id, {
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: 2, was: [null], now: ['hats'] }],
    });
    const file = 'No,Things,Found,Worth\n1,umbrella,2026-01-02,13\n2,cap,soon,5\n2,twin,soon,5\n5,ring,2026-02-03,9\n';
    await page
      .locator('input[type=file]')
      .setInputFiles({ name: 'newer.csv', mimeType: 'text/csv', buffer: Buffer.from(file) });
    await expect(page.locator('aside')).toContainText('Things is new');
    await check('a refresh');
    await page.goto('/bring-in');
    await check('bringing in, before a file');
    await page
      .locator('input[type=file]')
      .setInputFiles({ name: 'other.csv', mimeType: 'text/csv', buffer: Buffer.from(LENT) });
    await expect(page.locator('aside')).toBeVisible();
    await check('bringing in');
    await page.goto('/');
    await page.getByRole('textbox', { name: 'Find everywhere' }).fill('umbr');
    await expect(page.locator('.summary')).toContainText('every row searched');
    await check('the shelf');
    await page.getByRole('button', { name: `More of Sizes ${width}` }).click();
    await page.getByRole('button', { name: 'Delete …' }).click();
    await check('deleting a table');
  });
}

test('no cell that is not cut off is wider than its column, with the room between letters that readers may ask for, too', async ({
  page,
}) => {
  await open(page);
  const fitting = page.locator('un-record-grid .drawn .cell.fits');
  const over = (): Promise<string[]> =>
    fitting.evaluateAll((cells) =>
      cells.filter((one) => one.scrollWidth > one.clientWidth).map((one) => one.textContent),
    );
  for (const text of ['', 'umbrella wood', 'e']) {
    await box(page).fill(text);
    await expect(page.locator('.scroller')).toHaveAttribute('data-answers', text);
    expect(await fitting.count()).toBeGreaterThan(20);
    expect(await over()).toEqual([]);
  }
  // WCAG 2.2, 1.4.12.
  await page.addStyleTag({ content: '.cell { letter-spacing: 0.12em !important; word-spacing: 0.16em !important }' });
  expect(await over()).toEqual([]);
});

for (const width of [390, 768]) {
  test.describe(`by touch at ${width} px`, () => {
    test.use({ hasTouch: true, viewport: { width, height: 844 } });
    test('a row is tapped, and a field of its record written', async ({ page }) => {
      const id = await table(page, `Touched ${width}`);
      await page.goto(`/table/${id}`);
      const cell = rows(page).nth(1).locator('.cell').nth(1);
      await cell.tap();
      const peek = page.locator('un-peek');
      await peek.getByRole('button', { name: 'Change Thing' }).tap();
      await expect(peek.getByRole('textbox', { name: 'Thing' })).toBeFocused();
      await page.keyboard.type('hat box');
      await peek.getByRole('button', { name: 'Change Worth' }).tap();
      await expect(peek.getByRole('textbox', { name: 'Worth' })).toBeFocused();
      await page.keyboard.type('8');
      await page.keyboard.press('Enter');
      await peek.getByRole('button', { name: 'Close' }).tap();
      await expect(cell).toHaveText('hat box');
      await expect(status(page)).not.toContainText('waits');
      // What was written last may still be on its way.
      const kept = async (): Promise<string[]> => {
        const answer = await page.request.get(`/api/tables/${id}/rows`);
        return ((await answer.json()) as { rows: { cells: string[] }[] }).rows[1].cells;
      };
      await expect.poll(kept, { timeout: 20_000 }).toEqual(['2', 'hat box', 'soon', '8']);
    });
  });
}

test('two windows of one browser keep their own waiting edits, and each is written once', async ({ page, context }) => {
  const id = await table(page, 'Two windows');
  const other = await context.newPage();
  for (const one of [page, other]) {
    await one.goto(`/table/${id}`);
    await expect(rows(one).nth(3)).toBeVisible();
  }
  await context.route(`**/api/tables/${id}/changes`, (route) =>
    route.request().method() === 'POST' ? route.abort() : route.continue(),
  );
  for (const [one, row, text] of [
    [page, 0, 'from the first'],
    [other, 1, 'from the second'],
  ] as const) {
    await rows(one).nth(row).locator('.cell').nth(1).click();
    await one.keyboard.type(text);
    await one.keyboard.press('Enter');
    await expect(status(one)).toContainText('1 edit waits for the server');
  }
  await page.reload();
  await expect(rows(page).nth(0)).toContainText('from the first');
  await context.unroute(`**/api/tables/${id}/changes`);
  for (const one of [page, other]) {
    await expect(rows(one).nth(0)).toContainText('from the first', { timeout: 20_000 });
    await expect(rows(one).nth(1)).toContainText('from the second', { timeout: 20_000 });
    await expect(status(one)).not.toContainText('waits', { timeout: 20_000 });
  }
  const { changes } = (await (await page.request.get(`/api/tables/${id}/changes?brief=true`)).json()) as {
    changes: { kind: string }[];
  };
  expect(changes.filter(({ kind }) => kind === 'edited')).toHaveLength(2);
});

test('a browser that keeps no more says so, and loses no edit meanwhile', async ({ page }) => {
  const id = await table(page, 'Full browser');
  await page.goto(`/table/${id}`);
  await expect(rows(page).nth(3)).toBeVisible();
  await page.evaluate(() => {
    for (let size = 1 << 20, i = 0; size > 0; i++)
      try {
        localStorage.setItem(`full ${i}`, 'x'.repeat(size));
      } catch {
        size >>= 1;
      }
  });
  await page.route(`**/api/tables/${id}/changes`, (route) =>
    route.request().method() === 'POST' ? route.abort() : route.continue(),
  );
  await rows(page).nth(0).locator('.cell').nth(1).click();
  await page.keyboard.type('kept in this window');
  await page.keyboard.press('Enter');
  await expect(status(page)).toContainText('1 edit waits for the server');
  await expect(page.locator('body')).toContainText('This browser keeps no more: do not close this page');
  await box(page).fill('kept');
  await box(page).fill('');
  await page.unroute(`**/api/tables/${id}/changes`);
  await expect(status(page)).not.toContainText('waits', { timeout: 15_000 });
  await expect(rows(page).nth(0)).toContainText('kept in this window');
  await open(page, '/box/1');
  await box(page).fill('umbr');
  await expect(status(page)).toContainText('453 of 4,120');
  await expect(pop(page)).toHaveCount(0);
});
