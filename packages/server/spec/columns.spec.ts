import type { ChangeList, SearchAnswer, StoredBox, TableSummary } from '@usual-needle/contract';
import { Running } from './running.js';

const CSV = 'No,Thing,Status\n1,umbrella,Held\n2,hat,Hold\n3,glove,Held\n';

describe('columns', () => {
  let running: Running;
  let id: number;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  beforeEach(async () => {
    ({ id } = (await running.ask('POST', '/api/tables?name=Columns', CSV)).body as unknown as TableSummary);
  });
  const table = async (): Promise<TableSummary> =>
    (await running.ask('GET', `/api/tables/${id}`)).body as unknown as TableSummary;
  const names = async (): Promise<string[]> => (await table()).columns.map(({ name }) => name);
  const arrange = (body: object) => running.ask('POST', `/api/tables/${id}/columns`, body, { 'if-match': '*' });
  const change = (body: object) => running.ask('PATCH', `/api/tables/${id}/columns`, body, { 'if-match': '*' });
  const undo = async (): Promise<void> => {
    const { change: last } = await table();
    expect((await running.ask('POST', `/api/tables/${id}/changes/${last}/undo`)).status).toBe(200);
  };
  const cells = async (): Promise<string[]> =>
    ((await running.ask('GET', `/api/tables/${id}/rows`)).body['rows'] as { cells: string[] }[]).map((row) =>
      row.cells.join(),
    );
  const found = async (text: string, threaded: string[]): Promise<SearchAnswer> =>
    (await running.find(id, text, threaded)).body as unknown as SearchAnswer;
  const edit = (column: string, row: number, was: string, now: string) =>
    running.ask('POST', `/api/tables/${id}/changes`, {
      key: `columns-${id}-${row}-${now.replaceAll(/\W/g, '')}-change`,
      kind: 'edited',
      columns: [column],
      changed: [{ id: row, was: [was], now: [now] }],
    });

  it('one is added, blank in all rows, filled, searched; undone and done again it has its cells', async () => {
    expect((await arrange({ add: { name: 'Remark', kind: 'text' } })).status).toBe(200);
    expect(await cells()).toEqual(['1,umbrella,Held,', '2,hat,Hold,', '3,glove,Held,']);
    expect((await edit('Remark', 2, '', 'green')).status).toBe(200);
    expect((await found('green', ['Remark'])).matched).toBe(1);
    const [added] = ((await running.ask('GET', `/api/tables/${id}/changes?after=1`)).body as unknown as ChangeList)
      .changes;
    await running.ask('POST', `/api/tables/${id}/changes/${added.number}/undo`);
    expect(await names()).toEqual(['No', 'Thing', 'Status']);
    expect((await running.find(id, 'green', ['Remark'])).status).toBe(422);
    await undo();
    expect((await found('green', ['Remark'])).matched).toBe(1);
    await change({ name: 'Remark', removed: true });
    // A new one of the same name does not get the cells of the old one.
    await arrange({ add: { name: 'Remark', kind: 'text' } });
    expect(await cells()).toEqual(['1,umbrella,Held,', '2,hat,Hold,', '3,glove,Held,']);
  });

  it('a copy of all has the sign between fields that is asked for, and a byte-order mark', async () => {
    const copy = async (query: string): Promise<Buffer> =>
      Buffer.from(await (await fetch(`${running.server.address}/api/tables/${id}/copy?${query}`)).arrayBuffer());
    await edit('Thing', 1, 'umbrella', 'a;b, "c"\td');
    expect((await copy('delimiter=semicolon&mark=true')).toString()).toBe(
      '\ufeffNo;Thing;Status\r\n1;"a;b, ""c""\td";Held\r\n2;hat;Hold\r\n3;glove;Held\r\n',
    );
    expect((await copy('delimiter=tab')).toString('latin1').split('\r\n')[0]).toBe('No\tThing\tStatus');
    expect((await copy('')).toString().split('\r\n')[2]).toBe('2,hat,Hold');
    for (const query of ['delimiter=dot', 'delimiter=tab&delimiter=comma', 'mark=maybe', 'sign=tab'])
      expect((await running.ask('GET', `/api/tables/${id}/copy?${query}`)).status)
        .withContext(query)
        .toBe(400);
  });

  it('one that is removed is nobody’s: not shown, not searched, not copied, not edited; and comes back by undoing', async () => {
    expect((await change({ name: 'Thing', removed: true })).status).toBe(200);
    expect(await names()).toEqual(['No', 'Status']);
    expect(await cells()).toEqual(['1,Held', '2,Hold', '3,Held']);
    expect((await running.find(id, 'hat', ['Thing'])).status).toBe(422);
    expect((await found('thing:hat', ['No', 'Status'])).matched).toBe(0);
    const { rows } = await found('', ['No']);
    expect(rows[0].cells).toEqual(['1', 'Held']);
    expect((await running.ask('GET', `/api/tables/${id}/copy`)).body['text'] as string).toBe(
      'No,Status\r\n1,Held\r\n2,Hold\r\n3,Held\r\n',
    );
    expect((await edit('Thing', 1, 'umbrella', 'x')).status).toBe(422);
    expect((await edit('Status', 1, 'Held', 'Sold')).status).toBe(200);
    await running.ask('POST', `/api/tables/${id}/changes/2/undo`);
    expect(await cells()).toEqual(['1,umbrella,Sold', '2,hat,Hold', '3,glove,Held']);
    await change({ name: 'No', removed: true });
    await change({ name: 'Thing', removed: true });
    expect((await change({ name: 'Status', removed: true })).status)
      .withContext('the last one stays')
      .toBe(422);
  });

  it('they stand as they are put, in the table, its rows, its copy and a refresh; a rename breaks nothing', async () => {
    await arrange({ order: ['Status', 'No'] });
    expect(await names()).toEqual(['Status', 'No', 'Thing']);
    expect((await cells())[0]).toBe('Held,1,umbrella');
    await change({ name: 'Thing', rename: 'What' });
    expect((await found('hat', ['Thing'])).matched).toBe(1);
    const newer = 'No,What,Status\n1,umbrella,Sold\n2,hat,Hold\n3,glove,Held\n4,key,Held\n';
    const preview = await running.ask('PUT', `/api/tables/${id}/rows?key=No&preview=true`, newer);
    expect((preview.body['rows'] as { after: string[] }[]).map(({ after }) => after)).toEqual([
      ['Sold', '1', 'umbrella'],
      ['Held', '4', 'key'],
    ]);
    await running.ask('PUT', `/api/tables/${id}/rows?key=No`, newer);
    expect((await cells()).at(-1)).toBe('Held,4,key');
    await arrange({ add: { name: 'Last', kind: 'number' } });
    expect((await names()).at(-1)).toBe('Last');
    await undo();
    await running.ask('POST', `/api/tables/${id}/changes/2/undo`);
    expect((await cells())[0])
      .withContext('undoing an order that others stand on is refused')
      .toBe('Sold,1,umbrella');
  });

  it('after a restart all of it is as it was', async () => {
    await change({ name: 'Thing', removed: true });
    await arrange({ order: ['Status', 'No'] });
    await running.server.threads.endThread();
    let status = 503;
    for (let i = 0; i < 200 && status !== 200; i++) {
      await new Promise((wait) => setTimeout(wait, 50));
      ({ status } = await running.find(id, 'held', ['Status']));
    }
    expect((await found('held', ['Status'])).matched).toBe(2);
    expect((await running.find(id, 'hat', ['Thing'])).status).toBe(422);
  });

  it('a value is renamed or merged in all rows at once, in its column’s order and in the pickers of boxes; undone in one step', async () => {
    await change({ name: 'Status', kind: 'choice', order: ['Hold', 'Held'] });
    const box = {
      format: 'usual-needle box',
      version: 1,
      name: 'Picked',
      pickers: [{ column: 'Status', values: ['Hold', 'Held'] }],
    };
    const kept = (await running.ask('POST', `/api/tables/${id}/boxes`, { box })).body as unknown as StoredBox;
    const rename = (body: object) => running.ask('POST', `/api/tables/${id}/columns/values`, body);
    expect((await rename({ column: 'Status', from: 'Hold', to: 'Held', who: 'T. Kessel' })).body['rows']).toBe(
      1 as never,
    );
    expect(await cells()).toEqual(['1,umbrella,Held', '2,hat,Held', '3,glove,Held']);
    expect((await table()).columns[2].order).toEqual(['Held']);
    const { box: now } = (await running.ask('GET', `/api/boxes/${kept.id}`)).body as unknown as StoredBox;
    expect(now.pickers).toEqual([{ column: 'Status', values: ['Held'] }]);
    expect((await rename({ column: 'Status', from: 'Nope', to: 'x' })).status).toBe(404);
    await undo();
    expect((await cells())[1]).toBe('2,hat,Hold');
    expect((await table()).columns[2].order).toEqual(['Hold', 'Held']);
  });

  it('a value is renamed in the pickers of boxes that name its column as it was called before, too', async () => {
    const picked = (column: string) => ({
      format: 'usual-needle box',
      version: 1,
      name: column,
      pickers: [{ column, values: ['Held'] }],
    });
    const made = async (column: string): Promise<number> =>
      ((await running.ask('POST', `/api/tables/${id}/boxes`, { box: picked(column) })).body as unknown as StoredBox).id;
    const [formerly, other] = [await made('Status'), await made('Thing')];
    await change({ name: 'Status', rename: 'State', who: '  T. Kessel ' });
    await running.ask('POST', `/api/tables/${id}/columns/values`, { column: 'State', from: 'Held', to: 'Here' });
    const values = async (box: number): Promise<unknown> =>
      ((await running.ask('GET', `/api/boxes/${box}`)).body as unknown as StoredBox).box.pickers;
    expect(await values(formerly)).toEqual([{ column: 'Status', values: ['Here'] }]);
    expect(await values(other)).toEqual([{ column: 'Thing', values: ['Held'] }]);
    const list = (await running.ask('GET', `/api/tables/${id}/changes`)).body as unknown as ChangeList;
    expect(list.changes.map(({ who }) => who)).toEqual([null, 'T. Kessel', null]);
  });

  const BAD: [what: string, body: object, status: number][] = [
    ['a name that is taken', { add: { name: 'Thing', kind: 'text' } }, 422],
    ['a name of spaces', { add: { name: ' ', kind: 'text' } }, 422],
    ['a kind that is none', { add: { name: 'X', kind: 'nope' } }, 400],
    ['nothing', {}, 400],
    ['both', { add: { name: 'X', kind: 'text' }, order: [] }, 400],
  ];
  for (const [what, body, status] of BAD)
    it(`refuses ${what}`, async () => {
      expect((await arrange(body)).status).toBe(status);
      expect(await names()).toEqual(['No', 'Thing', 'Status']);
    });
});
