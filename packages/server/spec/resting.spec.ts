import { Running, type Reply } from './running.js';

const HOUR = 60 * 60_000;
const rowsOf = (count: number): string => Array.from({ length: count }, (_, i) => `${i},thing ${i}\n`).join('');

describe('tables that rest', () => {
  let running: Running;
  let clock = 0;
  const made = async (name: string, rows = 50): Promise<number> =>
    (await running.ask('POST', `/api/tables?name=${name}`, `No,Thing\n${rowsOf(rows)}`)).body['id'] as number;
  const look = async (): Promise<number[]> => {
    await running.server.threads.resting.look();
    return [...running.server.threads.resting.ids];
  };
  /** Asks as a page does: again, as long as the table is on its way. @returns the answer, and how often it was on its way */
  const asked = async (table: number, text: string): Promise<[Reply, number]> => {
    for (let waits = 0; ; waits++) {
      const reply = await running.find(table, text, ['Thing']);
      if (reply.status !== 503) return [reply, waits];
      expect(reply.headers.get('retry-after')).not.toBeNull();
      await new Promise((done) => setTimeout(done, 20));
    }
  };
  beforeEach(async () => {
    clock = Date.parse('2026-12-01T08:00:00Z');
    spyOn(Date, 'now').and.callFake(() => clock);
    running = await Running.start(false);
  });
  afterEach(() => running.end());

  it('were not asked for a day; what was done to them meanwhile is there when they are taken back', async () => {
    const [one, other] = [await made('One'), await made('Other', 12_000)];
    await asked(one, 'thing');
    await asked(other, 'thing');
    expect(await look()).toEqual([]);
    clock += 23 * HOUR;
    await asked(other, 'thing');
    clock += 2 * HOUR;
    expect(await look()).toEqual([one]);
    expect(running.server.threads.heldIds()).toEqual([other]);
    clock += 25 * HOUR;
    expect(await look()).toEqual([one, other]);
    const health = (await running.ask('GET', '/api/health')).body;
    expect([health['status'], health['tables'], health['rows']]).toEqual(['ready', 2, 12_050] as never);
    for (const table of [one, other]) {
      const edit = { kind: 'edited', columns: ['Thing'], changed: [{ id: 7, was: ['thing 6'], now: ['a lantern'] }] };
      await running.ask('POST', `/api/tables/${table}/changes`, { key: `resting-${table}-1`, ...edit });
      const [{ body, status }, waits] = await asked(table, 'lantern');
      expect([status, body['matched'], waits > 0]).toEqual([200, 1, true] as never);
      expect((await asked(table, 'thing'))[1]).toBe(0);
    }
    expect(await look()).toEqual([]);
    expect((await running.ask('GET', '/api/health/ready')).status).toBe(200);
  });

  it('are not those that lend, borrow, or are open at somebody’s', async () => {
    const [items, stops, opened] = [await made('Items'), await made('Stops'), await made('Opened')];
    const borrow = { table: stops, key: 'No', matches: 'No', columns: [{ column: 'Thing' }] };
    await running.ask('POST', `/api/tables/${items}/columns`, { borrow }, { 'if-match': '*' });
    const leaving = new AbortController();
    const stream = await fetch(`${running.server.address}/api/tables/${opened}/events`, { signal: leaving.signal });
    await stream.body!.getReader().read();
    await look();
    clock += 48 * HOUR;
    expect(await look()).toEqual([]);
    leaving.abort();
    while (running.server.follower.isOpen(opened)) await new Promise((done) => setTimeout(done, 10));
    expect(await look()).toEqual([]);
    clock += 25 * HOUR;
    expect(await look()).toEqual([opened]);
  });

  it('are gone where they are deleted meanwhile, and there where that is undone', async () => {
    const one = await made('One');
    await look();
    clock += 48 * HOUR;
    expect(await look()).toEqual([one]);
    await running.ask('DELETE', `/api/tables/${one}`);
    expect((await asked(one, 'thing'))[0].status).toBe(404);
    await running.ask('POST', `/api/tables/${one}/restore`);
    expect((await asked(one, 'thing'))[0].body['matched']).toBe(50 as never);
  });

  it('are, where the server is at its ceiling, those that were asked longest ago, one after the other', async () => {
    await running.end();
    running = await Running.start(false, undefined, { memory: 1 });
    const tables = [await made('One'), await made('Two'), await made('Three')];
    for (const table of [1, 0, 2]) {
      clock += 1_000;
      await asked(tables[table], 'thing');
    }
    expect(await look()).toEqual([tables[1]]);
    expect(await look()).toEqual([tables[1], tables[0]]);
    expect((await asked(tables[1], 'thing 49'))[0].body['matched']).toBe(1 as never);
    expect(running.server.threads.resting.ids).toEqual([tables[0]]);
  });
});
