import { readdir } from 'node:fs/promises';
import { connect } from 'node:net';
import { Running } from './running.js';

const NOTE = 'Finder’s note';

describe('a server with the demo', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(true)), 60_000);
  afterAll(() => running.end(), 30_000);

  it('lists the tables and boxes of the demo', async () => {
    const { status, body } = await running.ask('GET', '/api/tables');
    expect(status).toBe(200);
    const tables = body['tables'] as { name: string; rows: number }[];
    expect(tables.map(({ name, rows }) => [name, rows])).toEqual([['Found items', 4120], ['Stops', 60], ['Claims', 600]]); // prettier-ignore
    const boxes = body['boxes'] as { name: string }[];
    expect(boxes.map(({ name }) => name)).toEqual(['Front desk look-up', 'Night audit', 'Open shelf']);
  });

  it('answers a search with counts, marks and a window', async () => {
    const { body } = await running.find(1, 'umbr wood', ['Description', 'Marks', NOTE], {
      columns: ['Description', NOTE],
      limit: 2,
    });
    expect(body).toEqual(
      jasmine.objectContaining({ total: 4120, searched: 4120, complete: true, asked: true } as never),
    );
    const rows = body['rows'] as { cells: string[]; marks: [number, number, number, number][] }[];
    expect(rows.length).toBe(2);
    for (const { cells, marks } of rows) {
      expect(new Set(marks.map(([, , , keyword]) => keyword))).toEqual(new Set([1, 2]));
      for (const [column, start, end, keyword] of marks) {
        expect(cells[column].slice(start, end).toLowerCase()).toBe(keyword === 1 ? 'umbr' : 'wood');
      }
    }
  });

  it('gives the same rows window by window as in one', async () => {
    const whole = await running.find(1, 'wood', ['Description'], { limit: 200 });
    const first = await running.find(1, 'wood', ['Description'], { limit: 100 });
    const second = await running.find(1, 'wood', ['Description'], { offset: 100, limit: 100 });
    expect([...(first.body['rows'] as []), ...(second.body['rows'] as [])]).toEqual(whole.body['rows']);
  });

  it('lets a later turn of a session overtake an earlier one', async () => {
    await running.find(1, 'umbr', ['Description'], { session: 's', turn: 7 });
    const { body } = await running.find(1, 'umb', ['Description'], { session: 's', turn: 6 });
    expect(body['overtaken']).toBe(true as never);
  });

  const problems: [string, string, string, unknown, number][] = [
    ['a table that is not there', 'GET', '/api/tables/99', undefined, 404],
    ['a table that has no number', 'GET', '/api/tables/x', undefined, 404],
    ['a box that is not there', 'GET', '/api/boxes/99', undefined, 404],
    ['an address of nothing', 'GET', '/api/nothing', undefined, 404],
    ['a way of asking that is not answered', 'DELETE', '/api/tables', undefined, 405],
    ['a search of no table', 'POST', '/api/tables/99/search', { question: { threaded: [] } }, 404],
    ['a search without a question', 'POST', '/api/tables/1/search', {}, 400],
    ['a search with more than is known', 'POST', '/api/tables/1/search', { question: { threaded: [] }, extra: 1 }, 400],
    ['a search in an unknown column', 'POST', '/api/tables/1/search', { question: { threaded: ['Nope'] } }, 422],
    ['a window too large', 'POST', '/api/tables/1/search', { question: { threaded: [] }, limit: 100000 }, 400],
    ['rows from nowhere', 'GET', '/api/tables/1/rows?after=-1', undefined, 400],
  ];
  for (const [what, method, path, body, status] of problems) {
    it(`answers ${what} with a problem document`, async () => {
      const reply = await running.ask(method, path, body);
      expect([reply.status, reply.type]).toEqual([status, 'application/problem+json']);
      expect(reply.body).toEqual(jasmine.objectContaining({ status, type: 'about:blank' } as never));
      expect(String(reply.body['title'])).not.toBe('');
    });
  }

  it('answers a body that is no JSON with a problem document', async () => {
    const reply = await running.ask('POST', '/api/tables/1/search', '{"question":', {
      'content-type': 'application/json',
    });
    expect([reply.status, reply.type]).toEqual([400, 'application/problem+json']);
  });

  it('serves the page at every address of the interface, and no file outside it', async () => {
    for (const path of ['/', '/box/1', '/table/1?q=wood']) {
      const { status, type } = await running.ask('GET', path);
      expect([path, status, type]).toEqual([path, 200, 'text/html']);
    }
    const raw = await new Promise<string>((done) => {
      const { hostname, port } = new URL(running.server.address);
      let text = '';
      const socket = connect(Number(port), hostname, () => socket.write('GET /../../../package.json HTTP/1.0\r\n\r\n'));
      socket.on('data', (data) => (text += data.toString()));
      socket.on('close', () => done(text));
    });
    expect(raw).not.toContain('workspaces');
  });

  it('refuses a second server on the same folder', async () => {
    await expectAsync(Running.start(true, running.folder)).toBeRejectedWithError(/is in use by another Usual Needle/);
    expect((await running.ask('GET', '/api/tables/1')).status).toBe(200);
  });
});

describe('bringing a table in', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(false)), 60_000);
  afterAll(() => running.end(), 30_000);

  const bringIn = (csv: string | Uint8Array) => running.ask('POST', '/api/tables?name=Things', csv);

  it('keeps every cell as it came: quoted line breaks, quotes, a byte order mark, CRLF, spaces, blanks', async () => {
    const csv = '\ufeffName,Note\r\n"a ""b""","one\r\ntwo"\r\n  x ,\r\n"Łucja, S.",7\r\n';
    const made = await bringIn(csv);
    expect(made.status).toBe(201);
    const id = made.body['id'] as number;
    expect(made.headers.get('location')).toBe(`/api/tables/${id}`);
    expect((made.body['columns'] as { name: string }[]).map(({ name }) => name)).toEqual(['Name', 'Note']);
    const { body } = await running.ask('GET', `/api/tables/${id}/rows`);
    expect((body['rows'] as { cells: string[] }[]).map(({ cells }) => cells)).toEqual([['a "b"', 'one\r\ntwo'], ['  x ', ''], ['Łucja, S.', '7']]); // prettier-ignore
    const found = await running.find(id, 'lucja', ['Name']);
    expect(found.body['matched']).toBe(1 as never);
  });

  const refused: [string, string | Uint8Array, number | undefined, RegExp][] = [
    ['a row with a cell too few', 'A,B\n1,2\n3\n', 3, /Line 3 has 1 cell; the header has 2/],
    ['a row with a cell too many, after a quoted line break', 'A,B\n"1\n1",2\n3,4,5\n', 4, /Line 4 has 3 cells/],
    ['a quote never closed', 'A,B\n1,2\n"3,4\n', 3, /never closed/],
    ['an empty file', '', 1, /empty/],
    ['a column without a name', 'A,,C\n1,2,3\n', 1, /Column 2 has no name/],
    ['two columns of one name', 'A,A\n1,2\n', 1, /Two columns are named “A”/],
    ['a NUL', 'A\n1\0\n', 2, /NUL/],
    ['text that is not UTF-8', new Uint8Array([65, 10, 0xff, 0xfe, 10]), undefined, /UTF-8/],
  ];
  for (const [what, csv, line, message] of refused) {
    it(`refuses ${what}, naming the line, and stores nothing`, async () => {
      const before = (await running.ask('GET', '/api/tables')).body['tables'] as [];
      const { status, type, body } = await bringIn(csv);
      expect([status, type, body['line']]).toEqual([422, 'application/problem+json', line as never]);
      expect(String(body['detail'])).toMatch(message);
      expect((await running.ask('GET', '/api/tables')).body['tables']).toEqual(before as never);
    });
  }

  it('wants a name for the table', async () => {
    expect((await running.ask('POST', '/api/tables', 'A\n1\n')).status).toBe(400);
    expect((await running.ask('POST', '/api/tables?name=%20', 'A\n1\n')).status).toBe(400);
  });
});

describe('a server that is stopped and started again', () => {
  it('finds its tables as they were, and brings the demo in only once', async () => {
    const first = await Running.start(true);
    const before = (await first.ask('GET', '/api/tables')).body;
    await first.stop();
    expect(await readdir(first.folder)).toEqual(['pg']);
    const second = await Running.start(true, first.folder);
    expect((await second.ask('GET', '/api/tables')).body).toEqual(before);
    expect((await second.find(1, 'umbr', ['Description'])).body['total']).toBe(4120 as never);
    await second.end();
  }, 90_000);
});
