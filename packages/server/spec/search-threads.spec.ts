import { answerIn } from '@usual-needle/host';
import { WHOLE_SCOPE, type Change, type Column } from '@usual-needle/contract';
import { pino } from 'pino';
import { heardLog } from './heard.js';
import { readAnswer } from '../dist/routes/outcomes.js';
import { PARTED } from '../dist/data/records.js';
import type { Tables } from '../dist/data/tables.js';
import { ThreadGone } from '../dist/threads/thread-gone.js';
import { SearchThread } from '../dist/threads/search-thread.js';
import { SearchThreads } from '../dist/threads/search-threads.js';

const log = heardLog();
const COLUMNS: Column[] = [{ name: 'Thing', kind: 'text' }];
const TABLE = { id: 1, rows: 1, columns: COLUMNS, change: 1 };

/** One table, whose rows come once they are given. */
function slowTables(rows = 1): { tables: Tables; give: () => void } {
  let give: () => void = () => undefined;
  const given = new Promise<void>((done) => (give = done));
  const tables = {
    list: () => Promise.resolve([TABLE]),
    find: () => Promise.resolve(TABLE),
    rowsText: async (_id: number, after: number) => {
      await given;
      const text = Array.from({ length: rows }, (_, i) => `${i + 1} ["hat"]`).join(PARTED);
      return after === 0 ? { text, last: rows, count: rows } : undefined;
    },
    // Nothing has happened since.
    log: () => [],
  };
  return { tables: tables as unknown as Tables, give };
}

describe('search threads over a database that takes its time', () => {
  it('know that a table is read that somebody else was reading when all were to be', async () => {
    const { tables, give } = slowTables();
    const threads = new SearchThreads(log, 2);
    try {
      let readied = 0;
      threads.serve(tables, () => Promise.resolve(void readied++));
      const loads = [threads.load(TABLE), threads.loadAll()];
      await new Promise((done) => setTimeout(done, 50));
      expect(threads.health()).toEqual(jasmine.objectContaining({ tables: 1, tablesRead: 0 }));
      give();
      await Promise.all(loads);
      threads.started();
      expect(threads.health()).toEqual(jasmine.objectContaining({ status: 'ready', tablesRead: 1, rowsRead: 1 }));
      expect(readied).toBe(1);
    } finally {
      await threads.close();
    }
  });

  it('are ready once all is read again where one of them ended at the start', async () => {
    const { tables, give } = slowTables();
    const threads = new SearchThreads(log, 2);
    try {
      threads.serve(tables, () => Promise.resolve());
      // Whoever starts says so only once this is done.
      const all = threads.loadAll().then(
        () => undefined,
        () => undefined,
      );
      await new Promise((done) => setTimeout(done, 50));
      await threads.endThread();
      give();
      await all;
      for (let i = 0; i < 100 && threads.health().status !== 'ready'; i++)
        await new Promise((done) => setTimeout(done, 50));
      expect(threads.health()).toEqual(jasmine.objectContaining({ status: 'ready', tablesRead: 1 }));
      expect(await threads.changeOf(TABLE.id)).toBe(1);
    } finally {
      await threads.close();
    }
  });

  it('hold the rows once of a table that is dropped and brought back while it is read', async () => {
    const { tables, give } = slowTables();
    const threads = new SearchThreads(log, 2);
    try {
      threads.serve(tables, () => Promise.resolve());
      const loads = [threads.load(TABLE)];
      await new Promise((done) => setTimeout(done, 50));
      const dropped = threads.drop(TABLE.id);
      loads.push(threads.load(TABLE));
      give();
      await Promise.all([...loads, dropped]);
      threads.started();
      const question = { threaded: ['Thing'], strands: [{ verb: 'find' as const, text: 'hat' }] };
      const outcome = await threads.questions.search(WHOLE_SCOPE, TABLE.id, { question });
      expect(readAnswer(answerIn(outcome))).toEqual(jasmine.objectContaining({ matched: 1, total: 1 }));
    } finally {
      await threads.close();
    }
  });

  it('answer as of a change once it is made, whatever was asked while it was being made', async () => {
    const { tables, give } = slowTables(20_000);
    const threads = new SearchThreads(log, 2);
    try {
      threads.serve(tables, () => Promise.resolve());
      give();
      await threads.load(TABLE);
      threads.started();
      const matched = async (text: string): Promise<number> => {
        const question = { threaded: ['Thing'], strands: [{ verb: 'find' as const, text }] };
        const outcome = await threads.questions.search(WHOLE_SCOPE, TABLE.id, { question });
        return readAnswer(answerIn(outcome)).matched;
      };
      const rowChanges = Array.from({ length: 20_000 }, (_, i) => ({ id: i + 1, before: ['hat'], after: ['cap'] }));
      const nothing = { who: null, key: null, undoes: null, counts: null, columns: null };
      const change: Change = { table: 1, number: 2, at: '', kind: 'edited', rows: 20_000, rowChanges, ...nothing };
      const applied = threads.apply(change);
      expect(await matched('hat')).toBe(20_000);
      await applied;
      expect(await matched('hat')).toBe(0);
    } finally {
      await threads.close();
    }
  });

  it('are filled again until that is done', async () => {
    let tries = 0;
    const thread: SearchThread = new SearchThread(log, {
      began: () => undefined,
      lost: () => undefined,
      again: () => (++tries < 3 ? Promise.reject(new Error('not yet')) : Promise.resolve()),
    });
    expect(thread.host).toBeDefined();
    await thread.end();
    await new Promise((done) => setTimeout(done, 2_500));
    await thread.close();
    expect(tries).toBe(3);
  });

  it('say nothing of a thread that could not be filled because it was closed', async () => {
    const lines: string[] = [];
    const thread: SearchThread = new SearchThread(pino({ level: 'error' }, { write: (line) => lines.push(line) }), {
      began: () => undefined,
      lost: () => undefined,
      again: () => thread.of(new Promise(() => undefined)),
    });
    expect(thread.host).toBeDefined();
    await thread.end();
    await new Promise((done) => setTimeout(done, 700));
    await thread.close();
    await new Promise((done) => setTimeout(done, 50));
    expect(lines.map((line) => (JSON.parse(line) as { msg: string }).msg)).toEqual([
      'a search thread ended; it is started again',
    ]);
  });

  it('begin none after they are closed', async () => {
    const nobody = { began: () => undefined, lost: () => undefined, again: () => Promise.resolve() };
    const thread = new SearchThread(log, nobody);
    await thread.close();
    expect(() => thread.host).toThrowError(ThreadGone);
    expect(thread.isBegun).toBe(false);
  });
});
