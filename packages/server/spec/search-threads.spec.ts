import type { Column } from '@usual-needle/contract';
import { pino } from 'pino';
import type { Tables } from '../dist/data/tables.js';
import { HttpProblem } from '../dist/routes/http-problem.js';
import { SearchThread } from '../dist/threads/search-thread.js';
import { SearchThreads } from '../dist/threads/search-threads.js';

const log = pino({ level: 'silent' });
const COLUMNS: Column[] = [{ name: 'Thing', kind: 'text' }];
const TABLE = { id: 1, rows: 1, columns: COLUMNS, change: 1 };

describe('search threads over a database that takes its time', () => {
  it('know that a table is read that somebody else was reading when all were to be', async () => {
    let give: () => void = () => undefined;
    const given = new Promise<void>((done) => (give = done));
    const tables = {
      list: () => Promise.resolve([TABLE]),
      find: () => Promise.resolve(TABLE),
      rowsText: async (_id: number, after: number) => {
        await given;
        return after === 0 ? { text: '1 ["hat"]', last: 1, count: 1 } : undefined;
      },
      // Nothing has happened since.
      log: () => [],
    };
    const threads = new SearchThreads(log, 2);
    try {
      let readied = 0;
      threads.serve(tables as unknown as Tables, () => Promise.resolve(void readied++));
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

  it('begin none after they are closed', async () => {
    const nobody = { began: () => undefined, lost: () => undefined, again: () => Promise.resolve() };
    const thread = new SearchThread(log, nobody);
    await thread.close();
    expect(() => thread.host).toThrowMatching((error) => error instanceof HttpProblem && error.status === 503);
    expect(thread.isBegun).toBe(false);
  });
});
