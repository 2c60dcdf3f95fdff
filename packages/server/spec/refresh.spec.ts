import { gzipSync } from 'node:zlib';
import type { Refresh, RowList, TableSummary } from '@usual-needle/contract';
import fc from 'fast-check';
import { Running } from './running.js';

const BEFORE = 'No,Thing,Shelf\n1,umbrella,A\n2,hat,B\n3,glove,C\n4,scarf,D\n';

describe('a file of any form is brought in', () => {
  let running: Running;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  const bringIn = (body: string | Uint8Array, headers: Record<string, string>, how?: object) => {
    const more = how ? `&how=${encodeURIComponent(JSON.stringify(how))}` : '';
    return running.ask('POST', `/api/tables?name=Any${more}`, body, headers);
  };
  const cells = async (id: number): Promise<readonly (readonly string[])[]> =>
    ((await running.ask('GET', `/api/tables/${id}/rows`)).body as unknown as RowList).rows.map((row) => row.cells);

  const cases: [what: string, body: string | Uint8Array, headers: Record<string, string>, rows: string[][]][] = [
    ['CSV', 'A,B\n1,x\n', { 'content-type': 'text/csv' }, [['1', 'x']]],
    ['what curl says of a file', 'A;B\n1;x\n', { 'content-type': 'application/x-www-form-urlencoded' }, [['1', 'x']]],
    ['tabs', 'A\tB\n1\tx\n', { 'content-type': 'text/tab-separated-values' }, [['1', 'x']]],
    ['JSON', '[{"A":1,"B":"x"}]', { 'content-type': 'application/json' }, [['1', 'x']]],
    [
      'NDJSON',
      '{"A":1}\n{"B":"x"}',
      { 'content-type': 'application/x-ndjson' },
      [
        ['1', ''],
        ['', 'x'],
      ],
    ],
    ['bytes that say nothing', gzipSync('A,B\n1,x\n'), { 'content-type': 'application/octet-stream' }, [['1', 'x']]],
    [
      'gzip by its header',
      gzipSync('A,B\n1,x\n'),
      { 'content-type': 'text/csv', 'content-encoding': 'gzip' },
      [['1', 'x']],
    ],
    [
      'Latin-1 by its header',
      Buffer.from('A\nBr\u00fcckl\n', 'latin1'),
      { 'content-type': 'text/csv; charset=ISO-8859-1' },
      [['Brückl']],
    ],
    [
      'Windows-1252 by its bytes',
      Buffer.from('A\nBr\u00fcckl\n', 'latin1'),
      { 'content-type': 'text/csv' },
      [['Brückl']],
    ],
  ];
  for (const [what, body, headers, rows] of cases)
    it(what, async () => {
      const { status, body: table } = await bringIn(body, headers);
      expect(status).withContext(JSON.stringify(table)).toBe(201);
      const { id, columns, rows: count } = table as unknown as TableSummary;
      expect([await cells(id), count] as unknown).toEqual([rows, rows.length]);
      expect(
        (
          await running.find(
            id,
            '',
            columns.map(({ name }) => name),
          )
        ).body['shown'],
      ).toBe(rows.length as never);
    });

  it('with every choice that was made for it', async () => {
    const how = {
      delimiter: '|',
      header: false,
      tooMany: 'join',
      columns: [{ name: 'Key' }, { take: false }, { name: 'Value', kind: 'number', decimal: 'comma' }],
    };
    const { body } = await bringIn('a|b|1.250,5\nc|d|2|3\n', { 'content-type': 'text/plain' }, how);
    const { id, columns } = body as unknown as TableSummary;
    expect(columns).toEqual([
      { name: 'Key', kind: 'text' },
      { name: 'Value', kind: 'number', decimal: 'comma' },
    ]);
    expect(await cells(id)).toEqual([
      ['a', '1.250,5'],
      ['c', '2|3'],
    ]);
    expect((await running.find(id, 'value > 1250', ['Key'])).body['matched']).toBe(1 as never);
  });

  it('JSON whose later rows have further columns, which earlier ones have blank, however many there are between', async () => {
    const lines = Array.from({ length: 5_000 }, (_, i) =>
      JSON.stringify(i < 4_999 ? { A: `a${i}` } : { A: 'z', B: 'late' }),
    );
    const { status, body } = await bringIn(lines.join('\n'), { 'content-type': 'application/x-ndjson' });
    const { id, columns } = body as unknown as TableSummary;
    expect([status, columns.map(({ name }) => name)] as unknown).toEqual([201, ['A', 'B']]);
    expect((await cells(id))[0]).toEqual(['a0', '']);
    expect((await running.find(id, 'late', ['B'])).body['matched']).toBe(1 as never);
  });

  const bad: [what: string, body: string | Uint8Array, headers: Record<string, string>, status: number][] = [
    ['a form', 'x', { 'content-type': 'multipart/form-data; boundary=x' }, 415],
    ['a picture', 'x', { 'content-type': 'image/png' }, 415],
    ['another packing', 'x', { 'content-type': 'text/csv', 'content-encoding': 'br' }, 415],
    ['a cut gzip', gzipSync('A\n1\n').subarray(0, 12), { 'content-type': 'text/csv' }, 422],
    ['JSON that ends too soon', '[{"A":1}', { 'content-type': 'application/json' }, 422],
  ];
  for (const [what, body, headers, status] of bad)
    it(`but not ${what}`, async () => {
      const reply = await bringIn(body, headers);
      expect([reply.status, reply.type]).toEqual([status, 'application/problem+json']);
      expect(
        (await running.ask('POST', '/api/tables?name=X&how=%7B', 'A\n', { 'content-type': 'text/csv' })).status,
      ).toBe(400);
    });
});

describe('a large file that is refused at its beginning', () => {
  it('is told why, and not cut off', async () => {
    const running = await Running.start(false);
    const { status, body } = await running.ask('POST', '/api/tables?name=X', `A,B\n1\n${'1,2\n'.repeat(5_000_000)}`);
    expect([status, body['line']] as unknown).toEqual([422, 2]);
    expect((await running.ask('GET', '/api/tables')).body['tables'] as unknown).toEqual([]);
    await running.end();
  });
});

describe('a refresh', () => {
  let running: Running;
  /** A table of its own for each. */
  let table: number;
  let at: string;
  beforeAll(async () => (running = await Running.start(false)));
  beforeEach(async () => {
    table = (await running.ask('POST', '/api/tables?name=Things', BEFORE)).body['id'];
    at = `/api/tables/${table}`;
  });
  afterAll(() => running.end());
  const refresh = async (query: string, body: string): Promise<[number, Refresh & { detail?: string }]> => {
    const reply = await running.ask('PUT', `${at}/rows${query}`, body);
    return [reply.status, reply.body as unknown as Refresh];
  };
  const rows = async (): Promise<string[]> =>
    ((await running.ask('GET', `${at}/rows?limit=1000`)).body as unknown as RowList).rows.map((row) =>
      row.cells.join(),
    );
  const found = async (text: string, columns = ['Thing']): Promise<number> =>
    (await running.find(table, text, columns)).body['matched'] as number;

  it('by a key adds, changes and keeps, and is one change that can be undone', async () => {
    const [status, told] = await refresh('?key=No', 'Shelf,No,Thing\nA,1,umbrella\nZ,2,red hat\nE,5,key\n');
    expect([status, told.added, told.changed, told.gone, told.unchanged, told.change]).toEqual([200, 1, 1, 2, 1, 2]);
    expect(await rows()).toEqual(['1,umbrella,A', '2,red hat,Z', '3,glove,C', '4,scarf,D', '5,key,E']);
    expect([await found('red'), await found('key'), await found('glove')]).toEqual([1, 1, 1]);
    const undone = await running.ask('POST', `${at}/changes/2/undo`);
    expect([undone.status, undone.body['kind'], undone.body['number']] as unknown).toEqual([200, 'undone', 3]);
    expect(await rows()).toEqual(BEFORE.trim().split('\n').slice(1));
    expect([await found('red'), await found('key')]).toEqual([0, 0]);
    // The undoing is a change like others, and can be undone.
    expect((await running.ask('POST', `${at}/changes/3/undo`)).status).toBe(200);
    expect(await found('red')).toBe(1);
  });

  it('tells rows apart by keys of many thousand letters that differ in the last', async () => {
    const line = (i: number, shelf: string): string => `${'long '.repeat(4_000)}${10 + i},${shelf}\n`;
    const file = (shelfOf: (i: number) => string): string =>
      `Key,Shelf\n${Array.from({ length: 12 }, (_, i) => line(i, shelfOf(i))).join('')}`;
    table = (
      await running.ask(
        'POST',
        '/api/tables?name=Long',
        file(() => 'A'),
      )
    ).body['id'];
    at = `/api/tables/${table}`;
    const [status, told] = await refresh(
      '?key=Key',
      file((i) => (i === 7 ? 'B' : 'A')),
    );
    expect([status, told.added, told.changed, told.gone, told.unchanged]).toEqual([200, 0, 1, 0, 11]);
    expect((await rows()).map((row) => row.slice(-1)).join('')).toBe('AAAAAAABAAAA');
  });

  it('tidies a newer file as the first one was tidied, unless it is said otherwise', async () => {
    const file = 'No,Lent,Kind\n1,18.11.26, Non fiction\n2,1.2.99,Non-fiction\n3,n/a,Non-fiction\n';
    const date = { kind: 'date', dateOrder: 'day first', firstYear: 1927, noValue: 'blank' };
    const how = { spaces: 'trim', columns: [{}, date, { instead: [['Non fiction', 'Non-fiction']] }] };
    const made = await running.ask(
      'POST',
      `/api/tables?name=Lent&how=${encodeURIComponent(JSON.stringify(how))}`,
      file,
    );
    expect(made.status).toBe(201);
    table = made.body['id'];
    at = `/api/tables/${table}`;
    expect(await rows()).toEqual(['1,18.11.2026,Non-fiction', '2,1.2.1999,Non-fiction', '3,,Non-fiction']);
    const [, same] = await refresh('?key=No', file);
    expect([same.changed, same.unchanged, same.change]).toEqual([0, 3, 1]);
    // Columns are known by their names, wherever they are.
    const [, moved] = await refresh('?key=No', 'Lent,No,Kind\n18.11.27,1,Non fiction \n');
    expect([moved.changed, moved.change]).toEqual([1, 2]);
    expect((await rows())[0]).toBe('1,18.11.1927,Non-fiction');
    // A file that lacks a column does not make it forgotten.
    await refresh('?key=No', 'No,Kind\n1,Fiction\n2,Non-fiction\n3,Non-fiction\n');
    const [, back] = await refresh('?key=No', 'No,Lent\n1,18.11.27\n2,1.2.99\n3,n/a\n');
    expect([back.changed, back.unchanged]).toEqual([0, 3]);
    const other = encodeURIComponent(JSON.stringify({ columns: [{}, { firstYear: 1950 }] }));
    await refresh(`?key=No&how=${other}`, file);
    expect((await rows())[0]).toBe('1,18.11.2026,Non-fiction');
    expect((await running.ask('GET', at)).body['refreshedBy']['tidied']['columns'][0]).toEqual(
      jasmine.objectContaining({ file: 'Lent', firstYear: 1950, noValue: 'blank' }) as never,
    );
  });

  it('removes what is gone where that is asked for, and brings it back to its place', async () => {
    const [, told] = await refresh('?key=No&gone=remove', 'No,Thing,Shelf\n2,hat,B\n4,scarf,D\n');
    expect([told.gone, told.unchanged]).toEqual([2, 2]);
    expect(await rows()).toEqual(['2,hat,B', '4,scarf,D']);
    await running.ask('POST', `${at}/changes/2/undo`);
    expect(await rows()).toEqual(BEFORE.trim().split('\n').slice(1));
    expect(await found('umbrella')).toBe(1);
  });

  it('says what it would do, and does nothing, for a preview', async () => {
    const [, told] = await refresh('?key=No&preview=true', 'No,Thing,Shelf\n1,umbrella,B\n9,new,C\n');
    expect([told.added, told.changed, told.gone, told.change]).toEqual([1, 1, 3, 1]);
    expect(told.rows).toEqual(
      jasmine.arrayWithExactContents([
        { what: 'changed', before: ['1', 'umbrella', 'A'], after: ['1', 'umbrella', 'B'] },
        { what: 'added', before: null, after: ['9', 'new', 'C'] },
        { what: 'gone', before: ['2', 'hat', 'B'], after: null },
        { what: 'gone', before: ['3', 'glove', 'C'], after: null },
        { what: 'gone', before: ['4', 'scarf', 'D'], after: null },
      ]),
    );
    expect((await rows()).length).toBe(4);
    await running.ask('PATCH', `${at}/columns`, { name: 'Thing', rename: 'What' }, { 'if-match': '*' });
    expect((await refresh(`?key=No&on=${told.change}`, BEFORE))[0]).toBe(412);
  });

  it('by place, with a column more and one that is not there', async () => {
    const [, told] = await refresh('', 'No,Thing,Colour\n1,umbrella,red\n2,cap,\n');
    expect([told.added, told.changed, told.gone, told.unchanged, told.missing]).toEqual([
      0,
      2,
      2,
      0,
      ['Shelf'],
    ] as never);
    expect(told.columns.map(({ name }) => name)).toEqual(['No', 'Thing', 'Shelf', 'Colour']);
    expect(await rows()).toEqual(['1,umbrella,A,red', '2,cap,B,', '3,glove,C,', '4,scarf,D,']);
    expect([await found('red', ['Colour']), await found('colour:red')]).toEqual([1, 1]);
    await running.ask('POST', `${at}/changes/2/undo`);
    expect((await running.ask('GET', `${at}`)).body['columns'] as unknown).toHaveSize(3);
  });

  it('that changes nothing is no change', async () => {
    const [, told] = await refresh('?key=No', BEFORE);
    expect([told.unchanged, told.change]).toEqual([4, 1]);
  });

  it('finds a column by the name it had', async () => {
    await running.ask('PATCH', `${at}/columns`, { name: 'No', rename: 'Number' }, { 'if-match': '*' });
    const [status, told] = await refresh('?key=No', 'No,Thing,Shelf\n1,umbrella,Q\n');
    expect([status, told.changed, told.added]).toEqual([200, 1, 0]);
  });

  const refused: [what: string, query: string, body: string, status: number, says: RegExp][] = [
    ['a key that is twice in the file', '?key=No', 'No\n1\n1\n', 422, /Lines 2 and 3 have the same No: “1”/],
    ['a blank key', '?key=No', 'No,Thing\n,x\n', 422, /Line 2 has nothing in No/],
    ['a key that is not in the file', '?key=No', 'Thing\nx\n', 422, /no column “No”/],
    ['a key that is no column', '?key=Nope', BEFORE, 422, /no column “Nope”/],
    ['a file that cannot be read', '?key=No', 'No,Thing\n1\n', 422, /Line 2 has 1 cell/],
    ['no file', '?key=No', '', 422, /empty/],
    ['another fate', '?gone=forget', BEFORE, 400, /gone/],
  ];
  for (const [what, query, body, status, says] of refused)
    it(`is refused for ${what}, and changes nothing`, async () => {
      const reply = await refresh(query, body);
      expect([reply[0], reply[1].detail]).toEqual([status, jasmine.stringMatching(says)] as never);
      expect((await running.ask('GET', `${at}`)).body['change']).toBe(1 as never);
    });

  it('is refused for a key that tells no two rows of the table apart', async () => {
    await refresh('', 'No,Thing,Shelf\n1,a,A\n1,b,B\n');
    const [status, { detail }] = await refresh('?key=No', BEFORE);
    expect([status, detail]).toEqual([
      422,
      jasmine.stringMatching(/“1” stands in several rows of Things\. No cannot tell such rows apart/),
    ] as never);
  });

  it('is not undone where a later change stands on it', async () => {
    await refresh('?key=No', 'No,Thing,Shelf\n1,umbrella,B\n');
    await refresh('?key=No', 'No,Thing,Shelf\n1,umbrella,C\n');
    const reply = await running.ask('POST', `${at}/changes/2/undo`);
    expect([reply.status, reply.body['detail']] as unknown).toEqual([
      409,
      '1 of its rows was changed since, by change 3.',
    ]);
    expect((await running.ask('POST', `${at}/changes/1/undo`)).status).toBe(409);
    expect((await running.ask('POST', `${at}/changes/99/undo`)).status).toBe(404);
  });

  it('does as a plain merge does, whatever is in table and file; and its undoing gives all of it back', async () => {
    const table = fc.uniqueArray(fc.tuple(fc.integer({ min: 1, max: 12 }), fc.constantFrom('a', 'b', ' ', '"')), {
      selector: ([key]) => key,
      minLength: 1,
      maxLength: 8,
    });
    const csv = (some: [number, string][]): string =>
      `K,V\n${some.map(([key, value]) => `${key},"${value.replaceAll('"', '""')}"`).join('\n')}\n`;
    await fc.assert(
      fc.asyncProperty(table, table, fc.boolean(), async (before, after, remove) => {
        const { body } = await running.ask('POST', '/api/tables?name=R', csv(before));
        const { id } = body as unknown as TableSummary;
        const all = async (): Promise<string[][]> =>
          ((await running.ask('GET', `/api/tables/${id}/rows`)).body as unknown as RowList).rows.map((row) => [
            ...row.cells,
          ]);
        await running.ask('PUT', `/api/tables/${id}/rows?key=K${remove ? '&gone=remove' : ''}`, csv(after));
        const news = new Map(after.map(([key, value]) => [String(key), value]));
        const kept = before.filter(([key]) => !remove || news.has(String(key)));
        const merged = kept.map(([key, value]) => [String(key), news.get(String(key)) ?? value]);
        for (const [key, value] of after) if (!before.some(([one]) => one === key)) merged.push([String(key), value]);
        expect(await all()).toEqual(merged);
        expect((await running.find(id, '', ['V'])).body['shown']).toBe(merged.length as never);
        const { change } = (await running.ask('GET', `/api/tables/${id}`)).body as unknown as TableSummary;
        if (change === 2) await running.ask('POST', `/api/tables/${id}/changes/2/undo`);
        expect(await all()).toEqual(before.map(([key, value]) => [String(key), value]));
      }),
      { numRuns: 25 },
    );
  });
});

describe('a table', () => {
  it('is renamed and described, by its version; and a column’s kind is changed without losing a cell', async () => {
    const running = await Running.start(false);
    await running.ask('POST', '/api/tables?name=Things', 'A,B\n007,1.5\n012,2\n');
    const change = { name: ' Found things ', description: 'What was found.' };
    expect((await running.ask('PATCH', '/api/tables/1', change)).status).toBe(428);
    const { status, body } = await running.ask('PATCH', '/api/tables/1', change, { 'if-match': '"1"' });
    expect([status, body['name'], body['description']] as unknown).toEqual([200, 'Found things', 'What was found.']);
    expect((await running.ask('PATCH', '/api/tables/1', change, { 'if-match': '"1"' })).status).toBe(412);
    expect((await running.ask('PATCH', '/api/tables/1', { name: ' ' }, { 'if-match': '*' })).status).toBe(400);
    const kind = await running.ask(
      'PATCH',
      '/api/tables/1/columns',
      { name: 'A', kind: 'number' },
      { 'if-match': '*' },
    );
    expect((kind.body['columns'] as unknown as object[])[0]).toEqual({ name: 'A', kind: 'number' });
    expect((await running.find(1, 'a>8', ['A'])).body['matched']).toBe(1 as never);
    await running.ask('PATCH', '/api/tables/1/columns', { name: 'A', kind: 'text' }, { 'if-match': '*' });
    expect((await running.find(1, '007', ['A'])).body['matched']).toBe(1 as never);
    await running.end();
  });
});
