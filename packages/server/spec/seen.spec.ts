import {
  WHOLE_SCOPE,
  type Change,
  type Column,
  type EditRequest,
  type Scope,
  type TableSummary,
} from '@usual-needle/contract';
import { NotAllowed } from '../dist/access/not-allowed.js';
import { ScopedRecords } from '../dist/access/scoped-records.js';
import { seenChanges, seenEntries, seenPlaces, seenTable } from '../dist/access/seen.js';

const COLUMNS: Column[] = [
  { name: 'Item', kind: 'text', place: 5 },
  { name: 'Gone', kind: 'text', removed: true },
  { name: 'Value', kind: 'number', formerly: ['Worth'] },
  { name: 'Town', kind: 'text', borrows: { table: 9, key: 'Value', matches: 'A', column: 'B', several: 'first' } },
];
const TABLE: TableSummary = {
  ...{ id: 1, name: 'Things', description: '', rows: 3, version: 1, change: 4, changedAt: '2026-11-30T10:00:00Z' },
  columns: COLUMNS,
  refreshedBy: { key: ['Value'], gone: 'keep', columns: [] },
};
const NARROW: Scope = {
  ...WHOLE_SCOPE,
  visible: ['Item', 'Town'],
  editable: ['Item'],
  actions: ['edit', 'see history'],
};
const change = (before: string[] | null, after: string[] | null): Change => ({
  ...{ table: 1, number: 2, at: '2026-11-30T10:00:00Z', who: null, kind: 'edited', key: null, undoes: null, rows: 1 },
  counts: { added: 0, changed: 1, removed: 0, columns: ['Worth', 'Item'] },
  rowChanges: [{ id: 7, before, after }],
  columns: { before: COLUMNS, after: COLUMNS },
});

describe('what a scope lets be seen', () => {
  it('of a table: its own columns in their order, nothing of the others, and not where cells come from', () => {
    const told = seenTable(TABLE, NARROW);
    expect(told.columns).toEqual([
      { name: 'Town', kind: 'text' },
      { name: 'Item', kind: 'text' },
    ]);
    expect(JSON.stringify(told)).not.toMatch(/Value|Worth|Gone|refreshed|stored/);
    expect(seenPlaces(COLUMNS, NARROW)).toEqual([3, 0]);
  });

  it('of a change: the cells it has, in the same order, and nothing of a row where no such cell was changed', () => {
    const [told] = seenChanges([change(['hat', 'x', '5', ''], ['cap', 'x', '5', ''])], COLUMNS, NARROW);
    expect(told.rowChanges).toEqual([{ id: 7, before: ['', 'hat'], after: ['', 'cap'] }]);
    expect([told.columns, told.counts?.columns]).toEqual([null, ['Item']]);
    const hidden = seenChanges([change(['hat', 'x', '5', ''], ['hat', 'x', '6', ''])], COLUMNS, NARROW);
    expect(hidden).toEqual([]);
  });

  it('of the history of a row: only what happened to cells that it has', () => {
    const entry = (before: string[] | null, after: string[] | null) => ({
      ...{ number: 2, kind: 'edited', who: null, at: '', before, after },
    });
    const told = seenEntries(
      [entry(['a', '', '1', ''], ['a', '', '2', '']), entry(null, ['a', '', '1', ''])],
      COLUMNS,
      NARROW,
    );
    expect(told.map(({ before, after }) => [before, after])).toEqual([[null, ['', 'a']]]);
  });

  it('is everything, as it is kept, for who has every column', () => {
    const whole = change(['hat', 'x', '5', ''], ['hat', 'x', '6', '']);
    expect(seenChanges([whole], COLUMNS, WHOLE_SCOPE)).toEqual([whole]);
    expect(seenTable(TABLE, WHOLE_SCOPE).columns.map(({ name }) => name)).toEqual(['Value', 'Town', 'Item']);
  });
});

describe('records within a scope', () => {
  const done: string[] = [];
  const noted = (what: string) => (): Promise<never[]> => (done.push(what), Promise.resolve([]));
  const tables = { rows: noted('rows'), history: noted('history'), changes: noted('changes') };
  const changes = { editCells: noted('edit'), undo: noted('undo'), edit: noted('refresh') };
  const records = new ScopedRecords(tables as never, changes as never);
  const none: Scope = { ...NARROW, actions: [] };
  const edit = (columns: string[]): EditRequest => ({
    ...{ key: 'k', kind: 'edited', columns, changed: [{ id: 1, was: ['a'], now: ['b'] }] },
  });

  const refused: [string, () => unknown, RegExp][] = [
    ['rows', () => records.rows(none, TABLE, 0, 10), /Taking rows out/],
    ['the log', () => records.log(none, TABLE, 0, 10), /history/],
    ['the history', () => records.history(none, TABLE, undefined, 10), /history/],
    ['one change', () => records.change(none, TABLE, 1, 10), /history/],
    ['the history of a row', () => records.rowHistory(none, TABLE, 1, 10), /history/],
    ['editing', () => records.edit(none, TABLE, edit(['Item'])), /Editing/],
    ['adding', () => records.edit(NARROW, TABLE, { ...edit([]), changed: [], added: [['x']] }), /Adding/],
    ['removing', () => records.edit(NARROW, TABLE, { ...edit([]), changed: [], removed: [{ id: 1, seen: 1 }] }), /Rem/],
    ['editing a column that is only seen', () => records.edit(NARROW, TABLE, edit(['Town'])), /“Town” is not to be/],
    ['undoing', () => records.undo(NARROW, TABLE, 1, {}), /open to you/],
    ['a newer file', () => records.refresh(NARROW, TABLE, [], {}), /table itself/],
    ['other columns', () => records.changeColumns(NARROW, TABLE, 'any', () => []), /table itself/],
    ['another value', () => records.changeValue(NARROW, TABLE, { column: 'Item', from: 'a', to: 'b' }), /table itself/],
  ];
  for (const [what, ask, words] of refused)
    it(`refuse ${what} where that is not open`, async () => {
      await expectAsync((async () => ask())()).toBeRejectedWithError(NotAllowed, words);
      expect(done).toEqual([]);
    });

  it('say the same of a column that is hidden as of one that never was', async () => {
    const saying = (name: string): Promise<string> =>
      records.edit(NARROW, TABLE, edit([name])).then(
        () => 'done',
        (error: Error) => error.message,
      );
    expect(await saying('Value')).toBe('There is no column “Value” any more.');
    // Its former name leads to it, and is told of as little.
    expect(await saying('Worth')).toBe('There is no column “Worth” any more.');
  });

  it('let through what is open', async () => {
    await records.edit(NARROW, TABLE, edit(['Item']));
    await records.history(NARROW, TABLE, undefined, 10);
    expect(done).toEqual(['edit', 'history']);
    done.length = 0;
  });
});
