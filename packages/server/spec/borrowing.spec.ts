import type { Column, Lenders, SearchAnswer, TableSummary } from '@usual-needle/contract';
import { Running } from './running.js';

const STOPS =
  'Name,Town,Depot\nQuay,Oakham,North\nMill Lane,Aspby,South\nMill lane,Elmsworth,South\nHalt,,North\nPier,Oakham,\n';
const ITEMS =
  'No,Thing,Found at\n1,umbrella,quay\n2,hat,MILL LANE\n3,glove,Halt\n4,ring,\n5,key,pier \n6,box,Nowhere\n7,cap,Brook\n';

describe('borrowed columns', () => {
  let running: Running;
  let stops: number;
  let items: number;
  let keys = 0;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  const broughtIn = async (name: string, csv: string): Promise<number> =>
    ((await running.ask('POST', `/api/tables?name=${name}`, csv)).body as unknown as TableSummary).id;
  beforeEach(async () => {
    stops = await broughtIn('Stops', STOPS);
    items = await broughtIn('Items', ITEMS);
  });
  afterEach(async () => {
    for (const id of [stops, items]) await running.ask('DELETE', `/api/tables/${id}`);
  });

  const pairing = (more: object = {}) => ({ table: stops, key: 'Found at', matches: 'Name', ...more });
  const borrow = (more: object = {}, id = items) =>
    running.ask(
      'POST',
      `/api/tables/${id}/columns`,
      { borrow: { ...pairing(), columns: [{ column: 'Town' }], ...more } },
      { 'if-match': '*' },
    );
  const columns = async (id = items): Promise<Column[]> =>
    ((await running.ask('GET', `/api/tables/${id}`)).body as unknown as TableSummary).columns;
  const last = async (column: number, id = items): Promise<string[]> =>
    ((await running.ask('GET', `/api/tables/${id}/rows`)).body['rows'] as { cells: string[] }[]).map(
      ({ cells }) => cells[column],
    );
  const found = async (text: string): Promise<number> =>
    ((await running.find(items, text, ['Town'])).body as unknown as SearchAnswer).matched;
  const edit = (id: number, column: string, now: string, row = 1) =>
    running.ask('POST', `/api/tables/${id}/changes`, {
      key: `borrowing-${keys++}`,
      kind: 'edited',
      columns: [column],
      changed: [{ id: row, was: [null], now: [now] }],
    });

  it('are suggested by how many keys are found, and counted before anything is borrowed', async () => {
    const lenders = (await running.ask('GET', `/api/tables/${items}/lenders`)).body as unknown as Lenders;
    expect(lenders.pairings).toEqual([{ ...pairing(), share: 4 / 6 }]);
    const counts = await running.ask('POST', `/api/tables/${items}/pairing`, pairing());
    expect(counts.body as object).toEqual({ rows: 7, found: 4, twice: 1 });
    expect(await columns()).toHaveSize(3);
  });

  it('are searched, taken out and read like any other, the first of several, or all', async () => {
    const done = await borrow({ columns: [{ column: 'Town' }, { column: 'Depot', name: 'Kept in' }] });
    expect(done.status).toBe(200);
    expect((await columns()).map(({ name }) => name)).toEqual(['No', 'Thing', 'Found at', 'Town', 'Kept in']);
    expect(await last(3)).toEqual(['Oakham', 'Aspby', '', '', 'Oakham', '', '']);
    expect(await last(4)).toEqual(['North', 'South', 'North', '', '', '', '']);
    expect(await found('oakham')).toBe(2);
    const copy = (await running.ask('GET', `/api/tables/${items}/copy`)).body['text'];
    expect(String(copy).split('\r\n').slice(0, 2)).toEqual([
      'No,Thing,Found at,Town,Kept in',
      '1,umbrella,quay,Oakham,North',
    ]);
    await borrow({ several: 'all' });
    expect((await columns()).at(-1)!.name).toBe('Town, Stops');
    expect((await last(5))[1]).toBe('Aspby; Elmsworth');
  });

  it('follow the changes of both tables at once, and of columns that are renamed', async () => {
    await borrow();
    expect(running.server.threads.borrowersOf(stops)).toEqual([items]);
    expect(running.server.threads.borrowersOf(items)).toEqual([]);
    await edit(stops, 'Town', 'Brookfield');
    expect(await found('brookfield')).toBe(1);
    await edit(items, 'Found at', 'Quay', 6);
    expect(await found('brookfield')).toBe(2);
    const renamed = (id: number, name: string, rename: string) =>
      running.ask('PATCH', `/api/tables/${id}/columns`, { name, rename }, { 'if-match': '*' });
    expect((await renamed(stops, 'Town', 'Place')).status).toBe(200);
    expect((await renamed(items, 'Found at', 'Where')).status).toBe(200);
    expect((await renamed(items, 'Town', 'Borough')).status).toBe(200);
    expect((await columns()).at(-1)!.borrows).toEqual({ ...pairing(), column: 'Town', several: 'first' });
    expect(((await running.find(items, 'brookfield', ['Borough'])).body as unknown as SearchAnswer).matched).toBe(2);
  });

  it('tell the sheets of those who borrow', async () => {
    await borrow();
    const controller = new AbortController();
    const events = await fetch(`${running.server.address}/api/tables/${items}/events`, { signal: controller.signal });
    const reader = events.body!.pipeThrough(new TextDecoderStream()).getReader();
    await edit(stops, 'Town', 'Brookfield');
    let told = '';
    while (!told.includes('event: lent')) told += (await reader.read()).value ?? '';
    expect(told).toContain(`event: lent\ndata: {"table":${stops}}`);
    controller.abort();
  });

  it('are not edited, renamed by value, or refreshed here', async () => {
    await borrow();
    const refused = await edit(items, 'Town', 'Elsewhere');
    expect(refused.status).toBe(422);
    expect(refused.body['detail']).toContain('“Town” is borrowed');
    const value = { column: 'Town', from: 'Oakham', to: 'Elsewhere' };
    expect((await running.ask('POST', `/api/tables/${items}/columns/values`, value)).status).toBe(422);
    // A copy that was taken out and comes back brings what was borrowed along.
    const csv = 'No,Thing,Found at,Town\n1,umbrella,pier,Wrong\n8,bag,Halt,Wrong\n';
    const refreshed = await running.ask('PUT', `/api/tables/${items}/rows?key=No`, csv);
    expect(refreshed.body).toEqual(jasmine.objectContaining({ added: 1, changed: 1, gone: 6, missing: [] }));
    expect(await last(3)).toEqual(['Oakham', 'Aspby', '', '', 'Oakham', '', '', '']);
    expect(await columns()).toHaveSize(4);
    expect((await running.ask('PUT', `/api/tables/${items}/rows?key=Town`, csv)).status).toBe(422);
    const then = (await running.ask('GET', `/api/tables/${items}/copy?at=2`)).body['text'];
    expect(String(then).split('\r\n')[0]).toBe('No,Thing,Found at');
  });

  it('are removed and come back, keep their kind, and are blank while the lender is deleted', async () => {
    await borrow();
    const { change } = (await running.ask('GET', `/api/tables/${items}`)).body as unknown as TableSummary;
    expect((await running.ask('POST', `/api/tables/${items}/changes/${change}/undo`)).status).toBe(200);
    expect(await columns()).toHaveSize(3);
    expect((await running.ask('POST', `/api/tables/${items}/changes/${change + 1}/undo`)).status).toBe(200);
    expect(await found('oakham')).toBe(2);
    const kind = { name: 'Town', kind: 'choice' };
    expect((await running.ask('PATCH', `/api/tables/${items}/columns`, kind, { 'if-match': '*' })).status).toBe(200);
    expect((await columns()).at(-1)).toEqual(jasmine.objectContaining({ kind: 'choice', name: 'Town' }));
    expect(await found('oakham')).toBe(2);
    await running.ask('DELETE', `/api/tables/${stops}`);
    expect(await found('oakham')).toBe(0);
    await running.ask('POST', `/api/tables/${stops}/restore`);
    expect(await found('oakham')).toBe(2);
  });

  it('are there again after a restart', async () => {
    await borrow();
    // The one that borrows is read first if it is not known who lends.
    await borrow({ table: items, key: 'Name', matches: 'Found at', columns: [{ column: 'Thing' }] }, stops);
    await running.stop();
    running = await Running.start(false, running.folder);
    expect(await found('oakham')).toBe(2);
    expect(await last(3, stops)).toEqual(['umbrella', 'hat', 'hat', 'glove', 'key']);
  });

  const refusals: [what: string, more: () => object, title: string][] = [
    ['a table that is not there', () => ({ table: 9_999 }), 'There is no such table to borrow from'],
    ['itself', () => ({ table: items }), 'A table borrows from another table, not from itself'],
    ['a key that is not there', () => ({ key: 'Nothing' }), 'There is no such column'],
    ['a column that is not there', () => ({ columns: [{ column: 'Nothing' }] }), 'There is no such column'],
    [
      'a name that is taken',
      () => ({ columns: [{ column: 'Town', name: 'Thing' }] }),
      'Two columns cannot have one name',
    ],
    [
      'one name twice',
      () => ({ columns: ['Town', 'Depot'].map((column) => ({ column, name: 'X' })) }),
      'Two columns cannot have one name',
    ],
    ['nothing', () => ({ columns: [] }), 'The request cannot be read'],
  ];
  for (const [what, more, title] of refusals)
    it(`refuses to borrow from ${what}`, async () => {
      const refused = await borrow(more());
      expect(refused.status).toBeGreaterThanOrEqual(400);
      expect(refused.body['title']).toBe(title);
      expect(await columns()).toHaveSize(3);
    });

  it('does not lend on what is borrowed', async () => {
    await borrow();
    const back = { table: items, key: 'Name', matches: 'Town', columns: [{ column: 'Thing' }] };
    expect((await borrow(back, stops)).body['title']).toBe('A borrowed column is not lent on');
    expect(
      (await running.ask('POST', `/api/tables/${stops}/pairing`, { table: items, key: 'Name', matches: 'Town' }))
        .status,
    ).toBe(422);
  });

  const hostile: [what: string, body: unknown][] = [
    ['a table beyond any number', { table: 9_007_199_254_740_991, key: 'A', matches: 'B' }],
    ['a table just beyond those that there are', { table: 2_147_483_648, key: 'A', matches: 'B' }],
    ['half a table', { table: 1.5, key: 'A', matches: 'B' }],
    ['a name of null', { table: 1, key: null, matches: 'B' }],
    ['nothing', null],
    ['a list', [1, 2, 3]],
    ['a name that is no text', { table: 1, key: { a: 1 }, matches: 'B' }],
    ['a name too long', { table: 1, key: 'x'.repeat(201), matches: 'B' }],
    ['one more thing', { table: 1, key: 'A', matches: 'B', also: 1 }],
  ];
  for (const [what, body] of hostile)
    it(`refuses ${what} with a sentence, and answers others`, async () => {
      const paired = await running.ask('POST', `/api/tables/${items}/pairing`, body);
      expect(paired.status).toBe(400);
      expect(paired.type).toBe('application/problem+json');
      const asked = { borrow: { ...(body as object), columns: [{ column: 'Town' }] } };
      const borrowed = await running.ask('POST', `/api/tables/${items}/columns`, asked, { 'if-match': '*' });
      expect(borrowed.status).toBe(400);
      expect((await running.find(items, 'hat', ['Thing'])).status).toBe(200);
    });

  it('looks for lenders beside the searches, however many ask for them', async () => {
    const many = Array.from({ length: 60_000 }, (_, i) => `key ${i},thing ${i}`).join('\n');
    const large = await broughtIn('Large', `Key,Name\n${many}\n`);
    const larger = await broughtIn('Larger', `Key,Name\n${many}\n`);
    const order: string[] = [];
    const lenders = Array.from({ length: 8 }, async () => {
      expect((await running.ask('GET', `/api/tables/${large}/lenders`)).status).toBe(200);
      order.push('lenders');
    });
    await new Promise((done) => setTimeout(done, 150));
    expect((await running.find(items, 'glove', ['Thing'])).status).toBe(200);
    order.push('search');
    await Promise.all(lenders);
    expect(order.slice(0, 3)).toContain('search');
    for (const id of [large, larger]) await running.ask('DELETE', `/api/tables/${id}`);
  });
});
