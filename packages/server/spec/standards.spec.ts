import { Running } from './running.js';

const BOX = { format: 'usual-needle box', version: 1, name: 'Box' };

describe('C6: HTTP as its standards have it', () => {
  let running: Running;
  beforeAll(async () => {
    running = await Running.start(false);
    await running.ask('POST', '/api/tables?name=T', 'A,B\nx,1\ny,2\n');
  });
  afterAll(() => running.end());

  const kept = async (): Promise<string> =>
    (await running.ask('POST', '/api/tables/1/boxes', { box: BOX })).headers.get('location')!;
  const put = (path: string, match?: string) =>
    running.ask('PUT', path, { box: BOX }, match === undefined ? {} : { 'if-match': match });

  it('an edit names its version: none is 428, an old one 412, nonsense 400', async () => {
    const path = await kept();
    const cases: [string | undefined, number][] = [
      [undefined, 428],
      ['"7"', 412],
      ['W/"1"', 412],
      ['"x"', 412],
      ['1', 400],
      ['"1', 400],
      ['"1" "2"', 400],
      [Array.from({ length: 30 }, (_, i) => `"${i + 50}"`).join(','), 400],
      ['"1"', 200],
      ['"1"', 412],
      ['"9", "2"', 200],
      ['*', 200],
    ];
    for (const [match, status] of cases)
      expect((await put(path, match)).status)
        .withContext(String(match))
        .toBe(status);
    expect((await running.ask('DELETE', path)).status).toBe(428);
    expect((await running.ask('DELETE', path, undefined, { 'if-match': '*' })).status).toBe(204);
    expect((await put(path, '*')).status).toBe(404);
  });

  it('what is read carries a tag, and is not sent again while it is the same', async () => {
    const path = await kept();
    for (const address of [path, '/api/tables', '/api/tables/1', '/']) {
      const first = await running.ask('GET', address);
      const tag = first.headers.get('etag')!;
      expect(tag)
        .withContext(address)
        .toMatch(/^(?:W\/)?"/);
      const { hostname, port } = new URL(running.server.address);
      const [status, text] = await running.raw('GET', address, { host: `${hostname}:${port}`, 'if-none-match': tag });
      expect([status, text]).withContext(address).toEqual([304, '']);
    }
    const { headers } = await running.ask('GET', '/api/tables');
    await kept();
    const { hostname, port } = new URL(running.server.address);
    const again = await running.raw('GET', '/api/tables', {
      host: `${hostname}:${port}`,
      'if-none-match': headers.get('etag')!,
    });
    expect(again[0]).withContext('once it has changed').toBe(200);
  });

  it('a way of asking that an address does not have is 405, with those that it has', async () => {
    const { status, headers } = await running.ask('PUT', '/api/tables/1');
    expect(status).toBe(405);
    expect(headers.get('allow')).toMatch(/GET/);
  });

  it('a form that carries a file is told how to send it', async () => {
    const { hostname, port } = new URL(running.server.address);
    const form = '--x\r\nContent-Disposition: form-data; name="f"; filename="a.csv"\r\n\r\nA\n1\n\r\n--x--\r\n';
    const headers = {
      host: `${hostname}:${port}`,
      'content-type': 'multipart/form-data; boundary=x',
      'content-length': String(form.length),
    };
    const [status, text] = await running.raw('POST', '/api/tables?name=Form', headers, form);
    expect(status).toBe(415);
    expect(text).toContain('--data-binary');
  });

  it('C5: health says that all is read', async () => {
    const { status, body, headers } = await running.ask('GET', '/api/health');
    expect([status, headers.get('cache-control')]).toEqual([200, 'no-store']);
    expect(body).toEqual(jasmine.objectContaining({ status: 'ready', tables: 1, tablesRead: 1 } as never));
  });

  it('C7: the shelf does not carry every box whole', async () => {
    const strands = [{ verb: 'find', text: 'long '.repeat(1_000) }];
    await running.ask('POST', '/api/tables/1/boxes', { box: { ...BOX, name: 'Long', strands } });
    const { body } = await running.ask('GET', '/api/tables');
    const more = [...strands, { verb: 'minus', text: 'long '.repeat(1_000) }];
    await running.ask('POST', '/api/tables/1/boxes', { box: { ...BOX, name: 'Longer', strands: more } });
    expect(JSON.stringify(body)).not.toContain('long long');
    const boxes = (await running.ask('GET', '/api/tables')).body['boxes'] as { name: string; whole: boolean }[];
    expect(JSON.stringify(boxes)).not.toContain('long long');
    expect(boxes.slice(-2).map(({ whole }) => whole)).toEqual([true, false]);
    expect((body['boxes'] as { name: string }[]).map(({ name }) => name)).toContain('Long');
  });

  it('changedAt tells when, and changes with a change only', async () => {
    const read = async (): Promise<string> => (await running.ask('GET', '/api/tables/1')).body['changedAt'] as string;
    const before = await read();
    expect(Math.abs(Date.now() - Date.parse(before))).toBeLessThan(120_000);
    await running.find(1, 'x', ['A']);
    expect(await read()).toBe(before);
    await running.ask('PATCH', '/api/tables/1/columns', { name: 'B', order: null }, { 'if-match': '*' });
    expect(Date.parse(await read())).toBeGreaterThan(Date.parse(before));
  });
});

describe('E1: the log of a table', () => {
  let running: Running;
  beforeEach(async () => {
    running = await Running.start(false);
    await running.ask('POST', '/api/tables?name=T', 'A,B\nx,1\ny,2\nz,3\n');
  });
  afterEach(() => running.end());

  interface Logged {
    number: number;
    kind: string;
    rows: number;
    rowChanges: { id: number; before: string[] | null; after: string[] | null }[] | null;
    columns: { before: { name: string }[]; after: { name: string }[] } | null;
  }
  const log = async (query = ''): Promise<Logged[]> =>
    (await running.ask('GET', `/api/tables/1/changes${query}`)).body['changes'] as Logged[];

  it('begins with the bring-in, and has a number for each change after it, without a gap', async () => {
    const { changes } = running.server.data;
    const edited = await changes.edit(
      1,
      'edited',
      [{ id: 1, version: 1, cells: ['x again', '1'] }, { id: 2, version: 1, cells: null }, { cells: ['new', '4'] }],
      { who: 'Somebody' },
    );
    await running.server.threads.apply(edited!);
    await running.ask('PATCH', '/api/tables/1/columns', { name: 'A', rename: 'Thing' }, { 'if-match': '*' });
    const all = await log();
    expect(all.map(({ number, kind, rows }) => [number, kind, rows])).toEqual([
      [1, 'brought in', 3],
      [2, 'edited', 3],
      [3, 'columns', 0],
    ]);
    expect(all[0].rowChanges).toBeNull();
    expect(all[1].rowChanges).toEqual([
      { id: 1, before: ['x', '1'], after: ['x again', '1'] },
      { id: 2, before: ['y', '2'], after: null },
      { id: 4, before: null, after: ['new', '4'] },
    ]);
    expect(all[2].columns!.after[0].name).toBe('Thing');
    expect((await log('?after=1&limit=1')).map(({ number }) => number)).toEqual([2]);
    expect((await running.ask('GET', '/api/tables/1/changes?after=-1')).status).toBe(400);
  });

  it('is what searches follow: they see each change, and say which was the last', async () => {
    const added = await running.server.data.changes.edit(1, 'added', [{ cells: ['new', '4'] }]);
    await running.server.threads.apply(added!);
    const { body } = await running.find(1, 'new', ['A']);
    expect([body['matched'], body['total'], body['change']]).toEqual([1, 4, 2] as never[]);
    const missed = await running.server.data.changes.edit(1, 'edited', [{ id: 3, version: 1, cells: ['missed', '3'] }]);
    // A row's version is the number of its last change.
    const next = await running.server.data.changes.edit(1, 'edited', [{ id: 4, version: 2, cells: ['seen', '4'] }]);
    expect(missed!.number + 1).toBe(next!.number);
    await running.server.threads.apply(next!);
    for (const text of ['missed', 'seen'])
      expect((await running.find(1, text, ['A'])).body['matched']).toBe(1 as never);
  });

  it('refuses an edit made on an older version of a row, all of it', async () => {
    const { changes, tables } = running.server.data;
    await changes.edit(1, 'edited', [{ id: 1, version: 1, cells: ['early', '1'] }]);
    const before = await tables.rows(1, 0, 10);
    const edits = [{ cells: ['not to be', ''] }, { id: 1, version: 1, cells: ['late', '1'] }];
    await expectAsync(changes.edit(1, 'edited', edits)).toBeRejectedWithError(/Rows 1 were changed/);
    expect(await tables.rows(1, 0, 10)).toEqual(before);
    expect(await changes.edit(99, 'edited', edits)).toBeUndefined();
  });

  it('columns keep their former names, and two cannot have one', async () => {
    const rename = (name: string, to: string) =>
      running.ask('PATCH', '/api/tables/1/columns', { name, rename: to }, { 'if-match': '*' });
    expect((await rename('A', 'Thing')).status).toBe(200);
    expect((await rename('Thing', 'B')).status).toBe(422);
    expect((await rename('Thing', '  ')).status).toBe(422);
    expect((await rename('Nowhere', 'C')).status).toBe(404);
    expect((await rename('Thing', 'Item')).status).toBe(200);
    const { body } = await running.ask('GET', '/api/tables/1');
    expect((body['columns'] as { name: string; formerly?: string[] }[])[0]).toEqual(
      jasmine.objectContaining({ name: 'Item', formerly: ['Thing', 'A'] }),
    );
    for (const name of ['Item', 'Thing', 'A'])
      expect((await running.find(1, 'x', [name])).body['matched'])
        .withContext(name)
        .toBe(1 as never);
    // A new column takes the name from a former one.
    expect((await rename('B', 'A')).status).toBe(200);
    expect((await running.find(1, 'x', ['A'])).body['matched']).toBe(0 as never);
  });

  it('a deleted table is gone for everyone, and comes back with its boxes', async () => {
    await running.ask('POST', '/api/tables/1/boxes', { box: BOX });
    expect((await running.ask('DELETE', '/api/tables/1')).status).toBe(204);
    for (const path of ['', '/rows', '/changes'])
      expect((await running.ask('GET', `/api/tables/1${path}`)).status).toBe(404);
    expect((await running.find(1, 'x', ['A'])).status).toBe(404);
    const shelf = (await running.ask('GET', '/api/tables')).body;
    expect([shelf['tables'], shelf['boxes']]).toEqual([[], []] as never[]);
    expect((shelf['deleted'] as { name: string }[]).map(({ name }) => name)).toContain('T');
    expect((await running.ask('DELETE', '/api/tables/1')).status).toBe(404);
    expect((await running.ask('POST', '/api/tables/1/restore')).status).toBe(200);
    expect((await running.find(1, 'x', ['A'])).body['matched']).toBe(1 as never);
    expect(((await running.ask('GET', '/api/tables')).body['boxes'] as unknown[]).length).toBe(1);
  });
});
