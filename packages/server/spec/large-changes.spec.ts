/** What may grow is counted in letters: long rows are brought in, read, refreshed, logged and undone in pieces. */
import type { ChangeList, RowHistory, RowList, TableSummary } from '@usual-needle/contract';
import { cutBySize } from '../dist/data/logged-rows.js';
import { Running } from './running.js';

const LETTERS = 60_000;
const ROWS = 120;
const long = (row: number, what: string): string => `${what} ${row} `.padEnd(LETTERS, `${what} of row ${row}. `);
const fileOf = (what: string): string =>
  `No,Report\n${Array.from({ length: ROWS }, (_, i) => `${i + 1},${long(i + 1, what)}`).join('\n')}\n`;

describe('D4: rows of many letters', () => {
  let running: Running;
  let at: string;
  let id: number;
  beforeAll(async () => {
    running = await Running.start(false);
    ({ id } = (await running.ask('POST', '/api/tables?name=Reports', fileOf('umbrella')))
      .body as unknown as TableSummary);
    at = `/api/tables/${id}`;
  });
  afterAll(() => running.end());

  /** All rows, page by page: a page holds fewer than were asked for where they are long. */
  async function allRows(): Promise<string[]> {
    const all: string[] = [];
    for (let after = 0; ;) {
      const { rows } = (await running.ask('GET', `${at}/rows?limit=1000&after=${after}`)).body as unknown as RowList;
      if (rows.length === 0) return all;
      all.push(...rows.map(({ cells }) => cells[1]));
      after = rows.at(-1)!.id;
    }
  }
  const said = (what: string): string[] => Array.from({ length: ROWS }, (_, i) => long(i + 1, what));

  it('are brought in, read and found', async () => {
    expect(await allRows()).toEqual(said('umbrella'));
    expect((await running.find(id, 'umbrella', ['Report'])).body['matched']).toBe(ROWS as never);
  });

  it('are refreshed, found, told row by row, and undone', async () => {
    expect((await running.ask('PUT', `${at}/rows?key=No`, fileOf('glove'))).status).toBe(200);
    expect(await allRows()).toEqual(said('glove'));
    expect((await running.find(id, 'glove', ['Report'])).body['matched']).toBe(ROWS as never);
    expect((await running.find(id, 'umbrella', ['Report'])).body['matched']).toBe(0 as never);
    const { changes } = (await running.ask('GET', `${at}/changes?brief=true&limit=1`)).body as unknown as ChangeList;
    const [{ number, rows }] = changes;
    expect(rows).toBe(ROWS);
    const told = (await running.ask('GET', `${at}/rows/100/history`)).body as unknown as RowHistory;
    expect(told.entries.map(({ number: one }) => one)).toContain(number);
    expect((await running.ask('POST', `${at}/changes/${number}/undo`, { key: 'undo-large-1' })).status).toBe(200);
    expect(await allRows()).toEqual(said('umbrella'));
    expect((await running.find(id, 'umbrella', ['Report'])).body['matched']).toBe(ROWS as never);
  });

  it('are cut by letters, none left out, and one that is longer than a piece alone', () => {
    const cut = [...cutBySize([3, 3, 3, 20, 1, 1], (one) => one, 7)];
    expect(cut).toEqual([[3, 3], [3], [20], [1, 1]]);
  });
});
