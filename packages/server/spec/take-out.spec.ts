import { readFile } from 'node:fs/promises';
import { readSheet } from 'read-excel-file/node';
import { SaxesParser } from 'saxes';
import { validateXML } from 'xmllint-wasm';
import { CHANGE_HEADER, ROWS_HEADER, type TakeOutRequest } from '@usual-needle/contract';
import { Asker, comes } from './people.js';
import { Running, type Reply } from './running.js';

const CSV = `Item,Status,Weight,Found on
red hat,Held,1500,2026-11-18
blue hat,Sold,=1+1,2026-11-19
red cap,Held,3.5,soon
"glove, left",Held,,2026-11-02
`;
const HEAD = 'Item,Status,Weight,Found on\r\n';
const LINES = [
  'red hat,Held,1500,2026-11-18\r\n',
  'blue hat,Sold,=1+1,2026-11-19\r\n',
  'red cap,Held,3.5,soon\r\n',
  '"glove, left",Held,,2026-11-02\r\n',
];

/** Expects of a feed that it is valid by the schema of RFC 4287. @returns its own elements and those of its entries, by their names */
async function atomOf(text: string): Promise<{ feed: Record<string, string>; entries: Record<string, string>[] }> {
  const contents = await readFile(new URL('../spec/schemas/atom.rng', import.meta.url), 'utf8');
  const { errors } = await validateXML({
    xml: { fileName: 'feed.xml', contents: text },
    schema: { fileName: 'atom.rng', contents },
    extension: 'relaxng',
  });
  expect(errors.map(({ message }) => message)).toEqual([]);
  const parser = new SaxesParser({ xmlns: true });
  const [feed, entries]: [Record<string, string>, Record<string, string>[]] = [{}, []];
  const path: string[] = [];
  parser.on('opentag', ({ local, uri }) => {
    expect(uri).toBe('http://www.w3.org/2005/Atom');
    path.push(local);
    if (local === 'entry') entries.push({});
  });
  parser.on('text', (part) => {
    const into = path[1] === 'entry' ? entries[entries.length - 1] : feed;
    const name = path.at(-1)!;
    into[name] = (into[name] ?? '') + part;
  });
  parser.on('closetag', () => void path.pop());
  parser.on('error', (error) => fail(error));
  parser.write(text).close();
  return { feed, entries };
}

describe('taking out', () => {
  let running: Running;
  let table: number;

  beforeAll(async () => {
    running = await Running.start(false);
    table = (await running.ask('POST', '/api/tables?name=Things', CSV)).body['id'];
    const change = async (name: string, to: object): Promise<void> => {
      const reply = await running.ask('PATCH', `/api/tables/${table}/columns`, { name, ...to }, { 'if-match': '*' });
      expect(reply.status).toBe(200);
    };
    await change('Weight', { kind: 'number', shown: { number: { decimals: 2, grouping: true } } });
    await change('Found on', { kind: 'date', shown: { date: 'd MMM yyyy' } });
  });
  afterAll(async () => {
    expect(running.server.takeOuts.underWay).toBe(0);
    await running.end();
  });

  const hats = { threaded: ['Item'], strands: [{ verb: 'find' as const, text: 'hat' }] };
  const take = (more: Partial<TakeOutRequest> = {}, of = table): Promise<Reply> =>
    running.ask('POST', `/api/tables/${of}/take-out`, { form: 'csv', question: { threaded: [] }, ...more });
  const text = async (more: Partial<TakeOutRequest> = {}, of = table): Promise<string> =>
    (await take(more, of)).body['text'];
  const fetched = (body: object, of = table): Promise<Response> =>
    fetch(`${running.server.address}/api/tables/${of}/take-out`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'accept-encoding': 'identity' },
      body: JSON.stringify({ form: 'csv', question: { threaded: [] }, ...body }),
    });

  const cases: [what: string, asked: Partial<TakeOutRequest>, gives: string][] = [
    ['all rows, as they are stored', {}, HEAD + LINES.join('')],
    ['those on show', { question: hats }, HEAD + LINES[0] + LINES[1]],
    ['the others', { question: { ...hats, flip: true } }, HEAD + LINES[2] + LINES[3]],
    [
      'those of some ids, in the order on show',
      { rows: [3, 1, 1, 99], question: { threaded: [], sort: [{ column: 'Item', direction: 'down' }] } },
      HEAD + LINES[0] + LINES[2],
    ],
    ['some from a place on', { offset: 1, limit: 2 }, HEAD + LINES[1] + LINES[2]],
    ['none from beyond the end', { offset: 9 }, HEAD],
    [
      'in the order asked for',
      { question: { ...hats, sort: [{ column: 'Found on', direction: 'down' }] } },
      HEAD + LINES[1] + LINES[0],
    ],
    [
      'columns as asked for',
      { question: hats, columns: ['Status', 'Item'] },
      'Status,Item\r\nHeld,red hat\r\nSold,blue hat\r\n',
    ],
    ['without a header', { question: hats, header: false, columns: ['Item'] }, 'red hat\r\nblue hat\r\n'],
    ['safe to open', { question: hats, safe: true, columns: ['Weight'] }, "Weight\r\n1500\r\n'=1+1\r\n"],
    [
      'by another sign',
      { question: hats, delimiter: 'semicolon', columns: ['Item', 'Status'] },
      'Item;Status\r\nred hat;Held\r\nblue hat;Sold\r\n',
    ],
  ];
  for (const [what, asked, gives] of cases) it(`gives ${what}`, async () => expect(await text(asked)).toBe(gives));

  it('says which change it is of, how many rows leave, and by what name', async () => {
    const { headers, type } = await take({ question: hats, name: 'Front desk' });
    expect([headers.get(CHANGE_HEADER), headers.get(ROWS_HEADER), type]).toEqual(['3', '2', 'text/csv']);
    expect(headers.get('content-disposition')).toBe('attachment; filename="Front desk.csv"');
  });

  it('gives JSON with counts, what is shown, and marks', async () => {
    const { body } = await take({ form: 'json', question: hats, columns: ['Item', 'Weight'], marks: true });
    expect(body).toEqual(
      jasmine.objectContaining({
        ...{ name: 'Things', change: 3, rows: 2, total: 4, matched: 2, shown: 2 },
        keywords: [{ number: 1, text: 'hat', rows: 2 }],
        list: [
          {
            row: 1,
            cells: { Item: 'red hat', Weight: '1500' },
            shown: { Weight: '1,500.00' },
            marks: [['Item', 4, 7, 1]],
          },
          { row: 2, cells: { Item: 'blue hat', Weight: '=1+1' }, marks: [['Item', 5, 8, 1]] },
        ],
      }) as never,
    );
    const lines = (await (await fetched({ form: 'ndjson', question: hats })).text()).split('\n');
    expect(lines.length).toBe(3);
    expect(JSON.parse(lines[1])).toEqual({
      row: 2,
      cells: { Item: 'blue hat', Status: 'Sold', Weight: '=1+1', 'Found on': '2026-11-19' },
    });
  });

  it('gives a spreadsheet file with numbers and dates as such', async () => {
    const bytes = Buffer.from(await (await fetched({ form: 'xlsx' })).arrayBuffer());
    const rows = (await readSheet(bytes)) as unknown[][];
    expect(rows).toEqual([
      ['Item', 'Status', 'Weight', 'Found on'],
      ['red hat', 'Held', 1500, new Date('2026-11-18')],
      ['blue hat', 'Sold', '=1+1', new Date('2026-11-19')],
      ['red cap', 'Held', 3.5, 'soon'],
      ['glove, left', 'Held', null, new Date('2026-11-02')],
    ]);
  });

  it('gives a page to print, with the sentence and what was typed', async () => {
    const html = await text({ form: 'page', question: hats, marks: true, sentence: 'Looks in Item.', name: 'Desk' });
    expect(html).toContain('<p class="typed">hat</p>\n<p>Looks in Item.</p>');
    expect(html).toContain('red <mark class="k1">hat</mark>');
    expect(html).toContain('18 Nov 2026');
  });

  it('refuses what cannot be asked, before anything leaves', async () => {
    const pattern = {
      threaded: ['Item'],
      reading: 'pattern' as const,
      strands: [{ verb: 'find' as const, text: '(' }],
    };
    const told = async (more: object): Promise<unknown[]> => {
      const { status, body } = await take(more);
      return [status, body['title'], body['detail']];
    };
    expect((await told({ question: pattern }))[0]).toBe(422);
    expect((await told({ columns: ['Wages'] }))[0]).toBe(422);
    expect((await told({ form: 'dbf' }))[0]).toBe(400);
    expect((await told({ columns: [] }))[0]).toBe(400);
    const long = (await running.ask('POST', '/api/tables?name=Long', `Item,Text\nhat,${'x'.repeat(40_000)}\n`)).body[
      'id'
    ];
    const { status, body } = await take({ form: 'xlsx' }, long);
    expect([status, body['detail']]).toEqual([422, jasmine.stringMatching(/one of “Text” has 40,000/) as never]);
    expect((await take({ form: 'xlsx', columns: ['Item'] }, long)).status).toBe(200);
    expect((await take({}, 9_999)).status).toBe(404);
  });

  it('is of one moment, whatever is changed, removed or renamed while it leaves', async () => {
    const words = Array.from({ length: 60_000 }, (_, i) => `thing ${i} ${'x'.repeat(60)},Held\n`).join('');
    const { body } = await running.ask('POST', '/api/tables?name=Many', `Item,Status\n${words}`);
    const many = body['id'] as number;
    const before = await (await fetched({}, many)).text();
    const leaving = await fetched({}, many);
    const reader = leaving.body!.getReader();
    const parts = [(await reader.read()).value!];
    const edit = (key: string, edits: object): Promise<Reply> =>
      running.ask('POST', `/api/tables/${many}/changes`, { key, kind: 'edited', columns: ['Item'], ...edits });
    const changed = Array.from({ length: 15_000 }, (_, i) => ({ id: 60_000 - i, was: [null], now: ['other'] }));
    expect((await edit('take-out-many-1', { changed })).status).toBe(200);
    expect((await edit('take-out-many-2', { changed: [{ id: 44_000, was: [null], now: ['other'] }] })).status).toBe(
      200,
    );
    const removed = [
      { id: 59_000, seen: 9 },
      { id: 40_001, seen: 9 },
    ];
    expect((await edit('take-out-many-3', { kind: 'removed', removed })).status).toBe(200);
    const rename = { name: 'Status', rename: 'State', kind: 'choice' };
    const columns = await running.ask('PATCH', `/api/tables/${many}/columns`, rename, { 'if-match': '*' });
    expect(columns.status).toBe(200);
    for (let { done, value } = await reader.read(); !done; { done, value } = await reader.read()) parts.push(value!);
    expect(Buffer.concat(parts).toString() === before).toBe(true);
    expect(before.length).toBeGreaterThan(4_000_000);
    expect((await (await fetched({}, many)).text()).includes('other')).toBe(true);
  });

  it('is given up when whoever asked leaves, and says how far it is until then', async () => {
    const many = Array.from({ length: 40_000 }, (_, i) => `thing ${i} ${'x'.repeat(200)}\n`).join('');
    const id = (await running.ask('POST', '/api/tables?name=Left', `Item\n${many}`)).body['id'] as number;
    const key = 'take-out-progress-1';
    const progress = (): Promise<Reply> => running.ask('GET', `/api/take-outs/${key}`);
    expect((await progress()).status).toBe(404);
    const leaving = await fetched({ key }, id);
    const reader = leaving.body!.getReader();
    await reader.read();
    const { body } = await progress();
    expect(body['rows']).toBeGreaterThan(0);
    expect(body['rows']).toBeLessThan(40_000);
    // Four at once, and no more.
    const others = await Promise.all([1, 2, 3].map(() => fetched({}, id)));
    const { status, headers } = await take({}, id);
    expect([status, headers.get('retry-after')]).toEqual([503, '1']);
    await Promise.all([reader.cancel(), ...others.map(({ body: one }) => one!.cancel())]);
    for (let i = 0; i < 100 && running.server.takeOuts.underWay > 0; i++)
      await new Promise((done) => setTimeout(done, 50));
    expect(running.server.takeOuts.underWay).toBe(0);
    expect((await progress()).status).toBe(404);
    expect((await text({}, id)).length).toBeGreaterThan(8_000_000);
  });

  it('is cut off, and leaves no whole-looking file, where the thread ends that the rows come from', async () => {
    const many = Array.from({ length: 40_000 }, (_, i) => `thing ${i} ${'x'.repeat(200)}\n`).join('');
    const id = (await running.ask('POST', '/api/tables?name=Ended', `Item\n${many}`)).body['id'] as number;
    const leaving = await fetched({}, id);
    const reader = leaving.body!.getReader();
    await reader.read();
    await running.server.threads.endThread(id);
    await expectAsync(
      (async () => {
        while (!(await reader.read()).done);
      })(),
    ).toBeRejected();
    for (let i = 0; i < 100 && (await take({ limit: 1 }, id)).status !== 200; i++)
      await new Promise((done) => setTimeout(done, 100));
    expect(await text({ limit: 1 }, id)).toMatch(/^Item\r\nthing 0 x+\r\n$/);
  });

  it('takes out a table as it was', async () => {
    const id = (await running.ask('POST', '/api/tables?name=Earlier', 'Item\nhat\n')).body['id'] as number;
    const edit = {
      key: 'take-out-earlier',
      kind: 'edited',
      columns: ['Item'],
      changed: [{ id: 1, was: ['hat'], now: ['cap'] }],
    };
    await running.ask('POST', `/api/tables/${id}/changes`, edit);
    const { body } = await running.ask('POST', `/api/tables/${id}/earlier`, { at: 1 });
    const then = (body as unknown as { id: number }).id;
    for (let i = 0; i < 100 && (await take({}, then)).status === 503; i++)
      await new Promise((done) => setTimeout(done, 50));
    expect(await text({}, then)).toBe('Item\r\nhat\r\n');
    expect(await text({}, id)).toBe('Item\r\ncap\r\n');
  });

  describe('by an address', () => {
    let box: number;
    beforeAll(async () => {
      const definition = {
        ...{ format: 'usual-needle box', version: 1, name: 'Desk', threaded: ['Item'] },
        columns: [{ name: 'Status' }, { name: 'Item' }],
      };
      box = (await running.ask('POST', `/api/tables/${table}/boxes`, { box: definition })).body['id'];
    });
    const get = (path: string, headers: Record<string, string> = {}): Promise<Response> =>
      fetch(`${running.server.address}/b/${box}${path}`, { headers });

    it('answers what the page of that address shows, in each form', async () => {
      expect(await (await get('.csv?q=hat')).text()).toBe('Status,Item\r\nHeld,red hat\r\nSold,blue hat\r\n');
      const as = encodeURIComponent(JSON.stringify({ flip: true, columns: [{ name: 'Item' }], sort: null }));
      expect(await (await get(`.csv?q=hat&as=${as}`)).text()).toBe('Item\r\nred cap\r\n"glove, left"\r\n');
      expect(await (await get('.csv?q=hat&limit=1&offset=1&header=false')).text()).toBe('Sold,blue hat\r\n');
      const json = (await (await get('.json?q=hat')).json()) as { list: unknown[]; matched: number };
      expect([json.matched, json.list[0]]).toEqual([
        2,
        { row: 1, cells: { Status: 'Held', Item: 'red hat' }, marks: [['Item', 4, 7, 1]] },
      ]);
      expect((await (await get('.ndjson?q=hat')).text()).split('\n').length).toBe(3);
      const sheet = await readSheet(Buffer.from(await (await get('.xlsx?q=hat')).arrayBuffer()));
      expect(sheet[1]).toEqual(['Held', 'red hat']);
    });

    it('has a name, a type, and an ETag that is asked for again at no cost', async () => {
      const first = await get('.csv?q=hat');
      const { headers } = first;
      await first.text();
      expect(headers.get('content-disposition')).toBe('attachment; filename="Desk.csv"');
      expect([headers.get('content-type'), headers.get('accept-ranges')]).toEqual(['text/csv; charset=utf-8', 'none']);
      const tag = headers.get('etag')!;
      const asked = spyOn(running.server.threads.questions, 'takeOut').and.callThrough();
      const again = await get('.csv?q=hat', { 'if-none-match': tag });
      expect([again.status, again.headers.get('etag'), await again.text()]).toEqual([304, tag, '']);
      const head = await fetch(`${running.server.address}/b/${box}.csv?q=hat`, { method: 'HEAD' });
      expect([head.status, head.headers.get('etag')]).toEqual([200, tag]);
      expect(asked).not.toHaveBeenCalled();
      const others = ['.csv?q=hats', '.csv?q=hat&limit=1', '.json?q=hat', '.csv?q=hat&delimiter=tab'];
      const tags = await Promise.all(others.map(async (path) => (await get(path)).headers.get('etag')));
      expect(new Set([tag, ...tags]).size).toBe(others.length + 1);
    });

    it('has another ETag at once after each change, of a table that lends to it, too', async () => {
      const stops = (await running.ask('POST', '/api/tables?name=Stops', 'Name,Town\nQuay,Oakham\n')).body['id'];
      const items = (await running.ask('POST', '/api/tables?name=Items', 'Thing,At\nhat,quay\n')).body['id'] as number;
      const borrow = { table: stops, key: 'At', matches: 'Name', columns: [{ column: 'Town' }] };
      await running.ask('POST', `/api/tables/${items}/columns`, { borrow }, { 'if-match': '*' });
      const definition = { format: 'usual-needle box', version: 1, name: 'Items', threaded: ['Thing'] };
      const id = (await running.ask('POST', `/api/tables/${items}/boxes`, { box: definition })).body['id'] as number;
      const asked = async (): Promise<[string, string]> => {
        const response = await fetch(`${running.server.address}/b/${id}.csv`);
        return [response.headers.get('etag')!, await response.text()];
      };
      const [tag, told] = await asked();
      expect(told).toContain('hat,quay,Oakham');
      const edit = (of: number, column: string, now: string): Promise<Reply> =>
        running.ask('POST', `/api/tables/${of}/changes`, {
          key: `take-out-${column}-${now}`,
          kind: 'edited',
          columns: [column],
          changed: [{ id: 1, was: [null], now: [now] }],
        });
      await edit(stops, 'Town', 'Aspby');
      const [lent, lentTold] = await asked();
      expect(lentTold).toContain('hat,quay,Aspby');
      await edit(items, 'Thing', 'cap');
      const [own, ownTold] = await asked();
      expect(ownTold).toContain('cap,quay,Aspby');
      expect(new Set([tag, lent, own]).size).toBe(3);
    });

    it('tells as a feed of rows that lately began to match, and of no others', async () => {
      const csv = 'Item,Status\nhat,Held\ncap & "gown",Held\n';
      const id = (await running.ask('POST', '/api/tables?name=Fed', csv)).body['id'] as number;
      const definition = { format: 'usual-needle box', version: 1, name: 'A & B', threaded: ['Item'] };
      const kept = (await running.ask('POST', `/api/tables/${id}/boxes`, { box: definition })).body['id'] as number;
      const change = (key: string, edit: object): Promise<Reply> =>
        running.ask('POST', `/api/tables/${id}/changes`, { key: `take-out-fed-${key}`, columns: ['Item'], ...edit });
      await change('1', { kind: 'edited', changed: [{ id: 2, was: [null], now: ['umbrella <b> & \u0001x'] }] });
      await change('2', { kind: 'added', added: [['umbrella of Ada'], ['glove']] });
      await change('3', { kind: 'edited', changed: [{ id: 2, was: [null], now: ['umbrella, blue'] }] });
      await change('4', { kind: 'edited', changed: [{ id: 1, was: [null], now: ['hat, red'] }] });
      const get = (query: string, headers = {}): Promise<Response> =>
        fetch(`${running.server.address}/b/${kept}.atom${query}`, { headers });
      const reply = await get('?q=umbrella');
      expect(reply.headers.get('content-type')).toBe('application/atom+xml; charset=utf-8');
      const text = await reply.text();
      const { entries, feed } = await atomOf(text);
      expect(entries.map(({ title }) => title)).toEqual(['umbrella of Ada', 'umbrella <b> & x']);
      expect(feed['title']).toBe('A & B: umbrella');
      for (const one of [feed, ...entries]) {
        expect(one['id']).toMatch(/^http:\/\/127\.0\.0\.1:\d+\/b\/\d+/);
        expect(new Date(one['updated']).toISOString()).toBe(one['updated']);
      }
      expect(new Set(entries.map(({ id: of }) => of)).size).toBe(2);
      expect((await get('?q=umbrella', { 'if-none-match': reply.headers.get('etag')! })).status).toBe(304);
      expect((await atomOf(await (await get('?q=nothing+such')).text())).entries).toEqual([]);
      expect((await atomOf(await (await get('')).text())).entries.length).toBe(2);
    });

    const wrong: [what: string, path: string, status: number][] = [
      ['a box that is none', '/../99999.csv', 404],
      ['an “as” that is no JSON', '.csv?as={', 400],
      ['an “as” that is no object', '.csv?as=3', 400],
      ['a part that no box has', `.csv?as=${encodeURIComponent('{"colour":"red"}')}`, 400],
      ['another name', `.csv?as=${encodeURIComponent('{"name":"x"}')}`, 400],
      ['a setting that is none', '.csv?q=a&colour=red', 400],
      ['a limit that is none', '.csv?limit=-1', 400],
      ['a form that is none', '.dbf', 404],
      ['a pattern that cannot be read', `.csv?q=(&as=${encodeURIComponent('{"reading":"pattern"}')}`, 422],
    ];
    for (const [what, path, status] of wrong)
      it(`refuses ${what}`, async () => expect((await get(path)).status).toBe(status));

    it('ignores a range, which would be of another moment', async () => {
      const response = await get('.csv?q=hat', { range: 'bytes=0-3' });
      expect([response.status, (await response.text()).length]).toEqual([200, 42]);
    });
  });
});

describe('taking out among people', () => {
  let running: Running;
  afterAll(() => running.end());

  it('is noted: who, what, how many rows; what an address asks again and again once', async () => {
    running = await Running.start(false);
    const machine = await comes(running, new Asker(running, undefined), { name: 'M. Lind', everything: true });
    const table = (await machine.ask('POST', '/api/tables?name=Things', CSV)).body['id'] as number;
    const kessel = await comes(running, machine, { name: 'T. Kessel', roles: [{ table, role: 'keeps' }] });
    const definition = { format: 'usual-needle box', version: 1, name: 'Desk', threaded: ['Item'] };
    const box = (await machine.ask('POST', `/api/tables/${table}/boxes`, { box: definition })).body['id'] as number;
    const share = { everyone: false, people: [], columns: ['Item'], searched: [], editable: [], locked: [] };
    await machine.ask('PUT', `/api/boxes/${box}/share`, { ...share, may: ['take out'] });
    const { body: link } = await machine.ask('POST', `/api/boxes/${box}/share/link`);
    await kessel.ask('POST', `/api/tables/${table}/take-out`, { form: 'csv', question: { threaded: [] } });
    for (let i = 0; i < 3; i++) {
      const response = await fetch(`${running.server.address}${String(link['path'])}.csv?q=red`);
      expect(await response.text()).toBe('Item\r\nred hat\r\nred cap\r\n');
    }
    const { body } = await machine.ask('GET', '/api/people');
    const noted = (body['changes'] as { who: string; what: string }[]).filter(({ what }) =>
      what.startsWith('took out'),
    );
    expect(noted.map(({ who, what }) => `${who} ${what}`)).toEqual([
      'A reader by the link took out 2 rows of “Desk” as csv, by its address',
      'T. Kessel took out 4 rows of “Things” as csv',
    ]);
    // Nobody without the link, and not by a number.
    expect((await fetch(`${running.server.address}/b/${box}.csv`)).status).toBe(401);
    expect((await kessel.ask('GET', `/api/shared/${box}/as/csv`)).status).toBe(200);
  });
});
