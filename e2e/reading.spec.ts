import { box, choose, expect, open, rows, status, test, type Page, wrong } from './sheet.js';

const grid = (page: Page) => page.getByRole('grid', { name: 'Records' });
const peek = (page: Page) => page.getByRole('complementary', { name: 'Record' });

test('the keyboard alone moves through the rows and opens a record, which says why it matched', async ({ page }) => {
  await open(page);
  await page.keyboard.type('umbr wood');
  await expect(status(page)).toContainText('161 of 4,120');
  await page.keyboard.press('Escape');
  await page.keyboard.type('umbr wood');
  await expect(status(page)).toContainText('161 of 4,120');
  await page.keyboard.press('Enter');
  await expect(page.locator('.row.at')).toHaveCount(1);
  await grid(page).focus();
  const at = (row: string): Promise<void> => expect(page.locator('.row.at')).toHaveAttribute('aria-rowindex', row);
  await at('2');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await at('4');
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('#active-cell')).toHaveAttribute('aria-colindex', '3');
  await expect(grid(page)).toHaveAttribute('aria-activedescendant', 'active-cell');
  await page.keyboard.press('End');
  await expect(page.locator('#active-cell')).toHaveAttribute('aria-colindex', '8');
  await page.keyboard.press('Control+End');
  await expect(page.locator('.row.at')).toHaveAttribute('aria-rowindex', '162');
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Control+Home');
  await at('2');
  await page.keyboard.press('Space');
  await expect(peek(page)).toContainText('It matches:');
  await expect(peek(page)).toContainText(/umbr in .*Description/);
  await expect(peek(page)).toContainText('Declared value');
  const first = await peek(page).getByRole('heading').innerText();
  await page.keyboard.press('ArrowDown');
  await expect(peek(page).getByRole('heading')).not.toHaveText(first);
  await page.keyboard.press('Space');
  await expect(peek(page)).toHaveCount(0);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await expect(box(page)).toBeFocused();
});

test('Back and Forward walk through the searches', async ({ page }) => {
  await open(page);
  await box(page).pressSequentially('wood', { delay: 20 });
  await expect(page).toHaveURL(/q=wood/);
  await page.keyboard.press('Alt+KeyF');
  await expect(page).toHaveURL(/flip/);
  await page.goBack();
  await expect(page).not.toHaveURL(/flip/);
  await expect(box(page)).toHaveValue('wood');
  await page.goBack();
  await expect(box(page)).toHaveValue('');
  await expect(status(page)).toContainText('4,120 of 4,120');
  await page.goForward();
  await expect(box(page)).toHaveValue('wood');
  await page.goForward();
  await expect(page.getByRole('button', { name: /Flip back/ })).toBeVisible();
});

test('columns are hidden, moved, widened, and the first stays in view', async ({ page }) => {
  await open(page);
  const heads = page.locator('.head .name');
  const column = async (name: string, item: string): Promise<void> => {
    await page.getByRole('button', { name: `What to do with ${name}` }).focus();
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: item, exact: true }).click();
  };
  await column('Colour', 'Hide this column');
  await expect(heads.filter({ hasText: 'Colour' })).toHaveCount(0);
  await expect(page.locator('#sentence')).toContainText('shows 6 of 14 columns');
  await column('Marks', 'Move left');
  await page.keyboard.press('Escape');
  await expect(heads.nth(1)).toHaveText('Marks');
  const head = page.locator('.head').nth(2);
  const before = (await head.boundingBox())!.width;
  const edge = (await head.locator('.edge').boundingBox())!;
  await page.mouse.move(edge.x + 3, edge.y + 10);
  await page.mouse.down();
  await page.mouse.move(edge.x + 83, edge.y + 10, { steps: 4 });
  await page.mouse.up();
  expect((await head.boundingBox())!.width).toBeCloseTo(before + 80, -1);
  await page.setViewportSize({ width: 820, height: 700 });
  await grid(page).evaluate((element) => (element.scrollLeft = 300));
  await expect(page.locator('.pins .first').first()).toContainText('LP-');
  await page.locator('#sentence').getByRole('button', { name: '6 of 14 columns' }).click();
  await page.getByRole('button', { name: 'All, as the table has them' }).click();
  await expect(page.locator('#sentence')).toContainText('shows every column');
});

test('the chart shows where the matches fall, and narrows to a bar', async ({ page }) => {
  await open(page, '/box/1?q=umbr');
  await page.getByRole('button', { name: 'Chart', exact: true }).click();
  const chart = page.getByRole('region', { name: 'Chart' });
  await choose(page, 'Matches by', 'Status');
  await expect(chart.locator('canvas')).toHaveAttribute('aria-label', /Matches by Status: .*Held/);
  await page.getByRole('combobox', { name: 'Narrow to a bar' }).click();
  const option = page.getByRole('option', { name: /^Held: (\d+) of/ });
  const count = /: (\d+) of/.exec((await option.textContent())!)![1];
  await option.click();
  await expect(status(page)).toContainText(`${count} of 830 rows match`);
  await chart.getByRole('button', { name: 'Open Status again' }).click();
  await expect(status(page)).toContainText('453 of 4,120');
  await choose(page, 'Matches by', 'Found on');
  await expect(chart.locator('canvas')).toHaveAttribute('aria-label', /Matches by Found on: 2026-/);
});

test('a letter strip narrows by the letters cells start with or contain', async ({ page }) => {
  await open(page);
  await page.getByRole('button', { name: 'What to do with Colour' }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Narrow by its letters' }).click();
  const letter = page.locator('.strip button', { hasText: /^\s*B/ }).first();
  const count = (await letter.locator('small').innerText()).trim();
  await letter.click();
  await expect(status(page)).toContainText(`${count} of ${count} rows`);
  await expect(page.getByRole('button', { name: 'Colour starts with B' })).toBeVisible();
  await page.getByRole('radio', { name: 'contains with' }).click();
  await expect(page.getByRole('button', { name: 'Colour contains B' })).toBeVisible();
});

test('a box that searches on Enter says which search the rows answer', async ({ page }) => {
  await open(page);
  await page.locator('#sentence').getByRole('button', { name: 'at each keystroke' }).click();
  await page.getByRole('radio', { name: 'on Enter' }).click();
  await box(page).pressSequentially('umbr');
  await expect(status(page)).toContainText('rows on show are for “nothing typed”; Enter searches');
  await expect(page.locator('un-search-box')).toContainText('Enter searches');
  await page.keyboard.press('Enter');
  await expect(status(page)).toContainText('453 of 4,120 rows match');
  await expect(status(page)).not.toContainText('rows on show are for');
});

test('sorting by several levels and by count is read and changed in one place', async ({ page }) => {
  await open(page);
  await page.getByRole('button', { name: 'Found on, newest first' }).click();
  await choose(page, 'Column to sort by', 'Colour');
  await expect(page.locator('un-narrow-by')).toContainText('Found on, newest first; Colour, A first');
  await choose(page, 'How Colour is sorted', 'largest group first');
  await page.getByRole('button', { name: 'Sort by Colour earlier' }).click();
  await expect(page.locator('un-narrow-by')).toContainText('Colour, largest group first; Found on, newest first');
  await expect(page.locator('.head', { hasText: 'Colour' }).locator('.name')).toHaveText(/↓1/);
});

test('the reader’s view has the box and no way to change it', async ({ page }) => {
  await open(page, '/read/1?q=umbr');
  await expect(page.locator('#sentence')).toContainText('for every word');
  await expect(page.locator('#sentence').getByRole('button')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Unthread Description' })).toBeDisabled();
  for (const name of ['Save', 'Wording', '+ strand', 'Add a picker']) {
    await expect(page.getByRole('button', { name, exact: true })).toHaveCount(0);
  }
  await page.locator('.head').getByRole('button', { name: 'Sort by Colour' }).click();
  await expect(page.locator('un-narrow-by')).toContainText('Sorted by Colour, A first');
  await page.getByRole('link', { name: 'Back to building' }).click();
  await expect(box(page)).toHaveValue('umbr');
  await expect(page.locator('#sentence').getByRole('button', { name: 'every word' })).toBeVisible();
});

for (const width of [390, 768, 1280]) {
  test(`the reader’s sheet works at ${width} pixels`, async ({ page }) => {
    await page.setViewportSize({ width, height: 800 });
    await open(page, '/read/1');
    await box(page).fill('umbr wood');
    await expect(status(page)).toContainText('161 of 4,120');
    await expect(rows(page).first().locator('.mark').first()).toBeVisible();
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
    if (width < 800) {
      await expect(page.locator('#sentence')).toBeHidden();
      await page.getByRole('button', { name: 'How this box searches' }).click();
    }
    await expect(page.locator('#sentence')).toBeVisible();
    expect(await wrong(page)).toEqual([]);
  });
}

for (const scheme of ['light', 'dark'] as const) {
  test(`axe finds nothing wrong with peek, chart, menus and keys, ${scheme}`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme });
    await open(page, '/box/1?q=umbr');
    const check = async (what: string): Promise<void> => expect(await wrong(page), what).toEqual([]);
    await rows(page).nth(2).click();
    await grid(page).press('Space');
    await expect(peek(page)).toContainText('It matches');
    await page.getByRole('button', { name: 'Chart', exact: true }).click();
    await expect(page.locator('un-chart-panel canvas')).toBeVisible();
    await check('peek and chart');
    await page.getByRole('button', { name: 'Wording' }).click();
    await expect(page.getByLabel('Help line')).toBeVisible();
    await check('wording');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'What to do with Colour' }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'Hide this column' })).toBeVisible();
    await check('column menu');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: '? keys' }).click();
    await check('keys');
  });
}

test('nothing moves while typing', async ({ page }) => {
  await open(page);
  // Of what the browser calls a shift, the elements that moved: text that changes is what typing is for, and so is the mark
  // in the trace of where the view is.
  await page.evaluate(() => {
    const moved: string[] = [];
    Object.assign(window, { moved });
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries() as unknown as { sources: { node: Node | null }[] }[]) {
        for (const { node } of entry.sources) {
          if (node instanceof Element && !node.matches('un-trace .view')) moved.push(node.outerHTML.slice(0, 120));
        }
      }
    }).observe({ type: 'layout-shift' });
  });
  const places = (): Promise<number[]> =>
    page.evaluate(() =>
      ['un-search-box input', '#sentence', 'un-narrow-by', 'un-record-grid', '.row'].map(
        (name) => document.querySelector(name)!.getBoundingClientRect().top,
      ),
    );
  const before = await places();
  for (const text of ['umbrella wood', 'zzz', 'lp-40']) {
    await box(page).pressSequentially(text, { delay: 50 });
    for (let i = 0; i < text.length; i++) await page.keyboard.press('Backspace');
  }
  await expect(status(page)).toContainText('4,120 of 4,120');
  expect(await places()).toEqual(before);
  expect(await page.evaluate(() => (window as unknown as { moved: string[] }).moved)).toEqual([]);
});

test('a column is shown in another form, and a choice column put in an order of its own', async ({ page }) => {
  await open(page, '/table/1');
  const menu = async (name: string): Promise<void> => {
    await page.getByRole('button', { name: `What to do with ${name}` }).focus();
    await page.keyboard.press('Enter');
  };
  await menu('Found on');
  await choose(page, 'Shown as', '18 November 2026');
  await expect(page.locator('.remark')).toContainText('Found on is changed for everybody');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('combobox', { name: 'Shown as' })).toHaveCount(0);
  await box(page).fill('november');
  await expect(rows(page).first().locator('.mark')).toHaveText('November');
  await box(page).fill('');
  await expect(rows(page).first()).toContainText('5 January 2026');
  await menu('Found on');
  await choose(page, 'Shown as', '18 Nov 2026');
  await expect(rows(page).first()).toContainText('5 Jan 2026');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('combobox', { name: 'Shown as' })).toHaveCount(0);

  await menu('Status');
  await page.getByRole('button', { name: 'Put its values in an order …' }).click();
  const values = page.locator('.p-popover li span');
  await expect(values.first()).toBeVisible();
  const before = await values.allInnerTexts();
  // By the keys: the button keeps the focus, and at an end, where it goes no further, the other one has it.
  await page.getByRole('button', { name: `Earlier: ${before[2]}` }).press('Enter');
  await page.keyboard.press('Enter');
  await expect(values.first()).toHaveText(before[2]);
  await expect(page.getByRole('button', { name: `Later: ${before[2]}` })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(values).toHaveText([before[0], before[2], ...before.slice(1, 2), ...before.slice(3)]);
  // By the mouse.
  const [from, to] = [await values.nth(2).boundingBox(), await values.first().boundingBox()];
  await page.mouse.move(from!.x + 10, from!.y + from!.height / 2);
  await page.mouse.down();
  await page.mouse.move(to!.x + 10, to!.y + to!.height / 2 + 2, { steps: 8 });
  await page.mouse.move(to!.x + 10, to!.y, { steps: 3 });
  await page.mouse.up();
  await expect(values).toHaveText([before[1], before[0], before[2], ...before.slice(3)]);
  await page.getByRole('button', { name: 'Keep this order' }).click();
  await expect(page.locator('.remark')).toContainText('Status is changed');
  await menu('Status');
  await page.getByRole('button', { name: 'in its own order', exact: true }).click();
  const status = page
    .locator('.head .name')
    .allInnerTexts()
    .then((names) => names.findIndex((name) => name.startsWith('Status')));
  await expect(
    rows(page)
      .first()
      .locator('.cell')
      .nth(await status),
  ).toHaveText(before[1]);
  await menu('Status');
  await page.getByRole('button', { name: 'Put its values in an order …' }).click();
  await page.getByRole('button', { name: 'Back to A first' }).click();
  await expect(
    rows(page)
      .first()
      .locator('.cell')
      .nth(await status),
  ).toHaveText(before[0]);
});

test('a letter typed in the very moment that a strand is added is in it', async ({ page }) => {
  await open(page);
  await box(page).fill('umbr');
  await page.evaluate(() => {
    const key = new KeyboardEvent('keydown', { key: 'ArrowDown', altKey: true, bubbles: true, cancelable: true });
    document.activeElement!.dispatchEvent(key);
    const field = document.activeElement as HTMLInputElement;
    field.value = 'w';
    field.dispatchEvent(new InputEvent('input', { bubbles: true }));
  });
  await page.keyboard.type('ood');
  await expect(page.locator('un-search-box input').nth(1)).toHaveValue('wood');
});

test('strands change places', async ({ page }) => {
  await open(page);
  await box(page).fill('umbr');
  for (const text of ['wood', 'black']) {
    await page.keyboard.press('Alt+ArrowDown');
    await page.keyboard.type(text);
  }
  const strand = (at: number) => page.locator('un-search-box input').nth(at);
  await expect(strand(2)).toHaveValue('black');
  await page.locator('un-search-box').nth(2).getByRole('button', { name: 'Move this strand up' }).click();
  await expect(strand(1)).toHaveValue('black');
  await expect(strand(2)).toHaveValue('wood');
});
