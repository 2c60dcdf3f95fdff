/** Edits that are sent again, keys that are used again, and requests that are refused in the middle of a body. */
import { connect } from 'node:net';
import type { EditDone, TableSummary } from '@usual-needle/contract';
import { askedEdit } from '../dist/data/edits.js';
import { Feed } from '../dist/live/feed.js';
import { Running } from './running.js';
import { EventEmitter } from 'node:events';
import type { ServerResponse } from 'node:http';

describe('an edit that is sent again', () => {
  let running: Running;
  let id: number;
  let keys = 0;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  beforeEach(async () => {
    ({ id } = (await running.ask('POST', '/api/tables?name=T', 'No,Thing\n1,hat\n2,cap\n'))
      .body as unknown as TableSummary);
  });
  const key = (): string => `sent-again-${++keys}`;
  const send = async (
    key: string,
    row: number,
    now: string,
    more: object = {},
  ): Promise<[number, EditDone & { title?: string }]> => {
    const changed = [{ id: row, was: [null], now: [now] }];
    const reply = await running.ask('POST', `/api/tables/${id}/changes`, {
      key,
      kind: 'edited',
      columns: ['Thing'],
      changed,
      ...more,
    });
    return [reply.status, reply.body as unknown as EditDone];
  };
  const things = async (): Promise<string[]> =>
    ((await running.ask('GET', `/api/tables/${id}/rows`)).body['rows'] as { cells: string[] }[]).map(
      ({ cells }) => cells[1],
    );

  it('is told its own number, whatever others did since', async () => {
    const [one, other] = [key(), key()];
    expect((await send(one, 1, 'mine'))[1].change).toBe(2);
    expect((await send(other, 2, 'theirs'))[1].change).toBe(3);
    expect((await send(one, 1, 'mine'))[1].change).toBe(2);
    await running.ask('POST', `/api/tables/${id}/changes/2/undo`, {});
    expect(await things()).toEqual(['hat', 'theirs']);
  });

  it('with a key that was used for other cells, is refused and not dropped in silence', async () => {
    const one = key();
    await send(one, 1, 'mine');
    const [status, { title }] = await send(one, 2, 'lost?');
    expect([status, title]).toEqual([409, 'This key was used before']);
    expect(await things()).toEqual(['mine', 'cap']);
  });

  it('and changed nothing, changes nothing then either', async () => {
    const one = key();
    expect((await send(one, 1, 'hat'))[1].change).toBe(1);
    await send(key(), 1, 'red hat', { changed: [{ id: 1, was: ['hat'], now: ['red hat'] }] });
    expect((await send(one, 1, 'hat'))[1].change).toBe(1);
    expect(await things()).toEqual(['red hat', 'cap']);
  });

  it('is not taken for an undo of the same key', async () => {
    const one = key();
    await send(one, 1, 'mine');
    const undo = (of: string) => running.ask('POST', `/api/tables/${id}/changes/2/undo`, { key: of });
    expect((await undo(one)).status).toBe(409);
    expect(await things()).toEqual(['mine', 'cap']);
    const other = key();
    expect((await undo(other)).body['number'] as unknown).toBe(3);
    expect((await undo(other)).body['number'] as unknown).toBe(3);
    expect(await things()).toEqual(['hat', 'cap']);
  });

  it('names each row once: changed and removed, or changed twice, is refused at the edge', async () => {
    const changed = [{ id: 1, was: [null], now: ['x'] }];
    const both = { changed, removed: [{ id: 1, seen: 1 }] };
    expect((await send(key(), 1, 'x', both))[0]).toBe(422);
    expect((await send(key(), 1, 'x', { changed: [...changed, ...changed] }))[0]).toBe(422);
    expect(() => askedEdit({ key: 'x', kind: 'edited', columns: ['Thing'], ...both } as never)).toThrow();
    const twice = [1, 1].map((row) => ({ id: row, version: 1, cells: ['1', 'y'] }));
    await expectAsync(running.server.data.changes.edit(id, 'edited', twice)).toBeRejected();
    expect(await things()).toEqual(['hat', 'cap']);
  });
});

describe('a sheet that comes back', () => {
  it('is told each change once, though it happens while what was missed is read', async () => {
    const feed = new Feed();
    const written: string[] = [];
    const response = Object.assign(new EventEmitter(), {
      writeHead: () => undefined,
      write: (text: string) => written.push(text),
      end: () => undefined,
      destroy: () => undefined,
      writableLength: 0,
    });
    await feed.open(1, null, response as unknown as ServerResponse, () => {
      feed.tell(1, 'change 2;', 2);
      feed.tell(1, 'change 3;', 3);
      return Promise.resolve([
        { text: 'change 1;', number: 1 },
        { text: 'change 2;', number: 2 },
      ]);
    });
    expect(written.slice(1).join('')).toBe('change 1;change 2;change 3;');
    feed.close();
  });
});

describe('a refusal arrives, whatever of the body is unread', () => {
  let running: Running;
  beforeAll(async () => {
    running = await Running.start(false);
    await running.ask('POST', '/api/tables?name=T', 'A\n1\n');
  });
  afterAll(() => running.end());

  /** Sends bytes over a connection of its own, and says what came back by its end, or after some seconds. */
  const over = (parts: readonly (string | Buffer)[], seconds = 8): Promise<string> =>
    new Promise((done, fail) => {
      const { hostname, port } = new URL(running.server.address);
      const socket = connect(Number(port), hostname);
      let text = '';
      const end = (): void => {
        socket.destroy();
        done(text);
      };
      const timer = setTimeout(end, seconds * 1000);
      socket.on('data', (data) => (text += data.toString()));
      socket.on('end', () => (clearTimeout(timer), end()));
      socket.on('error', (error) => (clearTimeout(timer), text === '' ? fail(error) : end()));
      for (const part of parts) socket.write(part);
    });
  const head = (path: string, length: number, type: string, more = ''): string =>
    `POST ${path} HTTP/1.1\r\nHost: ${new URL(running.server.address).host}\r\nContent-Type: ${type}\r\nContent-Length: ${length}\r\n${more}\r\n`;

  it('of an upload that says it is the last of its connection', async () => {
    const file = Buffer.alloc(3_000_000, 'x');
    const told = await over([head('/api/tables?name=X', file.length, 'image/png', 'Connection: close\r\n'), file]);
    expect(told).toMatch(/^HTTP\/1.1 415 /);
    expect(told).toContain('The file is in a form that is not taken here');
  });

  it('of one request after another on a kept connection', async () => {
    const bytes = Buffer.alloc(100_000, 0xff);
    const brackets = '['.repeat(200_000);
    for (let i = 0; i < 3; i++) {
      const before = performance.now();
      const told = await over(
        [
          head('/api/tables?name=X', bytes.length, 'application/json'),
          bytes,
          head('/api/tables?name=Y', brackets.length, 'application/json', 'Connection: close\r\n'),
          brackets,
        ],
        20,
      );
      expect(told.match(/HTTP\/1.1 \d+/g)).toEqual(['HTTP/1.1 422', 'HTTP/1.1 422']);
      expect(performance.now() - before).toBeLessThan(20_000);
    }
  });

  it('and a path may end in a slash, and be written in capitals, without its body being eaten', async () => {
    const put = (path: string) => running.ask('PUT', path, 'A\n2\n', { 'content-type': 'text/csv' });
    expect((await put('/api/tables/1/rows/?key=A')).body['added'] as unknown).toBe(1);
    expect((await put('/API/Tables/1/ROWS?key=A')).status).toBe(200);
    expect((await running.ask('POST', '/API/TABLES?name=Z', 'A\n2\n')).status).toBe(201);
    const foreign = { host: new URL(running.server.address).host, 'sec-fetch-site': 'cross-site' };
    expect((await running.raw('GET', '/API/tables', foreign))[0]).toBe(403);
  });

  it('HEAD of the events ends, and a kept connection outlives the rest of usual proxies', async () => {
    expect((await running.raw('HEAD', '/api/tables/1/events', {}))[0]).toBe(200);
    expect((await fetch(`${running.server.address}/api/health`)).headers.get('keep-alive')).toBe('timeout=75');
  });
});
