import { readdir, writeFile } from 'node:fs/promises';
import { connect } from 'node:net';
import { fileURLToPath } from 'node:url';
import { WebSocket } from 'ws';
import { Running } from './running.js';

const NOTE = 'Finder’s note';

describe('a server with the demo', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(true)));
  afterAll(() => running.end());

  it('lists the tables and boxes of the demo', async () => {
    const { status, body } = await running.ask('GET', '/api/tables');
    expect(status).toBe(200);
    const tables = body['tables'] as { name: string; rows: number }[];
    expect(tables.map(({ name, rows }) => [name, rows])).toEqual([
      ['Found items', 4120],
      ['Stops', 60],
      ['Claims', 600],
    ]);
    const boxes = body['boxes'] as { name: string }[];
    const names = boxes.map(({ name }) => name);
    expect(names).toEqual(['Front desk look-up', 'Night audit', 'Open shelf', 'Claims and finds']);
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
    // Texts that nobody else asks: what was answered before costs nothing, and is told whatever the turn.
    await running.find(1, 'umbr overtaking', ['Description'], { session: 's', turn: 7 });
    const { body } = await running.find(1, 'umbr overtaken', ['Description'], { session: 's', turn: 6 });
    expect(body['overtaken']).toBe(true as never);
  });

  it('says why nothing is found, each remedy with the rows it gives', async () => {
    const question = { threaded: ['Description'], strands: [{ verb: 'find', text: 'umbrellqa' }] };
    const { body } = await running.ask('POST', '/api/tables/1/explain', { question });
    const [reason] = body['reasons'] as { kind: string; text: string; rows: number; change: object }[];
    expect([reason.kind, reason.text]).toEqual(['near spelling', 'umbrella']);
    expect(reason.change).toEqual({ type: 'replace', strand: 0, start: 0, end: 9, text: 'umbrella' });
    const mended = await running.find(1, 'umbrella', ['Description']);
    expect(mended.body['shown']).toBe(reason.rows as never);
  });

  it('offers the values of a column with true counts, and the extent of numbers', async () => {
    const question = { threaded: ['Description'], strands: [{ verb: 'find', text: 'umbr' }] };
    const offers = await running.ask('POST', '/api/tables/1/offers', { question, column: 'Status' });
    const values = offers.body['values'] as { value: string; rows: number }[];
    const found = await running.find(1, 'umbr', ['Description']);
    expect(values.reduce((sum, { rows }) => sum + rows, 0)).toBe(found.body['matched'] as number);
    for (const { value, rows } of values) {
      const pickers = [{ column: 'Status', values: [value] }];
      const narrowed = await running.ask('POST', '/api/tables/1/search', { question: { ...question, pickers } });
      expect(narrowed.body['matched']).toBe(rows as never);
    }
    const range = await running.ask('POST', '/api/tables/1/offers', {
      question,
      column: 'Declared value',
      of: 'range',
    });
    expect(range.body['range']).toEqual(jasmine.objectContaining({ least: 0 } as never));
  });

  it('steps from match to match', async () => {
    const question = { threaded: ['Status'], strands: [{ verb: 'find', text: 'police' }], effect: 'mark in place' };
    const next = async (from: number, backwards = false): Promise<number | null> =>
      (await running.ask('POST', '/api/tables/1/next', { question, from, backwards })).body['index'] as number | null;
    const first = (await next(-1))!;
    const second = (await next(first))!;
    expect(second).toBeGreaterThan(first);
    expect(await next(second, true)).toBe(first);
    expect(await next(first, true)).toBeNull();
    const { body } = await running.ask('POST', '/api/tables/1/search', {
      question,
      columns: ['Status'],
      offset: first,
      limit: 1,
    });
    expect((body['rows'] as { cells: string[] }[])[0].cells).toEqual(['Police']);
  });

  it('answers over the standing connection as it does by request', async () => {
    const question = { threaded: ['Description'], strands: [{ verb: 'find', text: 'wood' }] };
    const socket = new WebSocket(running.server.address.replace('http', 'ws') + '/api/standing');
    const replies: string[] = [];
    await new Promise<void>((done, fail) => {
      socket.on('error', fail);
      socket.on('open', () => {
        socket.send(JSON.stringify({ id: 1, table: 1, request: { question, limit: 2 } }));
        socket.send(JSON.stringify({ id: 2, table: 99, request: { question } }));
        socket.send(JSON.stringify({ id: 3, table: 1, request: {} }));
        socket.send('{');
      });
      socket.on('message', (data) => {
        replies.push(String(data));
        if (replies.length === 4) done();
      });
    });
    socket.close();
    const statuses = replies.map((reply) => reply.split(' ').slice(0, 2).join(' ')).sort();
    expect(statuses).toEqual(['-1 400', '1 200', '2 404', '3 400']);
    const answer = JSON.parse(replies.find((reply) => reply.startsWith('1 '))!.slice('1 200 '.length)) as {
      rows: unknown;
    };
    const { body } = await running.find(1, 'wood', ['Description'], { limit: 2 });
    expect(answer.rows).toEqual(body['rows']);
  });

  it('answers each question of a message that puts several', async () => {
    const question = { threaded: ['Description'], strands: [{ verb: 'find', text: 'wood' }] };
    const socket = new WebSocket(running.server.address.replace('http', 'ws') + '/api/standing');
    await new Promise((done) => socket.once('open', done));
    const replies = async (message: unknown, count: number): Promise<string[]> => {
      const some: string[] = [];
      const all = new Promise<void>((done) => {
        const take = (data: unknown): void => {
          for (const reply of String(data).split('\n')) some.push(reply.split(' ').slice(0, 2).join(' '));
          if (some.length < count) return;
          socket.off('message', take);
          done();
        };
        socket.on('message', take);
      });
      socket.send(JSON.stringify(message));
      await all;
      return some.sort();
    };
    const one = { table: 1, request: { question, limit: 2 } };
    const several = [{ id: 1, ...one }, { id: 2, ...one, table: 99 }, 'none', { id: 4, ...one }];
    expect(await replies(several, 4)).toEqual(['-1 400', '1 200', '2 404', '4 200']);
    const ids = Array.from({ length: 200 }, (_, id) => id);
    expect(await replies([...ids, 200], 1)).toEqual(['-1 400']);
    // As many as are allowed have each its answer.
    const statuses = await replies(
      ids.map((id) => ({ id, ...one })),
      200,
    );
    expect(statuses.filter((status) => status.endsWith(' 200')).length).toBe(200);
    // What is known already, what is not, what is asked twice, and what may not be asked, side by side.
    const other = (text: string, more = {}): unknown => ({
      table: 1,
      request: { question: { threaded: ['Description'], strands: [{ verb: 'find', text }] }, ...more },
    });
    const mixed = [one, other('wool'), other('wool', { brief: true }), other('wool'), { ...one, table: 99 }];
    const nowhere = { table: 1, request: { question: { threaded: ['Nope'] } } };
    expect(
      await replies(
        [...mixed, nowhere].map((asked, id) => ({ ...(asked as object), id })),
        6,
      ),
    ).toEqual(['0 200', '1 200', '2 200', '3 200', '4 404', '5 422']);
    socket.close();
  });

  const problems: [string, string, string, unknown, number][] = [
    ['an explanation of no table', 'POST', '/api/tables/99/explain', { question: { threaded: [] } }, 404],
    ['offers without a column', 'POST', '/api/tables/1/offers', { question: { threaded: [] } }, 400],
    [
      'a picker whose day is none',
      'POST',
      '/api/tables/1/search',
      { question: { threaded: [], pickers: [{ column: 'Found on', days: { from: '2026-13', to: '' } }] } },
      422,
    ],
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
    // The page is what is asked for where there is no file; a file that is there beside the folder is not given.
    const secret = 'of the folder beside';
    await writeFile(fileURLToPath(new URL('../../web/dist/beside.txt', import.meta.url)), secret);
    const { hostname, port } = new URL(running.server.address);
    for (const path of [
      '/../beside.txt',
      '/%2e%2e/beside.txt',
      '/..%2fbeside.txt',
      '/x/../../beside.txt',
      '//../beside.txt',
    ]) {
      const raw = await new Promise<string>((done) => {
        let text = '';
        const socket = connect(Number(port), hostname, () =>
          socket.write(`GET ${path} HTTP/1.1\r\nHost: ${hostname}:${port}\r\nConnection: close\r\n\r\n`),
        );
        socket.on('data', (data) => (text += data.toString()));
        socket.on('close', () => done(text));
      });
      expect(raw)
        .withContext(path)
        .toMatch(/^HTTP\/1\.1 [234]/);
      expect(raw).withContext(path).not.toContain(secret);
    }
  });

  it('refuses a second server on the same folder', async () => {
    await expectAsync(Running.start(true, running.folder)).toBeRejectedWithError(/is in use by another Usual Needle/);
    expect((await running.ask('GET', '/api/tables/1')).status).toBe(200);
  });
});

describe('bringing a table in', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());

  const bringIn = (csv: string | Uint8Array) => running.ask('POST', '/api/tables?name=Things', csv);

  it('keeps every cell as it came: quoted line breaks, quotes, a byte order mark, CRLF, spaces, blanks', async () => {
    const csv = '\ufeffName,Note\r\n"a ""b""","one\r\ntwo"\r\n  x ,\r\n"Łucja, S.",7\r\n';
    const made = await bringIn(csv);
    expect(made.status).toBe(201);
    const id = made.body['id'] as number;
    expect(made.headers.get('location')).toBe(`/api/tables/${id}`);
    expect((made.body['columns'] as { name: string }[]).map(({ name }) => name)).toEqual(['Name', 'Note']);
    const { body } = await running.ask('GET', `/api/tables/${id}/rows`);
    expect((body['rows'] as { cells: string[] }[]).map(({ cells }) => cells)).toEqual([
      ['a "b"', 'one\r\ntwo'],
      ['  x ', ''],
      ['Łucja, S.', '7'],
    ]);
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
    ['a byte that is not of its encoding', Uint8Array.from([...Buffer.from('A\nŁucja\n'), 0xff, 10]), 3, /not UTF-8/],
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

  it('answers an impatient reader with what it knows so far, and goes on when asked again', async () => {
    const csv = ['No', ...Array.from({ length: 20_000 }, (_, i) => `row ${i}`)].join('\r\n');
    const { body: table } = await running.ask('POST', '/api/tables?name=Many', csv);
    const more = { limit: 3, patience: 0 };
    const { body: first } = await running.find(table['id'], 'row', ['No'], more);
    expect(first['complete']).toBe(false as never);
    expect(first['searched'] as number).toBeLessThan(20_000);
    expect((first['rows'] as unknown[]).length).toBe(3);
    const { body: second } = await running.find(table['id'], 'row', ['No'], more);
    expect([second['complete'], second['matched'], second['searched']]).toEqual([true, 20_000, 20_000] as never[]);
    expect(second['rows']).toEqual(first['rows']);
  });
});

describe('a server that is stopped and started again', () => {
  it('finds its tables as they were, and brings the demo in only once', async () => {
    const first = await Running.start(true);
    const before = (await first.ask('GET', '/api/tables')).body;
    await first.stop();
    expect((await readdir(first.folder)).sort()).toEqual(['pg', 'reserve']);
    const second = await Running.start(true, first.folder);
    expect((await second.ask('GET', '/api/tables')).body).toEqual(before);
    expect((await second.find(1, 'umbr', ['Description'])).body['total']).toBe(4120 as never);
    await second.end();
  });
});
