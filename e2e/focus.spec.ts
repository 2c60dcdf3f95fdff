/** Where the focus goes when what had it is removed, and what a page says when one has come to it by Back or Forward. */
import { box, broughtIn, expect, open, type Page, pop, remark, rows, sentence, status, test } from './sheet.js';

/** What has the focus, shortly after: nothing but the body is a fault. */
async function focusIsKept(page: Page): Promise<void> {
  const has = () => page.evaluate(() => document.activeElement?.tagName ?? 'BODY');
  await expect.poll(has).not.toBe('BODY');
  await page.waitForTimeout(150);
  expect(await has()).not.toBe('BODY');
}

test('history and the chart take the focus when they open, and Esc and Close give it back', async ({ page }) => {
  await open(page);
  const history = page.getByRole('button', { name: 'History' });
  await history.click();
  await expect(page.locator('un-history-drawer')).toBeFocused();
  await page.getByRole('complementary', { name: 'History' }).getByRole('button', { name: 'Close' }).click();
  await expect(history).toBeFocused();
  const chart = page.getByRole('button', { name: 'Chart', exact: true });
  await chart.click();
  await expect(page.locator('un-chart-panel')).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.locator('un-chart-panel')).toHaveCount(0);
  await expect(chart).toBeFocused();
});

test('the focus never falls to the body', async ({ page }) => {
  const id = await broughtIn(page, 'Focus', 'No,Thing\n1,umbrella\n2,hat\n3,glove\n');
  await page.goto(`/table/${id}`);
  await rows(page).nth(1).locator('.cell').nth(1).click();
  await page.getByRole('button', { name: 'Remove row' }).click();
  await expect(rows(page)).toHaveCount(2);
  await focusIsKept(page);
  await page.getByRole('button', { name: 'History' }).click();
  const undo = page.locator('un-history-drawer').getByRole('button', { name: 'Undo' }).first();
  await undo.press('Enter');
  await expect(rows(page)).toHaveCount(3);
  await focusIsKept(page);
  // An action of the remark, and its closing.
  await page.goto('/');
  await page.getByRole('button', { name: 'More of Focus' }).click();
  await page.getByRole('button', { name: 'Delete …' }).click();
  await pop(page).getByRole('button', { name: 'Delete Focus' }).press('Enter');
  await expect(page.locator('un-band', { hasText: 'Focus' })).toHaveCount(0);
  await focusIsKept(page);
  const back = remark(page).getByRole('button').first();
  await back.press('Enter');
  await expect(page.locator('un-band', { hasText: 'Focus' })).toHaveCount(1);
  await focusIsKept(page);
  await page.getByRole('button', { name: 'More of Focus' }).click();
  await page.getByRole('button', { name: 'Delete …' }).click();
  await pop(page).getByRole('button', { name: 'Delete Focus' }).press('Enter');
  await remark(page).getByRole('button', { name: 'Close' }).press('Enter');
  await focusIsKept(page);
  await open(page, '/table/1');
  await page.getByRole('link', { name: /to the shelf/ }).press('Enter');
  await expect(page.getByRole('heading', { level: 2 }).first()).toBeVisible();
  await focusIsKept(page);
});

/** What a sheet says of its box, however one has come to it. */
async function told(page: Page): Promise<Record<string, unknown>> {
  await expect(status(page)).toContainText(/rows/);
  await page.waitForLoadState('networkidle');
  return {
    // One address may be written with one sign escaped or another.
    asked: [...new URL(page.url()).searchParams],
    typed: await page
      .locator('un-search-box input')
      .evaluateAll((all) => all.map((one) => (one as HTMLInputElement).value)),
    sentence: (await sentence(page).innerText()).replace(/\s+/g, ' '),
    pickers: (await page.locator('un-narrow-by').innerText()).replace(/\s+/g, ' '),
    heads: await page.locator('un-record-grid [role=columnheader]').allInnerTexts(),
    counted: (await status(page).locator('.rows').allInnerTexts()).join(),
    first: (
      await rows(page)
        .first()
        .innerText({ timeout: 2_000 })
        .catch(() => 'none')
    ).replace(/\s+/g, ' '),
  };
}

/** Something that may be done to a box; each is one step back. */
const STEPS: ((page: Page) => Promise<void>)[] = [
  (page) => box(page).fill('Umbr'),
  (page) => box(page).fill('umbr wood'),
  async (page) => {
    await sentence(page)
      .getByRole('button', { name: /every word|any word/ })
      .click();
    await page.getByRole('radio', { name: 'any word' }).click();
    await page.keyboard.press('Escape');
  },
  async (page) => {
    await sentence(page)
      .getByRole('button', { name: /ignoring case|minding case/ })
      .click();
    await page.getByRole('radio', { name: 'minding case and accents' }).click();
    await page.keyboard.press('Escape');
  },
  async (page) => {
    await sentence(page).getByRole('button', { name: 'Shows only matching rows' }).click();
    await page.getByRole('radio', { name: /mark/i }).first().click();
    await page.keyboard.press('Escape');
  },
  (page) =>
    page
      .getByRole('columnheader', { name: /Description/ })
      .locator('button')
      .first()
      .click(),
  (page) => box(page).fill(''),
];

test('Back and Forward lead to what a fresh page at that address shows', async ({ page, context }) => {
  test.slow();
  await open(page);
  for (const step of STEPS) {
    await step(page);
    // What is typed within a moment is one step.
    await page.waitForTimeout(900);
  }
  const fresh = await context.newPage();
  const hold = async (way: string): Promise<void> => {
    await page.waitForTimeout(600);
    const here = await told(page);
    await fresh.goto(page.url());
    expect(await told(fresh), way).toEqual(here);
  };
  await hold('as it was left');
  for (let i = 0; i < STEPS.length; i++) {
    const before = page.url();
    await page.goBack();
    if (!page.url().includes('/box/1') || page.url() === before) break;
    await hold(`${i + 1} back`);
  }
  for (let i = 0; i < STEPS.length; i++) {
    await page.goForward();
    await hold(`${i + 1} forward`);
  }
});
