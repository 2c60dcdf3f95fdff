/** What the browser tests share: a page whose console stays silent, and the parts of a sheet by what they are called. */
import { AxeBuilder } from '@axe-core/playwright';
import { expect, test as base, type APIResponse, type Locator, type Page } from '@playwright/test';
import { freshServer } from '../tools/fresh-server.mjs';

/** What the browser itself says of answers that are no success, and of connections that a test cuts. */
const OF_THE_BROWSER = /Failed to load resource|WebSocket connection to/;

/** Each worker has a server of its own: what a failed test leaves on the shelf, no other sees, since the worker goes with it. */
export const test = base.extend<object, { address: string }>({
  address: [
    // eslint-disable-next-line no-empty-pattern -- Playwright reads from the pattern what a fixture needs
    async ({}, use) => {
      const server = await freshServer({ options: ['--allow-source', '127.0.0.1'] });
      await use(server.address);
      await server.stop();
    },
    { scope: 'worker', timeout: 180_000 },
  ],
  baseURL: ({ address }, use) => use(address),
  page: async ({ page }, use) => {
    const errors: string[] = [];
    page.on('console', (message) => {
      if (message.type() === 'error' && !OF_THE_BROWSER.test(message.text())) errors.push(message.text());
    });
    page.on('pageerror', (error) => errors.push(String(error)));
    await use(page);
    expect(errors, 'errors in the console').toEqual([]);
  },
});

export { expect, type Locator, type Page };

export const box = (page: Page): Locator => page.getByLabel('Find', { exact: true });
export const status = (page: Page): Locator => page.locator('footer');
export const rows = (page: Page): Locator => page.locator('un-record-grid .row');
export const sentence = (page: Page): Locator => page.locator('#sentence');
export const remark = (page: Page): Locator => page.locator('.remark');
export const pop = (page: Page): Locator => page.locator('.p-popover');

export async function open(page: Page, address = '/box/1', total = '4,120'): Promise<void> {
  await page.goto(address);
  await expect(status(page)).toContainText(total);
}

/** Takes an entry of one of our lists. */
export async function choose(page: Page, list: string, entry: string): Promise<void> {
  await page.getByRole('combobox', { name: list }).click();
  await page.getByRole('option', { name: entry, exact: true }).click();
}

/** A table of a test's own. @returns its number */
export async function broughtIn(page: Page, name: string, data: string): Promise<number> {
  const headers = { 'content-type': 'text/csv' };
  const made = await page.request.post(`/api/tables?name=${encodeURIComponent(name)}`, { data, headers });
  return ((await made.json()) as { id: number }).id;
}

let edits = 0;

/** An edit that somebody else makes. */
export function editElsewhere(page: Page, table: number, edit: object): Promise<APIResponse> {
  const data = { key: `elsewhere-${++edits}`, ...edit };
  return page.request.post(`/api/tables/${table}/changes`, { data });
}

/** Keeps what is on the sheet as a new box. */
export async function keepAs(page: Page, name: string): Promise<void> {
  await page.locator('un-box-menu').getByRole('button', { name: 'Save' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Save this box' }).click();
  await expect(remark(page)).toContainText(`“${name}” is saved on the shelf.`);
}

/** Keeps the standing connection from being made, so that searches are requests, which can be held up and failed. */
export async function byRequestOnly(page: Page): Promise<void> {
  await page.routeWebSocket('**/api/standing', (socket) => void socket.close());
}

/** What axe finds wrong, each with the first element it is wrong of. @param within a selector of what is looked at only */
export async function wrong(page: Page, within?: string): Promise<string[]> {
  // One document, and rows that are as the first of them: so it takes half of the time.
  const axe = new AxeBuilder({ page })
    .setLegacyMode(true)
    .options({ resultTypes: ['violations'] })
    .exclude('un-record-grid .row:nth-child(n + 8)');
  const { violations } = await (within === undefined ? axe : axe.include(within)).analyze();
  return violations.map(({ id, nodes }) => `${id}: ${nodes[0].html.slice(0, 160)}`);
}
