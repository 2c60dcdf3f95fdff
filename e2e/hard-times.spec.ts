import { chromium } from '@playwright/test';
import {
  box,
  broughtIn,
  byRequestOnly,
  expect,
  open,
  pop,
  remark,
  rows,
  sentence,
  status,
  test,
  wrong,
  type Page,
  keepAs,
} from './sheet.js';

const count = (page: Page) => page.locator('un-search-box.first .count');

test('A1: a box opens over plain HTTP from another machine, and is searched and kept there', async ({ baseURL }) => {
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--host-resolver-rules=MAP needle.test 127.0.0.1'],
  });
  try {
    const page = await browser.newPage();
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(String(error)));
    const { port } = new URL(baseURL!);
    await page.goto(`http://needle.test:${port}/box/1`);
    expect(await page.evaluate(() => [isSecureContext, typeof crypto.randomUUID])).toEqual([false, 'undefined']);
    await box(page).fill('umbr wood');
    await expect(status(page)).toContainText('161 of 4,120 rows match');
    await page.goto(`http://needle.test:${port}/table/2`);
    await keepAs(page, 'From elsewhere');
    expect(errors).toEqual([]);
  } finally {
    await browser.close();
  }
});

test('what cannot be opened since the server is away, or starts, is said, and opens by itself', async ({ page }) => {
  let away = true;
  await page.route('**/api/boxes/1?*', (route) =>
    away ? route.fulfill({ status: 503, json: { title: 'The server is starting' } }) : route.continue(),
  );
  await page.goto('/box/1');
  await expect(page.getByRole('alert')).toContainText('The server is starting');
  away = false;
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await expect(box(page)).toBeFocused();
  await expect(page.getByRole('alert')).toHaveCount(0);
});

test('A2: what is typed while the box is still loading, and just before leaving, is there afterwards', async ({
  page,
}) => {
  await page.route('**/api/boxes/1?*', async (route) => {
    await new Promise((done) => setTimeout(done, 800));
    await route.continue();
  });
  await page.goto('/box/1');
  await page.locator('un-search-box input').first().waitFor();
  await page.locator('un-search-box input').first().pressSequentially('umbr');
  await expect(status(page)).toContainText('453 of 4,120');
  await expect(box(page)).toHaveValue('umbr');
  await box(page).press('e');
  await page.getByRole('link', { name: /to the shelf/ }).click();
  await expect(page.getByRole('heading', { level: 2 }).first()).toBeVisible();
  await page.goBack();
  await expect(box(page)).toHaveValue('umbre');
});

test('A2: what is typed just before a reload is there afterwards, however long that takes, and nowhere else', async ({
  page,
}) => {
  let slowly = 0;
  await page.route(/:\d+\/(box|table)\//, async (route) => {
    await new Promise((done) => setTimeout(done, slowly));
    await route.continue();
  });
  for (const [address, late] of [
    ['/box/1', 0],
    ['/table/1?q=hat', 400],
    ['/table/1/then/1', 0],
  ] as const) {
    await open(page, address, ' of 4,120');
    slowly = late;
    await box(page).fill('umbr');
    await page.reload();
    await expect(box(page)).toHaveValue('umbr');
    await expect(status(page)).toContainText(/(453|548) of 4,120 rows match/);
    slowly = 0;
  }
  // Elsewhere, and where one went back before it was reloaded, it does not come.
  await page.goto('/table/1?q=hat');
  await expect(status(page)).toContainText(' of 4,120');
  await box(page).fill('glove');
  await expect(page).toHaveURL(/glove/);
  await page.goBack();
  await expect(box(page)).toHaveValue('hat');
  await page.reload();
  await expect(status(page)).toContainText(' of 4,120');
  await expect(box(page)).toHaveValue('hat');
  await box(page).fill('glove');
  await page.goto('/table/2?q=hat');
  await expect(status(page)).toContainText(' of ');
  await expect(box(page)).toHaveValue('hat');
});

test('A2: what is changed while Save is on its way stays unsaved, and is there after a reload', async ({ page }) => {
  await page.goto('/table/3');
  await expect(status(page)).toContainText('600');
  await keepAs(page, 'Slowly saved');
  let go!: () => void;
  const held = new Promise<void>((done) => (go = done));
  await page.route('**/api/boxes/*', async (route) => {
    if (route.request().method() === 'PUT') await held;
    await route.continue();
  });
  await sentence(page).getByRole('button', { name: 'every word' }).click();
  await page.getByRole('radio', { name: 'any word' }).click();
  await page.getByRole('button', { name: 'Save' }).click();
  await sentence(page).getByRole('button', { name: 'anywhere in the cell' }).click();
  await page.getByRole('radio', { name: 'as a whole word' }).click();
  go();
  await expect(remark(page)).toContainText('What you changed meanwhile is not saved yet');
  await expect(page.locator('un-box-menu')).toContainText('unsaved changes');
  await page.reload();
  await expect(sentence(page)).toContainText('for any word, as a whole word');
});

test('B8: unsaved changes are offered again, however one left', async ({ page, context }) => {
  await open(page, '/box/2');
  await sentence(page).getByRole('button', { name: 'every word' }).click();
  await page.getByRole('radio', { name: 'any word' }).click();
  await expect(page.locator('un-box-menu')).toContainText('unsaved changes');
  await page.close();
  const again = await context.newPage();
  await again.goto('/box/2');
  await expect(remark(again)).toContainText('Your unsaved changes are here again');
  await expect(sentence(again)).toContainText('for any word');
  await remark(again).getByRole('button', { name: 'Throw them away' }).click();
  await expect(sentence(again)).toContainText('for every word');
});

test('A5: with a slow server all that is on show is of one question, and says which', async ({ page }) => {
  await byRequestOnly(page);
  await open(page, '/box/1?q=umbr');
  await expect(status(page)).toContainText('453 of 4,120');
  const heads = await page.locator('.head .name').allInnerTexts();
  let go!: () => void;
  const held = new Promise<void>((done) => (go = done));
  await page.route('**/search', async (route) => {
    await held;
    await route.continue().catch(() => undefined);
  });
  await page.keyboard.press('Alt+KeyF');
  await expect(status(page)).toContainText('rows on show are from before the last change');
  await expect(status(page)).not.toContainText('rows match');
  await page.getByRole('button', { name: 'What to do with Colour' }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Hide this column' }).click();
  const first = rows(page).first();
  await expect(page.locator('.head .name')).toHaveCount(heads.length - 1);
  // What is under a header is of that column, or nothing.
  const place = (await page.locator('.head .name').allInnerTexts()).findIndex((name) => name.startsWith('Found on'));
  await expect(first.locator('.cell').nth(place)).toHaveText(/^(?:\d+ \w+ 2026|)$/);
  go();
  await expect(count(page)).toHaveText('3,667 rows');
});

test('A7: offers that come late do not land in another picker', async ({ page }) => {
  await open(page);
  let go!: () => void;
  const held = new Promise<void>((done) => (go = done));
  await page.route('**/offers', async (route) => {
    const { column } = route.request().postDataJSON() as { column: string };
    if (column === 'Status') await held;
    await route.continue().catch(() => undefined);
  });
  await page.getByRole('button', { name: 'Status any' }).click();
  await expect(pop(page)).toContainText('Fetching the values');
  await expect(pop(page)).not.toContainText('No value like that');
  await page.getByRole('button', { name: 'Line any' }).click();
  const labels = page.locator('un-choice-picker .list label');
  await expect(labels.first()).toBeVisible();
  go();
  await page.waitForTimeout(300);
  for (const text of await labels.allInnerTexts()) expect(text).not.toMatch(/Held|Returned|Police/);
});

test('A7: after the standing connection drops the next key is answered, and it comes back', async ({ page }) => {
  let sockets = 0;
  await page.routeWebSocket('**/api/standing', (socket) => {
    const server = socket.connectToServer();
    if (++sockets === 1) setTimeout(() => void server.close().then(() => socket.close()), 1_500);
  });
  await open(page);
  await page.waitForTimeout(1_600);
  await box(page).pressSequentially('umbr');
  await expect(status(page)).toContainText('453 of 4,120 rows match');
  await expect.poll(() => sockets).toBeGreaterThan(1);
  await box(page).press('e');
  await expect(status(page)).toContainText('rows match');
});

for (const [address, text] of [
  ['/box/1?q=100%', '100%'],
  ['/box/1?q=umbr&as={"pickers":[null],"need":7,"sort":[{"column":"Gone","direction":"up"}]}', 'umbr'],
  ['/box/1?q=umbr&as=null', 'umbr'],
  ['/box/1?q=umbr&as={"columns":[{"name":"Gone"}]', 'umbr'],
  ['/box/1?q=umbr&as=[1,2]', 'umbr'],
] as const) {
  test(`A8: ${address} opens the box with its text, and says what could not be read`, async ({ page }) => {
    await page.goto(address);
    await expect(box(page)).toHaveValue(text);
    await expect(status(page)).toContainText('4,120');
    if (/7|Gone/.test(address)) await expect(remark(page)).toContainText('could not be read');
  });
}

test('A9: a box that searches on Enter is cleared, and takes examples, at once', async ({ page }) => {
  const as = encodeURIComponent('{"searches":"on Enter"}');
  await open(page, `/box/1?q=umbr&as=${as}`);
  await expect(status(page)).toContainText('453 of 4,120');
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await page.getByRole('button', { name: 'keys lanyard' }).click();
  await expect(status(page)).toContainText('2 keywords in 3 columns');
  await box(page).fill('umbrellqa');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Clear the box' }).click();
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
});

test('A9: marking and leaving out with nothing typed say no “0 of 4,120”, and there is nothing to flip to', async ({
  page,
}) => {
  await open(page, '/box/2');
  await expect(status(page)).not.toContainText(/^\s*0 of/);
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await box(page).fill('police');
  await expect(status(page)).toContainText(/407 of 4,120 rows match/);
  await page.keyboard.press('Alt+KeyF');
  await expect(page.locator('[role="status"]').filter({ hasText: 'No others to flip to' })).toHaveCount(1);
  await expect(status(page)).toContainText(/407 of 4,120 rows match/);
  await expect(rows(page).first()).toContainText('LP-36001');
});

test('A6: Enter leads to each match in turn, marked in place, however quickly it is pressed', async ({ page }) => {
  await open(page, '/box/2?q=police');
  await expect(count(page)).toHaveText('407 rows');
  await box(page).focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Enter');
  const at = page.locator('.row.at');
  await expect(at).toContainText('Police');
  const reached: number[] = [];
  await expect.poll(async () => Number(await at.getAttribute('aria-rowindex'))).toBeGreaterThan(2);
  await page.waitForTimeout(500);
  reached.push(Number(await at.getAttribute('aria-rowindex')));
  await page.keyboard.press('Shift+Enter');
  await expect.poll(async () => Number(await at.getAttribute('aria-rowindex'))).toBeLessThan(reached[0]);
  await page.keyboard.press('Enter');
  await expect.poll(async () => Number(await at.getAttribute('aria-rowindex'))).toBe(reached[0]);
});

test('A6: the trace leads to the rows it shows, and works by keyboard', async ({ page }) => {
  await open(page, '/box/2?q=police');
  const trace = page.getByRole('slider', { name: 'Where the hits lie' });
  await trace.focus();
  await page.keyboard.press('End');
  await expect(rows(page).last()).toHaveAttribute('aria-rowindex', '4121');
  await page.keyboard.press('Home');
  await expect(rows(page).first()).toHaveAttribute('aria-rowindex', '2');
});

test('A6: a next match that cannot be asked for is said', async ({ page }) => {
  await open(page, '/box/2?q=police');
  await expect(count(page)).toHaveText('407 rows');
  await page.route('**/next', (route) => route.abort());
  await box(page).press('Enter');
  await expect(page.getByRole('alert').or(remark(page)).first()).toBeVisible();
});

test('B5: while an input method composes nothing is searched, cleared or stepped', async ({ page }) => {
  await byRequestOnly(page);
  await open(page);
  let asked = 0;
  await page.route('**/search', (route) => {
    asked++;
    return route.continue();
  });
  await box(page).evaluate((input: HTMLInputElement) => {
    const say = (type: string, data: string): boolean =>
      input.dispatchEvent(new CompositionEvent(type, { data, bubbles: true }));
    input.focus();
    say('compositionstart', '');
    input.value = 'u';
    say('compositionupdate', 'u');
    input.dispatchEvent(new InputEvent('input', { data: 'u', isComposing: true, bubbles: true }));
    for (const key of ['Escape', 'Enter'])
      input.dispatchEvent(new KeyboardEvent('keydown', { key, isComposing: true, bubbles: true, cancelable: true }));
  });
  await page.waitForTimeout(300);
  expect(asked).toBe(0);
  await expect(box(page)).toHaveValue('u');
  await expect(status(page)).toContainText('4,120 of 4,120 rows');
  await expect(page.locator('.row.at')).toHaveCount(0);
  await box(page).evaluate((input: HTMLInputElement) => {
    input.value = 'umbr';
    input.dispatchEvent(new CompositionEvent('compositionend', { data: 'umbr', bubbles: true }));
    input.dispatchEvent(new InputEvent('input', { data: 'umbr', bubbles: true }));
  });
  await expect(status(page)).toContainText('453 of 4,120 rows match');
});

test('B4: a flip, an unreadable pattern and the row reached are announced; ids are there once', async ({ page }) => {
  await open(page, '/box/1?q=umbr');
  const spoken = page.locator('[role="status"]');
  await page.keyboard.press('Alt+KeyF');
  await expect(spoken.filter({ hasText: 'on show: the others' })).toHaveCount(1);
  await page.keyboard.press('Alt+KeyF');
  await box(page).fill('umbr /(a/');
  await expect(spoken.filter({ hasText: 'not closed' })).toHaveCount(1);
  await box(page).fill('umbr');
  await expect(status(page)).toContainText('453 of 4,120');
  await box(page).press('Enter');
  await expect(spoken.filter({ hasText: /[Rr]ow/ }).first()).toHaveCount(1);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Alt+ArrowDown');
  const twice = await page.evaluate(() => {
    const ids = [...document.querySelectorAll('[id]')].map(({ id }) => id);
    return ids.filter((id, i) => ids.indexOf(id) !== i);
  });
  expect(twice).toEqual([]);
});

test('B4: sixteen strands are the most, and the seventeenth says why not', async ({ page }) => {
  await open(page);
  await box(page).focus();
  for (let i = 0; i < 16; i++) await page.keyboard.press('Alt+ArrowDown');
  await expect(page.locator('un-search-box')).toHaveCount(16);
  await expect(page.getByRole('button', { name: '+ strand' })).toHaveAccessibleDescription('There can be 16 strands');
});

for (const [what, width, height] of [
  ['200 % zoom', 640, 400],
  ['a phone', 390, 844],
  ['a tablet', 768, 1024],
] as const) {
  test(`B2: sixteen strands, the chart and the peek leave room for the rows at ${what}`, async ({ page }) => {
    await page.setViewportSize({ width, height });
    const strands = JSON.stringify({
      strands: [{ verb: 'find', text: '' }, ...Array.from({ length: 15 }, () => ({ verb: 'plus', text: 'wood' }))],
    });
    for (const address of ['/box/1?q=umbr', `/box/1?q=umbr&as=${encodeURIComponent(strands)}`]) {
      await open(page, address, 'of');
      await expect(rows(page).first()).toBeVisible();
      const grid = (await page.locator('un-record-grid').boundingBox())!;
      expect(grid.height, address).toBeGreaterThanOrEqual(Math.min(240, height * 0.5));
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
    }
    await rows(page).nth(1).click();
    const peek = page.getByRole('complementary', { name: 'Record' });
    // A tap opens it on a phone; elsewhere it takes Space.
    await page.waitForTimeout(300);
    if (!(await peek.isVisible())) await page.locator('.scroller').press('Space');
    await expect(peek).toBeVisible();
    const over = (await peek.boundingBox())!;
    expect(over.x).toBeGreaterThanOrEqual(0);
    expect(over.x + over.width).toBeLessThanOrEqual(width + 1);
    expect(await wrong(page)).toEqual([]);
  });
}

for (const width of [768, 390])
  test(`B2: at ${width} px, where there is no room for it beside the box, undoing is under More`, async ({ page }) => {
    await page.setViewportSize({ width, height: 900 });
    await open(page, '/box/1?q=umbr+black', 'of');
    await page.getByText('How this box searches').click();
    await sentence(page).getByRole('button', { name: 'every word' }).click();
    await page.getByRole('radio', { name: 'any word' }).click();
    await expect(sentence(page)).toContainText('for any word');
    for (const [entry, need] of [
      ['Undo: the last change of the box', 'every word'],
      ['Redo: the last change of the box', 'any word'],
    ] as const) {
      await page.getByRole('button', { name: 'More', exact: true }).click();
      await pop(page).getByRole('button', { name: entry }).click();
      await expect(sentence(page)).toContainText(`for ${need}`);
      await expect(pop(page)).toHaveCount(0);
    }
  });

test('B2: the chart follows a window that is made narrower while it is open', async ({ page }) => {
  await open(page);
  await page.getByRole('button', { name: 'Chart', exact: true }).click();
  await expect(page.getByRole('img', { name: /^Matches by Category: \w/ })).toBeVisible();
  for (const width of [768, 390, 640]) {
    await page.setViewportSize({ width, height: 800 });
    await expect.poll(() => page.evaluate(() => document.documentElement.scrollWidth)).toBe(width);
  }
});

test('B2: the box keeps at least 320 px to type in, whatever examples and prompt it has', async ({ page }) => {
  const wording = {
    prompt: 'A prompt that is rather long, as prompts sometimes are, to say the least',
    examples: Array.from({ length: 12 }, (_, i) => `an example of many words, number ${i}`),
  };
  await open(page, `/box/1?as=${encodeURIComponent(JSON.stringify({ wording }))}`);
  for (const width of [1280, 1000, 820]) {
    await page.setViewportSize({ width, height: 800 });
    expect((await page.locator('un-search-box .field').boundingBox())!.width, String(width)).toBeGreaterThanOrEqual(
      320,
    );
  }
});

test('B2: a box over two hundred columns tells its sentence in a line or two', async ({ page, request }) => {
  const names = Array.from({ length: 200 }, (_, i) => `Column number ${i}`);
  const csv = `${names.join(',')}\n${names.map((_, i) => `cell ${i}`).join(',')}\n`;
  const id = await broughtIn(page, 'Wide', csv);
  await page.goto(`/table/${id}`);
  await expect(status(page)).toContainText('1 of 1');
  const columns = sentence(page).getByRole('button').first();
  await columns.click();
  await page.getByRole('checkbox', { name: 'Column number 7', exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText(/… \d+ more/);
  expect((await sentence(page).boundingBox())!.height).toBeLessThan(80);
  await box(page).fill('cell 199');
  await expect(status(page)).toContainText('1 of 1 rows match');
  await request.delete(`/api/tables/${id}`);
});

test('A14: a deleted box is on the shelf for a month, and comes back from there', async ({ page }) => {
  await page.goto('/table/2');
  await keepAs(page, 'Soon deleted');
  await page.locator('un-box-menu').getByRole('button', { name: 'More' }).click();
  await page.getByRole('button', { name: 'Delete this box' }).click();
  await expect(page).toHaveURL(/\/$/);
  await page.reload();
  await expect(page.locator('.box', { hasText: 'Soon deleted' })).toHaveCount(0);
  expect(await wrong(page)).toEqual([]);
  await page.getByRole('button', { name: /deleted/ }).click();
  await page.getByRole('button', { name: 'Bring back Soon deleted' }).click();
  await expect(
    page
      .locator('.box', { hasText: 'Soon deleted' })
      .or(page.getByRole('heading', { name: 'Soon deleted' }))
      .first(),
  ).toBeVisible();
});
