/** `npm run screenshots`: takes docs/screenshots afresh, from the demo data. */
import { Buffer } from 'node:buffer';
import { once } from 'node:events';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { chromium } from '@playwright/test';
import { freshServer } from './fresh-server.mjs';
import { pdfPicture } from './pdf-picture.mjs';
import { ensureBuilt, ensureChromium, ensureInstalled, ROOT } from './run.mjs';

await ensureInstalled();
const executablePath = await ensureChromium();
await ensureBuilt();

/** Name, address, whether it is dark or narrow, and what is done before. */
const VIEWS = [
  ['shelf', '/'],
  ['find-everywhere', '/?q=red+key'],
  ['bring-in', '/', { act: (page) => dropped(page, 'claims-october.csv', claims()) }],
  [
    'refresh',
    '/refresh/1',
    {
      act: async (page) => {
        await page
          .locator('input[type=file]')
          .setInputFiles({ name: 'found-items-newer.csv', mimeType: 'text/csv', buffer: newer() });
        await page.getByText('leaves').waitFor();
        await page.getByRole('radio', { name: 'changed' }).click();
      },
    },
  ],
  ['sheet', '/box/1?q=umbr+wood'],
  ['sheet-dark', '/box/1?q=umbr+wood', { dark: true }],
  [
    'take-out',
    '/box/1?q=umbr+wood',
    {
      act: async (page) => {
        for (const at of [1, 2, 3])
          await page
            .locator('.row')
            .nth(at)
            .locator('.cell')
            .first()
            .click({ modifiers: ['Control'] });
        await page.getByRole('button', { name: 'Take out' }).click();
        await page.locator('un-take-out-panel pre').waitFor();
      },
    },
  ],
  ['printed', '/', { picture: printed }],
  ['sources', '/', { act: refreshedByThemselves }],
  ['take-away', '/', { act: takenAway }],
  [
    'nothing-found',
    '/box/1?q=umbrelaq+wood',
    // The reasons come after the answer.
    { act: (page) => page.getByText('Here is what stands in the way').waitFor() },
  ],
  [
    'peek-and-chart',
    '/box/1?q=umbr+wood',
    {
      act: async (page) => {
        await page.locator('.row .cell').nth(8).click();
        await page.keyboard.press('Space');
        await page.getByRole('button', { name: 'Chart', exact: true }).click();
        await page.waitForTimeout(900);
      },
    },
  ],
  ['phone', '/read/1?q=umbr+wood', { width: 390 }],
  ['share', '/box/1/share', { act: (page) => page.getByRole('button', { name: 'Make a link' }).click() }],
  [
    'editing',
    '/table/1?q=umbr',
    {
      act: async (page) => {
        await page.locator('.row').nth(3).locator('.cell').nth(9).dblclick();
        await page.getByRole('option').first().waitFor();
      },
    },
  ],
  [
    'borrowing',
    '/box/4?q=umbr',
    {
      act: async (page) => {
        await page.getByRole('button', { name: 'What to do with Matched item no.' }).click();
        await page.getByRole('button', { name: 'Borrow columns from another table …' }).click();
        await page.getByText('find one').waitFor();
        await page.getByRole('checkbox', { name: 'Found on' }).check();
      },
    },
  ],
  [
    'clash',
    '/table/1?q=umbr',
    {
      act: async (page) => {
        const status = page.locator('.row').nth(3).locator('.cell').nth(9);
        const was = await status.innerText();
        await status.dblclick();
        await page.keyboard.type('Claimed');
        const id = await theirs(page, was);
        if (id === undefined) throw new Error('nobody changed it');
        await page.keyboard.press('Enter');
        await page.getByRole('dialog').waitFor();
      },
    },
  ],
  [
    'history',
    '/box/1?q=umbr',
    {
      act: async (page) => {
        await page.getByRole('button', { name: 'History' }).click();
        await page.locator('un-history-drawer article').first().waitFor();
      },
    },
  ],
  // The last one: from then on everybody has to sign in.
  ['people', '/people', { act: peopled }],
];

/** Makes some people, of whom the first is signed in here, and looks at them. */
async function peopled(page) {
  const post = async (path, data) => (await page.request.post(address + path, { data })).json().catch(() => undefined);
  const comes = async (invite) => {
    const { path } = await post('/api/people', invite);
    await post(path.replace('/come/', '/api/invitations/'), { password: 'a long enough password' });
  };
  const role = (table, role) => ({ table, role });
  await comes({ name: 'M. Lind', everything: true });
  await post('/api/people', { name: 'T. Kessel', roles: [role(1, 'keeps'), role(3, 'keeps')] });
  await post('/api/people', { name: 'A. Varga', roles: [role(2, 'builds')] });
  await page.goto(address + '/people');
  await page.getByText('can sign in here').waitFor();
}

const FOUND = { threaded: ['Description', 'Marks'], strands: [{ verb: 'find', text: 'umbr wood' }] };
const SHOWN = ['Item no.', 'Description', 'Colour', 'Found at', 'Found on', 'Status'];

/** A page to print, as it comes on paper. */
async function printed(page) {
  const sentence = 'Looks in Description and Marks for every word, anywhere in the cell, ignoring case and accents.';
  const data = { form: 'page', marks: true, name: 'Front desk look-up', sentence, question: FOUND, columns: SHOWN };
  await page.setContent(await (await page.request.post(address + '/api/tables/1/take-out', { data })).text());
  const pdf = await page.pdf({ format: 'A4', preferCSSPageSize: true });
  return (await pdfPicture(browser, pdf)).png;
}

/** What the depot has for the night: some rows changed, some new; and claims, most of which are gone. */
let nightly = '';
let few = '';

/** Tables that refresh themselves: one that did, and one that waits. */
async function refreshedByThemselves(page) {
  const copy = async (table) => (await page.request.get(`${address}/api/tables/${table}/copy`)).text();
  const source = (name, rhythm, key, gone) => ({
    from: { address: `http://127.0.0.1:${depot.address().port}/${name}.csv`, signIn: 'none' },
    ...{ rhythm, key: [key], gone, most: 5 },
  });
  const night = { every: 'day', at: '02:00', zone: 'Etc/UTC' };
  const [items, claimed] = [await copy(1), await copy(3)];
  nightly = items.replaceAll(/,Held,(\d)0,/g, ',Returned to owner,$10,');
  few = claimed.split('\n').slice(0, 180).join('\n');
  await page.request.put(`${address}/api/tables/1/source`, {
    data: { source: source('found', night, 'Item no.', 'keep') },
  });
  const often = { every: 'minutes', number: 15 };
  await page.request.put(`${address}/api/tables/3/source`, {
    data: { source: source('claims', often, 'Claim no.', 'remove') },
  });
  for (const table of [1, 3]) await page.request.post(`${address}/api/tables/${table}/source/run`, { data: {} });
  await page.goto(address);
  await page.getByText('Waits for you').waitFor();
}

/** A take-away page, opened from a disk. */
async function takenAway(page) {
  const box = { format: 'usual-needle box', version: 1, name: 'Front desk look-up', threaded: FOUND.threaded };
  const asked = { ...box, columns: SHOWN.map((name) => ({ name })), pickers: [{ column: 'Status', values: [] }] };
  const data = { form: 'take-away', name: asked.name, question: { threaded: [] }, box: asked };
  const file = join(ROOT, 'test-results/take-away.html');
  mkdirSync(join(ROOT, 'test-results'), { recursive: true });
  writeFileSync(file, await (await page.request.post(address + '/api/tables/1/take-out', { data })).text());
  await page.goto(pathToFileURL(file).href);
  await page.getByLabel('Find', { exact: true }).fill('umbr wood');
  // The page builds its table before it answers.
  await page.locator('.row .mark').first().waitFor();
}

/** What somebody else writes into the status of the fourth umbrella. @returns its row */
async function theirs(page, was) {
  const rows = await (await page.request.get(address + '/api/tables/1/rows?limit=40')).json();
  const name = await page.locator('.row').nth(3).locator('.cell').first().innerText();
  const row = rows.rows.find(({ cells }) => cells[0] === name);
  const edit = (key, columns, before, now) =>
    page.request.post(address + '/api/tables/1/changes', {
      data: { key, kind: 'edited', who: 'T. Kessel', columns, changed: [{ id: row.id, was: [before], now: [now] }] },
    });
  await edit('screenshot-status', ['Status'], was, 'Given to charity');
  await page.request.post(address + '/api/tables/1/changes', {
    data: {
      key: 'screenshot-added',
      kind: 'added',
      who: 'M. Lind',
      columns: ['Item no.', 'Description', 'Category', 'Status'],
      added: [['LP-90001', 'Clear dome umbrella, child’s', 'Umbrellas', 'Held']],
    },
  });
  return row?.id;
}

async function dropped(page, name, buffer) {
  await page.locator('header input[type=file]').setInputFiles({ name, mimeType: 'text/csv', buffer });
  await page.getByText('every row looked at').waitFor();
}

/** The demo's claims as another office would keep them: semicolons, days first, decimal commas, and some that do not fit. */
function claims() {
  const [head, ...lines] = readFileSync(join(ROOT, 'demo/data/claims.csv'), 'utf8')
    .trim()
    .split(/\r?\n(?=C-)/);
  const rows = lines.map((line, i) => {
    const [no, on, ...rest] = line.split(/,(?=(?:[^"]*"[^"]*")*[^"]*$)/);
    const day = on.replace(/^(\d{4})-(\d\d)-(\d\d)$/, (_, year, month, date) => `${+date}.${+month}.${year}`);
    const value = i % 90 === 3 ? 'approx. 10' : `${(i * 7) % 90},${i % 2 ? '50' : '00'}`;
    return [
      no,
      i % 140 === 2 ? '31.02.2026' : i === 13 ? 'last week' : day,
      ...rest,
      value,
      ...(i === 6 ? ['903J'] : []),
    ].join(';');
  });
  return Buffer.from([`${head.replaceAll(',', ';')};Value`, ...rows].join('\n'));
}

/** Found items a day later. */
function newer() {
  const lines = readFileSync(join(ROOT, 'demo/data/found-items.csv'), 'utf8').split(/\r?\n(?=LP-)/);
  const later = lines
    .filter((_, i) => i === 0 || i % 450 !== 9)
    .map((line, i) => (i % 37 === 1 ? line.replace(',Held,', ',Returned,') : line));
  const added = lines.slice(1, 39).map((line, i) => line.replace(/^LP-\d+/, `LP-99${String(i).padStart(3, '0')}`));
  return Buffer.from([...later, ...added].join('\n'));
}

const folder = join(ROOT, 'docs/screenshots');
mkdirSync(folder, { recursive: true });
const depot = createServer((request, response) => response.end(request.url.endsWith('claims.csv') ? few : nightly));
depot.listen(0, '127.0.0.1');
await once(depot, 'listening');
const { address, stop } = await freshServer({ options: ['--allow-source', '127.0.0.1'] });
const browser = await chromium.launch({
  executablePath,
  args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
});
try {
  for (const [name, path, { dark = false, width = 1280, height = 800, act, picture } = {}] of VIEWS) {
    const page = await browser.newPage({ viewport: { width, height }, colorScheme: dark ? 'dark' : 'light' });
    await page.goto(address + path);
    await page.waitForLoadState('networkidle');
    await act?.(page);
    await page.waitForTimeout(400);
    const file = join(folder, `${name}.png`);
    if (picture) writeFileSync(file, await picture(page));
    else await page.screenshot({ path: file });
    await page.close();
    console.log(`docs/screenshots/${name}.png`);
  }
} finally {
  await browser.close();
  await stop();
  depot.close();
}
