import { readAnswer } from '../dist/routes/outcomes.js';
import { answerIn } from '@usual-needle/host';
import { WHOLE_SCOPE, type Column, type Lenders, type SearchAnswer, type TableSummary } from '@usual-needle/contract';
import { WebSocket } from 'ws';
import { Running } from './running.js';

const ROWS = 12_000;
/** Found things, every one with a stop of its own. */
const THINGS = `No,Thing,Found at\n${Array.from({ length: ROWS }, (_, i) => `${i},umbrella ${i},Stop ${i}`).join('\n')}\n`;
const STOPS = `Name,Town\n${Array.from({ length: ROWS }, (_, i) => `stop ${i},Town ${i % 100}`).join('\n')}\n`;

describe('tables over several search threads', () => {
  let running: Running;
  let things: number;
  let stops: number;
  let keys = 0;
  const pairing = () => ({ table: stops, key: 'Found at', matches: 'Name' });
  const borrow = (table = stops) =>
    running.ask(
      'POST',
      `/api/tables/${things}/columns`,
      { borrow: { ...pairing(), table, columns: [{ column: 'Town' }] } },
      { 'if-match': '*' },
    );
  const broughtIn = async (name: string, csv: string): Promise<number> =>
    ((await running.ask('POST', `/api/tables?name=${name}`, csv)).body as unknown as TableSummary).id;
  const matched = async (id: number, text: string, threaded: readonly string[]): Promise<number | undefined> =>
    ((await running.find(id, text, threaded)).body as unknown as SearchAnswer).matched;
  const towns = (text: string) => matched(things, text, ['Town']);
  const edit = (id: number, column: string, row: number, now: string) =>
    running.ask('POST', `/api/tables/${id}/changes`, {
      key: `several-threads-${keys++}`,
      kind: 'edited',
      columns: [column],
      changed: [{ id: row, was: [null], now: [now] }],
    });
  const columnsOf = (id: number): string[] => (id === stops ? ['Name', 'Town'] : ['No', 'Thing', 'Found at']);
  const threadsOf = (id: number): number[] => running.server.threads.threadsOf(id);
  /** Stops that are not at home with the things. */
  const elsewhere = async (): Promise<number> => {
    const id = await broughtIn('Other stops', STOPS);
    if (threadsOf(id)[0] === 1) return id;
    const other = await elsewhere();
    await running.ask('DELETE', `/api/tables/${id}`);
    return other;
  };
  const ready = async (): Promise<void> => {
    while ((await running.ask('GET', '/api/health')).body['status'] !== 'ready')
      await new Promise((done) => setTimeout(done, 50));
  };
  const again = async (): Promise<void> => {
    await running.stop();
    running = await Running.start(false, running.folder, { searchThreads: 2 });
  };

  beforeAll(async () => {
    running = await Running.start(false, undefined, { searchThreads: 2 });
    things = await broughtIn('Things', THINGS);
    stops = await broughtIn('Stops', STOPS);
  });
  afterAll(() => running.end());
  /** Nothing is borrowed, and every stop is as it was. */
  afterEach(async () => {
    const removed = { name: 'Town', removed: true };
    await running.ask('PATCH', `/api/tables/${things}/columns`, removed, { 'if-match': '*' });
    await edit(stops, 'Town', 18, 'Town 17');
  });

  it('have homes of their own, and answer one message together', async () => {
    expect([threadsOf(things), threadsOf(stops)]).toEqual([[0], [1]]);
    const socket = new WebSocket(`${running.server.address.replace('http', 'ws')}/api/standing`, {
      origin: running.server.address,
    });
    await new Promise((opened) => socket.on('open', opened));
    const asked = [things, stops, things, 9_999].map((table, id) => ({
      id,
      table,
      request: {
        question: { threaded: columnsOf(table), strands: [{ verb: 'find', text: `${17 + id}` }] },
        brief: true,
        session: `${id}`,
        turn: 1,
      },
    }));
    const answers = new Map<number, string>();
    socket.send(JSON.stringify(asked));
    await new Promise<void>((done) =>
      socket.on('message', (data) => {
        for (const line of (data as Buffer).toString().split('\n')) {
          const [id, status] = line.split(' ');
          const { matched: count } = JSON.parse(line.slice(line.indexOf('{'))) as { matched?: number };
          answers.set(Number(id), `${status} ${count}`);
        }
        if (answers.size === asked.length) done();
      }),
    );
    socket.close();
    expect([...answers].sort().map(([, said]) => said)).toEqual([
      `200 ${await matched(things, '17', columnsOf(things))}`,
      `200 ${await matched(stops, '18', columnsOf(stops))}`,
      `200 ${await matched(things, '19', columnsOf(things))}`,
      '404 undefined',
    ]);
  });

  it('are compared across threads, and keep no copy that nobody borrows from once others are', async () => {
    const lenders = (await running.ask('GET', `/api/tables/${things}/lenders`)).body as unknown as Lenders;
    expect(lenders.pairings).toEqual([{ ...pairing(), share: 1 }]);
    const counts = await running.ask('POST', `/api/tables/${things}/pairing`, pairing());
    expect(counts.body as object).toEqual({ rows: ROWS, found: ROWS, twice: 0 });
    expect(threadsOf(stops)).toEqual([1, 0]);
    const others = [await elsewhere(), await elsewhere()];
    for (const table of others) await running.ask('POST', `/api/tables/${things}/pairing`, { ...pairing(), table });
    expect([stops, ...others].map(threadsOf)).toEqual([[1], [1, 0], [1, 0]]);
    for (const id of others) await running.ask('DELETE', `/api/tables/${id}`);
    expect(others.map(threadsOf)).toEqual([[], []]);
    expect(await matched(stops, '"town 99"', ['Town'])).toBe(ROWS / 100);
  });

  it('borrow across threads: from a copy that follows, for as long as they borrow', async () => {
    expect((await borrow()).status).toBe(200);
    expect(threadsOf(stops)).toEqual([1, 0]);
    expect(await towns('"town 99"')).toBe(ROWS / 100);
    await edit(stops, 'Town', 18, 'Brookfield');
    expect([await towns('brookfield'), await matched(stops, 'brookfield', ['Town'])]).toEqual([1, 1]);
    const columns = ((await running.ask('GET', `/api/tables/${things}`)).body as unknown as { columns: Column[] })
      .columns;
    expect(columns.at(-1)!.borrows!.table).toBe(stops);
    const removed = { name: 'Town', removed: true };
    await running.ask('PATCH', `/api/tables/${things}/columns`, removed, { 'if-match': '*' });
    expect(threadsOf(stops)).toEqual([1]);
  });

  it('get another thread where they are asked more than one can answer, and answer the same there', async () => {
    const id = await elsewhere();
    let asked = 0;
    // Past all that stands before it, and by patterns that each value is read for, so that it is the search thread that does not keep up.
    const one = async (text: string): Promise<number> => {
      const strands = [{ verb: 'find' as const, text: `${text} -/[a-z]+ .?.?q${asked}/ -/[a-z].+z${asked++}/` }];
      const request = { question: { threaded: ['Name', 'Town'], strands }, limit: 500 };
      const outcome = await running.server.threads.questions.search(WHOLE_SCOPE, id, request);
      return readAnswer(answerIn(outcome)).matched;
    };
    const several = (count: number, text: string): Promise<number[]> =>
      Promise.all(Array.from({ length: count }, () => one(text)));
    while (threadsOf(id).length < 2) await several(80, '"town 99"');
    while (!running.server.threads.isWhole(id)) await several(1, '99');
    expect(await several(80, '"town 99"')).toEqual(Array(80).fill(ROWS / 100));
    await edit(id, 'Town', 18, 'Brookfield');
    expect(await several(80, 'brookfield')).toEqual(Array(80).fill(1));
    expect(threadsOf(id)).toEqual([1, 0]);
    await running.ask('DELETE', `/api/tables/${id}`);
  });

  it('lend nothing while they are deleted, and again once they are back', async () => {
    const other = await elsewhere();
    await borrow(other);
    expect(threadsOf(other)).toEqual([1, 0]);
    await running.ask('DELETE', `/api/tables/${other}`);
    expect(threadsOf(other)).toEqual([]);
    expect(await towns('"town 99"')).toBe(0);
    await running.ask('POST', `/api/tables/${other}/restore`);
    expect(await towns('"town 99"')).toBe(ROWS / 100);
    await running.ask('DELETE', `/api/tables/${other}`);
  });

  it('come back from their packs, what they borrow with them', async () => {
    await borrow();
    await running.server.threads.pack();
    await edit(stops, 'Town', 18, 'Brookfield');
    await again();
    expect([things, stops].map((id) => running.server.threads.takenFromPacks.has(id))).toEqual([true, true]);
    expect([await towns('"town 99"'), await towns('brookfield')]).toEqual([ROWS / 100, 1]);
  });

  it('all come back where all threads end at once', async () => {
    await borrow();
    await Promise.all([things, stops].map((id) => running.server.threads.endThread(id)));
    expect((await running.find(things, '17', [])).status).toBe(503);
    await ready();
    expect([await towns('"town 99"'), await matched(stops, '"town 99"', ['Town'])]).toEqual([ROWS / 100, ROWS / 100]);
  });

  it('are asked at home where a copy is put away while a question waits for it', async () => {
    const id = await elsewhere();
    await running.ask('POST', `/api/tables/${things}/pairing`, { ...pairing(), table: id });
    expect(threadsOf(id)).toEqual([1, 0]);
    const { questions } = running.server.threads;
    const copy = questions['tables'].homeOf(things)!;
    spyOn(questions['tables'], 'threadOf').and.returnValue(copy);
    await copy.host.drop(id);
    const request = { question: { threaded: ['Town'], strands: [{ verb: 'find' as const, text: '"town 99"' }] } };
    expect(readAnswer(answerIn(await questions.search(WHOLE_SCOPE, id, request)))).toEqual(
      jasmine.objectContaining({ matched: ROWS / 100 }),
    );
    await running.ask('DELETE', `/api/tables/${id}`);
  });

  for (const [which, ended, other] of [
    ['the first', () => things, () => stops],
    ['another', () => stops, () => things],
  ] as const)
    it(`answer while ${which} thread is started again, and all of them afterwards`, async () => {
      await borrow();
      await running.server.threads.endThread(ended());
      expect((await running.find(other(), '17', [])).status).toBe(200);
      expect((await running.find(ended(), '17', [])).status).toBe(503);
      await ready();
      expect([await towns('"town 99"'), await matched(stops, '"town 99"', ['Town'])]).toEqual([ROWS / 100, ROWS / 100]);
    });
});
