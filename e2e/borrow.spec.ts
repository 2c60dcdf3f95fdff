import {
  box,
  broughtIn,
  editElsewhere,
  expect,
  open,
  pop,
  remark,
  rows,
  status,
  test,
  wrong,
  type Page,
} from './sheet.js';

const STOPS =
  'Name,Town,Depot\nQuay,Oakham,North\nMill Lane,Aspby,South\nHalt,Elmsworth,North\nPier,Oakham,South\nGate,Aspby,North\n';
const ITEMS = 'No,Thing,At\n1,umbrella,quay\n2,hat,MILL LANE\n3,glove,Halt\n4,ring,Pier\n5,key,gate\n6,box,Nowhere\n';

async function withTables(
  page: Page,
  name: string,
  work: (items: number, stops: number) => Promise<void>,
): Promise<void> {
  const [stops, items] = [await broughtIn(page, `Stops of ${name}`, STOPS), await broughtIn(page, name, ITEMS)];
  try {
    await work(items, stops);
  } finally {
    // The shelf is everybody's.
    for (const id of [items, stops]) await page.request.delete(`/api/tables/${id}`);
  }
}

async function borrow(page: Page, items: number, stops: number, columns = ['Town']): Promise<void> {
  const done = await page.request.post(`/api/tables/${items}/columns`, {
    data: { borrow: { table: stops, key: 'At', matches: 'Name', columns: columns.map((column) => ({ column })) } },
    headers: { 'if-match': '*' },
  });
  expect(done.status()).toBe(200);
}

test('columns are borrowed by a sentence, suggested and counted, and given back', async ({ page }) => {
  await withTables(page, 'Lendings', async (items) => {
    await open(page, `/table/${items}`, '6');
    await page.getByRole('button', { name: 'What to do with At' }).click();
    await page.getByRole('button', { name: 'Borrow columns from another table …' }).click();
    const panel = page.locator('un-borrow-panel');
    await panel.getByRole('button', { name: 'At is the Name of Stops of Lendings: 83% found' }).click();
    await expect(panel).toContainText('5 of 6 rows find one, 1 finds none.');
    expect(await wrong(page)).toEqual([]);
    await panel.getByRole('checkbox', { name: 'Town' }).check();
    await panel.getByRole('checkbox', { name: 'Depot' }).check();
    await expect(panel.getByRole('checkbox', { name: 'Look in them, too' })).toBeChecked();
    await panel.getByRole('button', { name: 'Borrow Town and Depot' }).click();
    await expect(remark(page)).toContainText('Town and Depot are borrowed from Stops of Lendings.');
    await expect(rows(page).first()).toContainText('Oakham');
    await box(page).fill('aspby');
    await expect(status(page)).toContainText('2 of 6 rows match');
    await page.getByRole('button', { name: 'What to do with Town' }).click();
    await expect(pop(page)).toContainText('Borrows Town from Stops of Lendings, where At is its Name.');
    await page.keyboard.press('Escape');
    await remark(page).getByRole('button', { name: 'Undo it' }).click();
    await expect(page.getByRole('columnheader', { name: 'Town' })).toHaveCount(0);
  });
});

test('the sentence keeps to a narrow window, and says what failed', async ({ page }) => {
  await page.setViewportSize({ width: 768, height: 800 });
  await open(page, '/table/1');
  await page.getByRole('button', { name: 'What to do with Found at' }).click();
  await page.getByRole('button', { name: 'Borrow columns from another table …' }).click();
  const panel = page.locator('un-borrow-panel');
  await expect(panel).toContainText('4,120 of 4,120 rows find one.');
  await expect(panel.getByRole('button', { name: 'Borrow', exact: true })).toBeDisabled();
  await expect(panel).toBeInViewport({ ratio: 1 });
  await page.keyboard.press('Escape');
  await page.route('**/lenders', (route) => route.fulfill({ status: 500, json: { title: 'Broken' } }));
  await page.getByRole('button', { name: 'What to do with Found at' }).click();
  await page.getByRole('button', { name: 'Borrow columns from another table …' }).click();
  await expect(panel.getByRole('alert')).toContainText('Broken');
});

test('by keyboard alone: the focus stays in the panel while it looks and where that fails, and Esc leads back', async ({
  page,
}) => {
  await open(page, '/table/1');
  const opener = page.getByRole('button', { name: 'What to do with Found at' });
  const inPanel = (): Promise<boolean> =>
    page.evaluate(() => document.querySelector('un-borrow-panel')?.contains(document.activeElement) ?? false);
  const asked = async (): Promise<void> => {
    await opener.focus();
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Borrow columns from another table …' }).focus();
    await page.keyboard.press('Enter');
  };
  let go!: () => void;
  const held = new Promise<void>((done) => (go = done));
  await page.route('**/lenders', async (route) => {
    await held;
    await route.continue().catch(() => undefined);
  });
  await asked();
  await expect(pop(page)).toContainText('Looking which tables fit');
  await expect.poll(inPanel).toBe(true);
  await page.keyboard.press('Escape');
  await expect(opener).toBeFocused();
  // What comes late lands nowhere.
  const late = page.waitForResponse('**/lenders');
  go();
  await late;
  await expect(opener).toBeFocused();
  await asked();
  await expect(pop(page)).toContainText('4,120 of 4,120 rows find one.');
  await expect.poll(inPanel).toBe(true);
  await page.keyboard.press('Escape');
  await expect(opener).toBeFocused();
  await page.unroute('**/lenders');
  await page.route('**/lenders', (route) => route.fulfill({ status: 500, json: { title: 'Broken' } }));
  await asked();
  await expect(pop(page).getByRole('alert')).toContainText('Broken');
  await expect.poll(inPanel).toBe(true);
  await page.keyboard.press('Escape');
  await expect(opener).toBeFocused();
});

test('what is closed while a change of columns is on its way is done all the same, and said', async ({ page }) => {
  await withTables(page, 'Late', async (items) => {
    await open(page, `/table/${items}`, '6');
    await page.route('**/columns', async (route) => {
      await new Promise((done) => setTimeout(done, 700));
      await route.continue();
    });
    const opener = page.getByRole('button', { name: 'What to do with At' });
    await opener.click();
    await page.getByRole('button', { name: 'Borrow columns from another table …' }).click();
    await page.locator('un-borrow-panel').getByRole('checkbox', { name: 'Town' }).check();
    await page.getByRole('button', { name: 'Borrow Town' }).click();
    await page.keyboard.press('Escape');
    await expect(pop(page)).toHaveCount(0);
    await expect(remark(page)).toContainText('Town is borrowed from Stops of Late.');
    await expect(rows(page).first()).toContainText('Oakham');
    await opener.click();
    await page.getByRole('button', { name: 'Rename …' }).click();
    await page.getByLabel('Another name for At').fill('Where');
    await page.keyboard.press('Enter');
    await page.keyboard.press('Escape');
    await expect(remark(page)).toContainText('At is called Where from now on.');
    await expect(page.getByRole('columnheader', { name: 'Where' })).toBeVisible();
  });
});

test('a borrowed cell is not edited here, leads to where it is, and follows it there', async ({ page }) => {
  await withTables(page, 'Leading', async (items, stops) => {
    await borrow(page, items, stops);
    await open(page, `/table/${items}`, '6');
    const first = rows(page).first();
    await first.locator('.cell', { hasText: 'Oakham' }).dblclick();
    await expect(remark(page)).toContainText('Town is borrowed from another table and stays as it is here.');
    await expect(page.locator('un-cell-editor')).toHaveCount(0);
    await editElsewhere(page, stops, {
      kind: 'edited',
      columns: ['Town'],
      changed: [{ id: 1, was: ['Oakham'], now: ['Brookfield'] }],
    });
    await expect(first).toContainText('Brookfield');
    // A cell that cannot be opened opens the record.
    const record = page.getByRole('complementary', { name: 'Record' });
    await expect(record.getByRole('button', { name: 'Change Town' })).toHaveCount(0);
    await record.getByRole('link', { name: 'in Stops of Leading' }).click();
    await expect(status(page)).toContainText('1 of 5 rows match');
    await expect(rows(page).first()).toContainText('Brookfield');
  });
});

test('a pasted block leaves borrowed cells alone, and writes the rest', async ({ page }) => {
  await withTables(page, 'Pasted', async (items, stops) => {
    await borrow(page, items, stops);
    await open(page, `/table/${items}`, '6');
    await rows(page).first().locator('.cell').nth(2).click();
    await page.evaluate(() => {
      const data = new DataTransfer();
      data.setData('text/plain', 'Pier\tElsewhere\nGate\tElsewhere');
      document
        .querySelector('[role="grid"]')!
        .dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
    });
    await expect(remark(page)).toContainText('Town is borrowed');
    await expect(rows(page).nth(1)).toContainText('Gate');
    await expect(rows(page).first()).toContainText('PierOakham');
    await expect(rows(page).nth(1)).toContainText('GateAspby');
  });
});

test('the demo: a claim is found by what was found, and narrowed by where it lies', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Claims and finds' }).first().click();
  await expect(status(page)).toContainText('600');
  await box(page).fill('umbrella');
  await expect(page.getByRole('columnheader', { name: /^Matched item, borrowed, \d+ rows? match here/ })).toBeVisible();
  await page.getByRole('button', { name: 'Item’s status any' }).click();
  await page.getByRole('checkbox', { name: /Held/ }).check();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Item’s status Held' })).toBeVisible();
  await expect(rows(page).first()).toContainText('Held');
});
