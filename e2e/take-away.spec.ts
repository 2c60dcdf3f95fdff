/** A take-away page, from a disk, with the network off: it answers as the server does, holds what its maker may see, and runs nothing of a cell. */
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { gunzipSync } from 'node:zlib';
import type { Browser, BrowserContext } from '@playwright/test';
import { box, broughtIn, expect, type Page, rows, status, test, wrong } from './sheet.js';

let folder: string;
test.beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'usual-needle-page-'))));
test.afterAll(() => rm(folder, { recursive: true, force: true }));

/** What a page was made of, as bytes: the rows are compressed in it. */
const rowsIn = (html: string): Buffer => gunzipSync(Buffer.from(/id="rows">([^<]*)</.exec(html)![1], 'base64'));

async function taken(page: Page, address: string, body: object): Promise<string> {
  const reply = await page.request.post(address, { data: { form: 'take-away', question: { threaded: [] }, ...body } });
  expect(reply.status()).toBe(200);
  return reply.text();
}

async function opened(browser: Browser, html: string, options: object = {}): Promise<[Page, BrowserContext]> {
  const file = join(folder, `${Math.random()}.html`);
  await writeFile(file, html);
  const context = await browser.newContext({ offline: true, viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  const said: string[] = [];
  page.on('pageerror', ({ message }) => said.push(message));
  page.on('console', (message) => message.type() === 'error' && said.push(message.text()));
  page.on('request', (request) => /^https?:/.test(request.url()) && said.push(request.url()));
  await page.goto(pathToFileURL(file).href);
  await expect(rows(page).first()).toBeVisible();
  expect(said).toEqual([]);
  return [page, context];
}

const BOX = {
  ...{ format: 'usual-needle box', version: 1, name: 'Desk, to take along', threaded: ['Description', 'Marks'] },
  columns: ['Item no.', 'Description', 'Colour', 'Marks', 'Found on', 'Status'].map((name) => ({ name })),
  pickers: [
    { column: 'Status', values: [] },
    { column: 'Colour', values: [] },
  ],
};

interface Told {
  readonly counts: string | null;
  readonly rows: readonly (string | null)[];
  readonly marks: readonly (readonly unknown[])[];
  readonly heads: readonly string[];
}

/** Everything that a sheet says of its answer: counts, rows, and the stretches of them that are marked. */
async function told(page: Page): Promise<Told> {
  const grid = page.locator('un-record-grid');
  await expect(status(page).locator('.behind')).toHaveCount(0);
  return {
    counts: await status(page).locator('.rows').textContent(),
    // A page that was taken away has a line more above its rows, and so fewer of them in view.
    rows: await grid.locator('.row').evaluateAll((all) => all.slice(0, 12).map((row) => row.textContent)),
    marks: await grid
      .locator('.row')
      .evaluateAll((all) =>
        all
          .slice(0, 12)
          .map((row) => [...row.querySelectorAll('.cell span')].map((one) => [one.className, one.textContent])),
      ),
    heads: await grid.locator('.head').allInnerTexts(),
  };
}

const QUESTIONS = [
  ...[
    'umbrella',
    'umbr wood',
    'hat -black',
    'black | navy',
    '"folding umbrella"',
    'colour:red',
    'marks:""',
    'gl?ve',
    'xyzzy',
  ],
  ...[
    'LP-40',
    'status:held',
    'found on:2026-05',
    'søndre',
    'sondre',
    'key*',
    'ring silver',
    'a',
    '-a',
    'wallet brown',
    'phone',
  ],
];

test('twenty questions, three sorts, two pickers and a flip are answered as the server answers them', async ({
  page,
  browser,
}) => {
  test.setTimeout(180_000);
  const made = await page.request.post('/api/tables/1/boxes', { data: { box: BOX } });
  const { id } = (await made.json()) as { id: number };
  const html = await taken(page, '/api/tables/1/take-out', { box: BOX, name: BOX.name });
  expect(html.length).toBeLessThan(1_500_000);
  await page.goto(`/read/${id}`);
  await expect(rows(page).first()).toBeVisible();
  const [own, context] = await opened(browser, html);
  await expect(own.locator('.taken-away')).toContainText('These are the rows of');
  const seen: Told[] = [];
  const same = async (what: string, act: (on: Page) => Promise<unknown>): Promise<void> => {
    await Promise.all([act(page), act(own)]);
    // Either may be slow to answer: both are looked at until they are alike.
    let both: unknown[] = [];
    await expect
      .poll(async () => {
        both = [await told(own), await told(page)];
        return JSON.stringify(both[0]) === JSON.stringify(both[1]);
      })
      .toBe(true)
      .catch(() => expect(both[0], what).toEqual(both[1]));
    seen.push(both[0] as Told);
  };
  for (const question of QUESTIONS)
    await same(question, async (on) => {
      await box(on).fill(question);
      await on.waitForTimeout(300);
    });
  await same('nothing', (on) => box(on).fill(''));
  for (const column of ['Item no.', 'Found on', 'Colour'])
    await same(`sorted by ${column}`, async (on) => {
      await on.getByRole('button', { name: `Sort by ${column}` }).click();
      await on.waitForTimeout(300);
    });
  for (const [column, value] of [
    ['Status', 'Held'],
    ['Colour', 'black'],
  ])
    await same(`narrowed to ${value}`, async (on) => {
      await on
        .getByRole('button', { name: new RegExp(`^${column}`) })
        .first()
        .click();
      await on.getByRole('dialog').getByText(value, { exact: true }).first().click();
      await on.keyboard.press('Escape');
      await on.waitForTimeout(300);
    });
  await same('flipped', async (on) => {
    await box(on).fill('umbrella');
    await on.keyboard.press('Alt+f');
    await on.waitForTimeout(300);
  });
  // They were no empty lists that were alike.
  expect(seen.filter((one) => one.rows.length > 0).length).toBeGreaterThan(20);
  expect(seen.filter((one) => one.marks.flat().length > 0).length).toBeGreaterThan(10);
  expect(new Set(seen.map((one) => one.counts)).size).toBeGreaterThan(15);
  // Why nothing is found is said there, too, and a record is read beside the rows.
  await own.keyboard.press('Alt+f');
  await box(own).fill('umbrellxa');
  await expect(own.locator('un-nothing-found')).toContainText('umbrella');
  await box(own).fill('umbrella');
  await rows(own).first().click();
  await own.keyboard.press(' ');
  await expect(own.locator('un-peek')).toContainText('Description');
  for (const name of ['Take out', 'Chart', 'History', 'Share', 'Save'])
    await expect(own.getByRole('button', { name, exact: true })).toHaveCount(0);
  expect(await wrong(own)).toEqual([]);
  await context.close();
});

test('no cell becomes markup or script; a phone in the dark opens it, too', async ({ page, browser }) => {
  const cells = [
    '</script><script>window.ran = 1</script>',
    '<!-- <script>',
    'a\u2028b\u2029c',
    '<img src=x onerror=alert(1)>',
    ']]>&lt;',
  ];
  const csv = `"</script>","<b>Note"\n${cells.map((cell) => `"${cell}",x`).join('\n')}\n"${'x'.repeat(32_000)}",y\n`;
  const id = await broughtIn(page, '</title><script>window.ran = 2</script>', csv);
  const definition = { format: 'usual-needle box', version: 1, name: '<!-- </script>', threaded: ['</script>'] };
  const html = await taken(page, `/api/tables/${id}/take-out`, { box: definition, name: '<!-- </script>' });
  const [own, context] = await opened(browser, html, { colorScheme: 'dark', viewport: { width: 390, height: 844 } });
  await expect(rows(own)).toHaveCount(6);
  for (const cell of cells) {
    await box(own).fill(`"${cell.replace(/["\u2028\u2029]/g, ' ').slice(0, 12)}`);
    await box(own).fill('');
  }
  await box(own).fill('script');
  await expect(status(own)).toContainText('2 of 6');
  expect(await own.evaluate(() => (window as unknown as { ran?: number }).ran)).toBeUndefined();
  await context.close();
});

test('what its maker may not see is not in it: no column, no row, no name', async ({ page }) => {
  const csv = 'Item,Status,Worth\nhat,Held,canary one\ncap,Sold,canary two\n';
  const id = await broughtIn(page, 'Secrets', csv);
  const definition = {
    ...{ format: 'usual-needle box', version: 1, name: 'Open', threaded: ['Item', 'Worth'] },
    pickers: [{ column: 'Status', values: ['Held'] }],
  };
  const made = await page.request.post(`/api/tables/${id}/boxes`, { data: { box: definition } });
  const { id: kept } = (await made.json()) as { id: number };
  const share = {
    everyone: false,
    people: [],
    columns: ['Item'],
    searched: ['Worth'],
    editable: [],
    locked: ['Status'],
  };
  await page.request.put(`/api/boxes/${kept}/share`, { data: { ...share, may: ['take out'] } });
  const link = (await (await page.request.post(`/api/boxes/${kept}/share/link`, { data: {} })).json()) as {
    path: string;
  };
  const html = await taken(page, link.path.replace('/b/', '/api/shared/') + '/take-out', {});
  const bytes = rowsIn(html).toString('latin1');
  expect(bytes).toContain('hat');
  expect(bytes).not.toMatch(/cap|canary|Sold|Held|Worth/);
  // Not the page's own script, in whose letters there may be any word.
  const about = /id="about">([^<]*)</.exec(html)![1];
  expect(about).toContain('Item');
  expect(about).not.toMatch(/canary|Worth|Held|Sold|Status/);
});

test('a browser that refuses the worker searches in the page itself', async ({ page, browser }) => {
  const html = await taken(page, '/api/tables/1/take-out', { box: BOX });
  // As where a browser lets no worker be made of a blob.
  const [own, context] = await opened(browser, html.replace('worker-src blob:', "worker-src 'none'")).catch(
    async () => {
      const file = join(folder, 'refused.html');
      await writeFile(file, html.replace('worker-src blob:', "worker-src 'none'"));
      const other = await browser.newContext({ offline: true });
      const there = await other.newPage();
      await there.goto(pathToFileURL(file).href);
      return [there, other] as [Page, BrowserContext];
    },
  );
  await box(own).fill('umbrella');
  await expect(rows(own).first()).toContainText(/umbrella/i);
  await context.close();
});
