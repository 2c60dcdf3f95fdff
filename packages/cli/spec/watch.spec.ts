import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { COMMAND, serve, type Serving } from './serving.js';

const JSON_TYPE = { 'content-type': 'application/json' };

describe('usual-needle watch', () => {
  const folder = mkdtempSync(join(tmpdir(), 'usual-needle-watch-'));
  let server: Serving;
  let keys = 0;

  const change = (request: object): Promise<Response> =>
    fetch(`${server.address}/api/tables/1/changes`, {
      method: 'POST',
      headers: JSON_TYPE,
      body: JSON.stringify({ key: `watch-key-${++keys}`, ...request }),
    });
  const edit = (id: number, column: string, was: string, now: string): Promise<Response> =>
    change({ kind: 'edited', columns: [column], changed: [{ id, was: [was], now: [now] }] });

  beforeAll(async () => {
    server = await serve(join(folder, 'data'));
    const headers = { 'content-type': 'text/csv' };
    const body = 'No,Thing,Status\n1,umbrella,Held\n2,hat,Held\n3,umbrella,Sold\n';
    await fetch(`${server.address}/api/tables?name=Watched`, { method: 'POST', headers, body });
    const box = {
      format: 'usual-needle box',
      version: 1,
      name: 'Umbrellas held',
      threaded: ['Thing'],
      strands: [{ verb: 'find', text: 'umbr' }],
      pickers: [{ column: 'Status', values: ['Held'] }],
      columns: [{ name: 'No' }, { name: 'Thing' }],
    };
    await fetch(`${server.address}/api/tables/1/boxes`, {
      method: 'POST',
      headers: JSON_TYPE,
      body: JSON.stringify({ box }),
    });
  }, 60_000);
  afterAll(async () => {
    await server.end();
    rmSync(folder, { recursive: true, force: true });
  });

  function watching(args: readonly string[]): {
    child: ChildProcess;
    ready: Promise<unknown>;
    out: () => string[];
    ended: Promise<number | null>;
    err: () => string;
  } {
    const child = spawn(process.execPath, [COMMAND, 'watch', ...args, '--server', server.address], {
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let [out, err] = ['', ''];
    child.stdout.on('data', (data: Buffer) => (out += data.toString()));
    child.stderr.on('data', (data: Buffer) => (err += data.toString()));
    const ready = (async () => {
      for (let i = 0; i < 200 && err === ''; i++) await new Promise((wait) => setTimeout(wait, 50));
    })();
    const ended = once(child, 'exit').then(([code]) => code as number | null);
    return { child, ready, ended, err: () => err, out: () => out.split('\n').filter(Boolean) };
  }

  it('writes rows as they begin to match, once, and goes on after the server was away', async () => {
    const { ready, ended, out } = watching(['Umbrellas held', '--count', '4']);
    await ready;
    await edit(3, 'Status', 'Sold', 'Held');
    // It matches already: nothing begins.
    await edit(1, 'Thing', 'umbrella', 'umbrella, black');
    await edit(2, 'No', '2', '2b');
    await change({
      kind: 'added',
      columns: ['No', 'Thing', 'Status'],
      added: [
        ['4', 'umbrella', 'Held'],
        ['5', 'umbrella', 'Sold'],
      ],
    });
    const { port } = new URL(server.address);
    await server.end();
    server = await serve(join(folder, 'data'), port);
    await edit(2, 'Thing', 'hat', 'umbrella hat');
    await edit(1, 'Status', 'Held', 'Sold');
    await edit(1, 'Status', 'Sold', 'Held');
    expect(await ended).toBe(0);
    expect(out().map((line) => JSON.parse(line) as unknown)).toEqual([
      { No: '3', Thing: 'umbrella' },
      { No: '4', Thing: 'umbrella' },
      { No: '2b', Thing: 'umbrella hat' },
      { No: '1', Thing: 'umbrella, black' },
    ]);
  }, 60_000);

  it('takes another text and other columns, and ends when it is stopped', async () => {
    const { child, ready, ended, out } = watching(['1', 'glove', '--show', 'Thing']);
    await ready;
    await change({
      kind: 'added',
      columns: ['Thing', 'Status'],
      added: [
        ['glove', 'Held'],
        ['umbrella', 'Held'],
      ],
    });
    for (let i = 0; i < 200 && out().length === 0; i++) await new Promise((wait) => setTimeout(wait, 50));
    child.kill('SIGINT');
    expect(await ended).toBe(0);
    expect(out()).toEqual(['{"Thing":"glove"}']);
  }, 60_000);

  it('says what cannot be watched', async () => {
    for (const [args, says] of [
      [['Nope'], 'There is no box “Nope”.'],
      [['1', '--show', 'Nope'], 'There is no column “Nope”'],
      [['1', '--count', 'x'], '--count wants a whole number'],
    ] as const) {
      const { child, ended } = watching(args);
      let err = '';
      child.stderr!.on('data', (data: Buffer) => (err += data.toString()));
      expect(await ended).toBe(2);
      expect(err).toContain(says);
    }
  }, 60_000);

  it('writes rows that begin to match by what another table lends', async () => {
    const post = (path: string, type: string, body: string, more: Record<string, string> = {}): Promise<Response> =>
      fetch(server.address + path, { method: 'POST', headers: { 'content-type': type, ...more }, body });
    const ids = Array.from({ length: 1_200 }, (_, i) => `${i},glove ${i % 3}`);
    const borrower = (await (
      await post('/api/tables?name=Borrower', 'text/csv', `No,Thing\n${ids.join('\n')}\n`)
    ).json()) as { id: number };
    const lent = 'Name,Town\nglove 0,Oakham\nglove 1,Thornby\nglove 2,Oakham\n';
    const lender = (await (await post('/api/tables?name=Lender', 'text/csv', lent)).json()) as { id: number };
    const borrow = { table: lender.id, key: 'Thing', matches: 'Name', columns: [{ column: 'Town' }] };
    const columns = `/api/tables/${borrower.id}/columns`;
    await post(columns, 'application/json', JSON.stringify({ borrow }), { 'if-match': '*' });
    const box = {
      format: 'usual-needle box',
      version: 1,
      name: 'By town',
      threaded: ['Town'],
      strands: [{ verb: 'find', text: 'oakham' }],
      columns: [{ name: 'No' }, { name: 'Town' }],
    };
    await post(`/api/tables/${borrower.id}/boxes`, 'application/json', JSON.stringify({ box }));
    const { ready, ended, out } = watching(['By town', '--count', '403']);
    await ready;
    const changed = (table: number, request: object): Promise<Response> =>
      post(`/api/tables/${table}/changes`, 'application/json', JSON.stringify(request));
    // One by its own cell, then all of one name by the lender's, and one that stood there before by neither.
    await changed(borrower.id, {
      key: 'watch-borrowed-1',
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: 2, was: ['glove 1'], now: ['glove 0'] }],
    });
    await changed(lender.id, {
      key: 'watch-borrowed-2',
      kind: 'edited',
      columns: ['Town'],
      changed: [{ id: 2, was: ['Thornby'], now: ['Oakham Vale'] }],
    });
    for (let i = 0; i < 200 && out().length < 400; i++) await new Promise((wait) => setTimeout(wait, 50));
    await changed(borrower.id, {
      key: 'watch-borrowed-3',
      kind: 'added',
      columns: ['No', 'Thing'],
      added: ['a', 'b', 'c'].map((no) => [no, 'glove 0']),
    });
    expect(await ended).toBe(0);
    const rows = out().map((line) => JSON.parse(line) as { No: string; Town: string });
    expect(rows[0]).toEqual({ No: '1', Town: 'Oakham' });
    // The lender may have changed while the rows were asked for window by window: then the later ones are told first.
    const numbers = rows.slice(1, 400).map(({ No }) => Number(No));
    expect(numbers.sort((a, b) => a - b)).toEqual(Array.from({ length: 399 }, (_, i) => 3 * i + 4));
    expect(rows.slice(1, 400).every(({ Town }) => Town === 'Oakham Vale')).toBeTrue();
    expect(rows.slice(400)).toEqual(['a', 'b', 'c'].map((No) => ({ No, Town: 'Oakham' })));
  }, 60_000);
});
