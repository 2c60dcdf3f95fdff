import { EventEmitter } from 'node:events';
import type { ServerResponse } from 'node:http';
import type { ChangeList, ChangeNews, Clash, EditDone, RowHistory, TableSummary } from '@usual-needle/contract';
import { Feed } from '../dist/live/feed.js';
import { Running } from './running.js';

const ROWS = 'No,Thing,Status\n1,umbrella,Held\n2,hat,Held\n3,glove,Held\n';
let keys = 0;
const key = (): string => `test-key-${++keys}`;

/** Events as one sheet gets them. */
class Events {
  private text = '';
  private readonly cancel = new AbortController();
  readonly got: { event: string; id?: number; data: unknown }[] = [];

  static async open(address: string, path: string, headers: Record<string, string> = {}): Promise<Events> {
    const events = new Events();
    const response = await fetch(address + path, { headers, signal: events.cancel.signal });
    expect(response.headers.get('content-type')).toContain('text/event-stream');
    void events.read(response.body!.getReader());
    return events;
  }

  private async read(reader: ReadableStreamDefaultReader<Uint8Array>): Promise<void> {
    const decoder = new TextDecoder();
    try {
      for (;;) {
        const { done, value } = await reader.read();
        if (done) return;
        this.text += decoder.decode(value, { stream: true });
        for (let end = this.text.indexOf('\n\n'); end >= 0; end = this.text.indexOf('\n\n')) {
          const [block] = [this.text.slice(0, end)];
          this.text = this.text.slice(end + 2);
          const of = (name: string): string | undefined => new RegExp(`^${name}: (.*)$`, 'm').exec(block)?.[1];
          const event = of('event');
          if (event)
            this.got.push({ event, id: of('id') ? Number(of('id')) : undefined, data: JSON.parse(of('data')!) });
        }
      }
    } catch {
      // Closed by the test.
    }
  }

  news(): ChangeNews[] {
    return this.got.filter(({ event }) => event === 'change').map(({ data }) => data as ChangeNews);
  }

  async until(what: () => boolean): Promise<void> {
    for (let i = 0; i < 200 && !what(); i++) await new Promise((wait) => setTimeout(wait, 25));
    expect(what()).withContext(JSON.stringify(this.got)).toBe(true);
  }

  close(): void {
    this.cancel.abort();
  }
}

describe('rows are edited', () => {
  let running: Running;
  let id: number;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  beforeEach(async () => {
    const { body } = await running.ask('POST', '/api/tables?name=Edited', ROWS);
    ({ id } = body as unknown as TableSummary);
  });
  const send = (request: object) => running.ask('POST', `/api/tables/${id}/changes`, { key: key(), ...request });
  const cells = async (): Promise<string[]> =>
    ((await running.ask('GET', `/api/tables/${id}/rows`)).body['rows'] as { cells: string[] }[]).map((row) =>
      row.cells.join(),
    );
  const one = (row: number, column: string, was: string, now: string, more: object = {}) =>
    send({ kind: 'edited', columns: [column], changed: [{ id: row, was: [was], now: [now] }], ...more });

  it('cell by cell, in one change, which is searched at once', async () => {
    const { status, body } = await one(1, 'Status', 'Held', 'Returned', { who: 'T. Kessel' });
    expect([status, body['change']] as unknown[]).toEqual([200, 2]);
    expect(await cells()).toEqual(['1,umbrella,Returned', '2,hat,Held', '3,glove,Held']);
    expect((await running.find(id, 'returned', ['Status'])).body['matched']).toBe(1 as never);
  });

  it('adds rows, whose other cells are blank, and removes some, in one change', async () => {
    const request = { kind: 'pasted', columns: ['Thing'], added: [['key'], ['scarf']], removed: [{ id: 2, seen: 1 }] };
    const { body } = await send(request);
    expect((body as unknown as EditDone).added).toEqual([4, 5]);
    expect(await cells()).toEqual(['1,umbrella,Held', '3,glove,Held', ',key,', ',scarf,']);
  });

  it('does what is asked twice once', async () => {
    const request = { key: key(), kind: 'added', columns: ['No'], added: [['4']] };
    const path = `/api/tables/${id}/changes`;
    const both = await Promise.all([running.ask('POST', path, request), running.ask('POST', path, request)]);
    expect(both.map(({ body }) => body['change'] as number)).toEqual([2, 2]);
    expect(both.map(({ body }) => body['added'] as number[])).toEqual([[4], [4]]);
    expect(await cells()).toHaveSize(4);
  });

  it('two people in different cells of one row do not clash', async () => {
    expect((await one(1, 'Status', 'Held', 'Returned')).status).toBe(200);
    expect((await one(1, 'Thing', 'umbrella', 'parasol')).status).toBe(200);
    expect((await cells())[0]).toBe('1,parasol,Returned');
  });

  it('in one cell they do: the three values, who, and when; nothing is written', async () => {
    await one(1, 'Status', 'Held', 'Given to charity', { who: 'T. Kessel' });
    const columns = ['Status', 'Thing'];
    const reply = await send({
      kind: 'edited',
      columns,
      changed: [{ id: 1, was: ['Held', 'umbrella'], now: ['Returned', 'x'] }],
    });
    expect(reply.status).toBe(409);
    const [clash] = reply.body['clashes'] as Clash[];
    expect(clash).toEqual(
      jasmine.objectContaining({
        id: 1,
        column: 'Status',
        was: 'Held',
        theirs: 'Given to charity',
        yours: 'Returned',
        who: 'T. Kessel',
      }),
    );
    expect(Date.parse(clash.at!)).toBeGreaterThan(Date.now() - 60_000);
    expect((await cells())[0]).toBe('1,umbrella,Given to charity');
    // Both wrote the same: there is nothing to choose.
    expect((await one(1, 'Status', 'Held', 'Given to charity')).status).toBe(200);
  });

  it('a row that was changed since it was seen is not removed, one that has gone is not edited', async () => {
    await one(1, 'Status', 'Held', 'Returned');
    const remove = (row: number, seen: number) => send({ kind: 'removed', columns: [], removed: [{ id: row, seen }] });
    expect((await remove(1, 1)).status).toBe(409);
    expect((await remove(1, 2)).status).toBe(200);
    const reply = await one(1, 'Status', 'Returned', 'Held');
    expect([reply.status, (reply.body['clashes'] as Clash[])[0].theirs] as unknown[]).toEqual([409, null]);
    expect((await remove(1, 2)).status)
      .withContext('removed by both')
      .toBe(200);
  });

  it('undoes cell by cell: what was done elsewhere in the row since stays', async () => {
    await one(1, 'Status', 'Held', 'Returned');
    await one(1, 'Thing', 'umbrella', 'parasol');
    const undo = (number: number, more: object = {}) =>
      running.ask('POST', `/api/tables/${id}/changes/${number}/undo`, more);
    expect((await undo(2, { who: 'M. Lind' })).status).toBe(200);
    expect((await cells())[0]).toBe('1,parasol,Held');
    // And undoes the undoing, which is a change like any other.
    expect((await undo(4)).body['undoes']).toBe(4 as never);
    expect((await cells())[0]).toBe('1,parasol,Returned');
  });

  it('refuses to undo what later changes stand on, with the reason, and undoes what can be if asked', async () => {
    const changed = [1, 2, 3].map((row) => ({ id: row, was: ['Held'], now: ['Sold'] }));
    await send({ kind: 'filled', columns: ['Status'], changed });
    await one(2, 'Status', 'Sold', 'Returned');
    const undo = (more: object) => running.ask('POST', `/api/tables/${id}/changes/2/undo`, more);
    const { status, body } = await undo({});
    expect([status, body['detail'], body['part']] as unknown[]).toEqual([
      409,
      '1 of its rows was changed since, by change 3.',
      true,
    ]);
    expect((await undo({ part: true })).status).toBe(200);
    expect(await cells()).toEqual(['1,umbrella,Held', '2,hat,Returned', '3,glove,Held']);
  });

  it('brings a removed row back to its place, where a late edit of before still clashes', async () => {
    await send({ kind: 'removed', columns: [], removed: [{ id: 2, seen: 1 }] });
    await running.ask('POST', `/api/tables/${id}/changes/2/undo`);
    expect((await cells())[1]).toBe('2,hat,Held');
    expect((await send({ kind: 'removed', columns: [], removed: [{ id: 2, seen: 1 }] })).status).toBe(409);
  });

  it('keeps the history of the table and of one row', async () => {
    await one(1, 'Status', 'Held', 'Returned', { who: 'T. Kessel' });
    await one(2, 'Status', 'Held', 'Sold');
    const list = (await running.ask('GET', `/api/tables/${id}/changes?brief=true&limit=2`))
      .body as unknown as ChangeList;
    expect(list.changes.map(({ number, kind, counts }) => [number, kind, counts?.columns])).toEqual([
      [3, 'edited', ['Status']],
      [2, 'edited', ['Status']],
    ]);
    const { entries } = (await running.ask('GET', `/api/tables/${id}/rows/1/history`)).body as unknown as RowHistory;
    expect(entries.map(({ number, who, before, after }) => [number, who, before?.[2], after?.[2]])).toEqual([
      [2, 'T. Kessel', 'Held', 'Returned'],
    ]);
  });

  const BAD: [what: string, request: object, status: number][] = [
    ['no key', { key: undefined, kind: 'edited', columns: [] }, 400],
    ['a kind that is none', { kind: 'brought in', columns: [] }, 400],
    ['a column that is none', { kind: 'added', columns: ['Nope'], added: [['x']] }, 422],
    ['a column twice', { kind: 'added', columns: ['No', 'No'], added: [['x', 'y']] }, 422],
    [
      'a row twice',
      { kind: 'edited', columns: ['No'], changed: [1, 1].map((row) => ({ id: row, was: ['1'], now: ['2'] })) },
      422,
    ],
    ['more cells than columns', { kind: 'added', columns: ['No'], added: [['x', 'y']] }, 422],
    ['a NUL', { kind: 'added', columns: ['No'], added: [['a\0b']] }, 422],
    ['a cell that is too long', { kind: 'added', columns: ['No'], added: [['x'.repeat(100_001)]] }, 400],
    ['an id that is none', { kind: 'edited', columns: ['No'], changed: [{ id: 0.5, was: [''], now: [''] }] }, 400],
    ['a name of spaces', { kind: 'added', columns: ['No'], added: [['x']], who: '  ' }, 400],
  ];
  for (const [what, request, status] of BAD)
    it(`refuses ${what}, in words, and writes nothing`, async () => {
      const reply = await send(request);
      expect([reply.status, reply.type])
        .withContext(JSON.stringify(reply.body))
        .toEqual([status, 'application/problem+json']);
      expect(await cells()).toHaveSize(3);
    });

  const HOSTILE: [what: string, body: unknown, status: number][] = [
    ['null', null, 400],
    ['a list', [], 400],
    ['a name as a column', { kind: 'added', columns: 'No', added: [['x']] }, 400],
    ['60,000 wrong items', { kind: 'edited', columns: ['No'], changed: Array<number>(60_000).fill(7) }, 400],
    ['more rows than one edit takes', { kind: 'added', columns: ['No'], added: Array(20_001).fill(['x']) }, 400],
    ['a half letter', { kind: 'added', columns: ['No'], added: [['\ud800']] }, 422],
    ['deep nesting', { kind: 'added', columns: ['No'], added: [[[[['x']]]]] }, 400],
    ['a column called __proto__', { kind: 'added', columns: ['__proto__'], added: [['x']] }, 422],
  ];
  for (const [what, body, status] of HOSTILE)
    it(`answers ${what} with a sentence, soon, and writes nothing`, async () => {
      const request = body && !Array.isArray(body) ? { key: key(), ...(body as object) } : body;
      const reply = await running.ask('POST', `/api/tables/${id}/changes`, request);
      expect([reply.status, reply.type]).toEqual([status, 'application/problem+json']);
      expect(JSON.stringify(reply.body).length).toBeLessThan(1_000);
      expect(await cells()).toHaveSize(3);
    });

  it('keeps any text that can be kept as it is, whatever it looks like', async () => {
    const texts = ['<b>x</b>', 'a\r\nb\rc', '\u202Eright', 'e\u0301', '\ufeffx', '__proto__', '=1+1', '𝔘'];
    await send({ kind: 'pasted', columns: ['Thing'], added: texts.map((text) => [text]) });
    const { body } = await running.ask('GET', `/api/tables/${id}/rows?after=3`);
    expect((body['rows'] as { cells: string[] }[]).map((row) => row.cells[1])).toEqual(texts);
  });

  for (const query of ['after=-1', 'after=x', 'after=99999999999', `who=${'x'.repeat(61)}`, 'who=%20', 'nope=1'])
    it(`opens no stream for ${query.slice(0, 30)}`, async () => {
      expect((await running.ask('GET', `/api/tables/${id}/events?${query}`)).status).toBe(400);
    });

  it('is told in one event each, whatever a name holds, and whatever the last event is said to be', async () => {
    const path = `/api/tables/${id}/events`;
    const events = await Events.open(running.server.address, path, { 'last-event-id': 'nonsense' });
    await one(1, 'Status', 'Held', 'Returned', { who: 'T.\n\nevent: gone\ndata: {} <b>' });
    await events.until(() => events.news().length === 1);
    expect(events.news()[0].who).toBe('T.\n\nevent: gone\ndata: {} <b>');
    expect(events.got.map(({ event }) => event)).not.toContain('gone');
    events.close();
  });

  it('a sheet that never reads is let go, and the others are told all the same', () => {
    const written: string[] = [];
    const response = (unread: number): ServerResponse & { gone: boolean } =>
      Object.assign(new EventEmitter(), {
        gone: false,
        writableLength: unread,
        writeHead: () => undefined,
        write: (text: string) => written.push(text),
        end: () => undefined,
        destroy(this: { gone: boolean }) {
          this.gone = true;
        },
      }) as unknown as ServerResponse & { gone: boolean };
    const feed = new Feed();
    const [stuck, reads] = [response(10_000_000), response(0)];
    return Promise.all([stuck, reads].map((one) => feed.open(1, null, one, () => Promise.resolve([])))).then(() => {
      feed.tell(1, 'told');
      expect([stuck.gone, reads.gone, written.filter((text) => text === 'told').length]).toEqual([true, false, 1]);
      feed.close();
    });
  });

  it('takes a paste of 10,000 cells as one change, and refuses what is too large', async () => {
    const added = Array.from({ length: 5_000 }, (_, i) => [`thing ${i}`, 'Held']);
    expect((await send({ kind: 'pasted', columns: ['Thing', 'Status'], added })).body['change']).toBe(2 as never);
    const huge = Array.from({ length: 60 }, () => ['x'.repeat(90_000)]);
    expect((await send({ kind: 'pasted', columns: ['Thing'], added: huge })).status).toBe(413);
    expect((await running.find(id, 'thing', ['Thing'])).body['matched']).toBe(5_000 as never);
  });

  it('is told as it happens, with numbers; a reconnect catches up', async () => {
    const { address } = running.server;
    const events = await Events.open(address, `/api/tables/${id}/events?who=M.%20Lind`);
    const other = await Events.open(address, `/api/tables/${id}/events`);
    await events.until(() => JSON.stringify(events.got.at(-1)?.data).includes('"count":2'));
    await one(1, 'Status', 'Held', 'Returned', { who: 'T. Kessel' });
    await send({ kind: 'added', columns: ['No'], added: [['4']] });
    await events.until(() => events.news().length === 2);
    expect(events.news().map(({ number, who, added, changed }) => [number, who, added, changed])).toEqual([
      [2, 'T. Kessel', [], [1]],
      [3, null, [4], []],
    ]);
    other.close();
    await events.until(() => JSON.stringify(events.got.at(-1)?.data).includes('"count":1'));
    const back = await Events.open(address, `/api/tables/${id}/events`, { 'last-event-id': '2' });
    await back.until(() => back.news().length === 1);
    expect(back.news().map(({ number }) => number)).toEqual([3]);
    const late = await Events.open(address, `/api/tables/${id}/events?after=1`);
    await late.until(() => late.news().length === 2);
    for (const one of [events, back, late]) one.close();
  });

  it('shows nobody as here who has left, whenever that was, while columns change', async () => {
    const { address } = running.server;
    interface Present {
      readonly who: readonly { readonly name: string | null }[];
      readonly count: number;
    }
    const stays = await Events.open(address, `/api/tables/${id}/events?who=M.%20Lind`);
    const here = (): Present | undefined =>
      stays.got.filter(({ event }) => event === 'present').at(-1)?.data as Present | undefined;
    await stays.until(() => here()?.count === 1);
    const leaving: Promise<void>[] = [];
    for (let i = 0; i < 24; i++) {
      // Some leave before they are answered, some while they are told what they missed, some once they are here.
      const cancel = new AbortController();
      const path = `/api/tables/${id}/events?who=Guest%20${i}&after=${i % 2}`;
      const left = fetch(address + path, { signal: cancel.signal }).then(
        (response) => response.text().then(undefined, () => undefined),
        () => undefined,
      );
      setTimeout(() => cancel.abort(), (i % 8) * 10);
      leaving.push(left.then(() => undefined));
      const arranged = await running.ask(
        'POST',
        `/api/tables/${id}/columns`,
        { add: { name: `Remark ${i}`, kind: 'text' } },
        { 'if-match': '*' },
      );
      expect(arranged.status).toBe(200);
    }
    const other = await Events.open(address, `/api/tables/${id}/events?who=T.%20Kessel`);
    await Promise.all(leaving);
    const told = (): string =>
      `${here()?.count}: ${here()
        ?.who.map(({ name }) => name)
        .join(', ')}`;
    await stays.until(() => told() === '2: M. Lind, T. Kessel');
    await running.ask(
      'POST',
      `/api/tables/${id}/columns`,
      { add: { name: 'Last', kind: 'text' } },
      { 'if-match': '*' },
    );
    other.close();
    await stays.until(() => told() === '1: M. Lind');
    stays.close();
  });

  it('tells of no table that is not there, and of one that is deleted', async () => {
    expect((await running.ask('GET', '/api/tables/999/events')).status).toBe(404);
    const events = await Events.open(running.server.address, `/api/tables/${id}/events`);
    await running.ask('DELETE', `/api/tables/${id}`);
    await events.until(() => events.got.some(({ event }) => event === 'gone'));
    events.close();
  });
});
