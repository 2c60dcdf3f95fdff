import fc from 'fast-check';
import {
  blankQuestion,
  finished,
  PackReader,
  Search,
  Snapshot,
  Table,
  windowRows,
  type ColumnSpec,
  type Effect,
  type PackWriter,
  type Question,
  type RowEdit,
  type SnapshotRow,
} from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Item', kind: 'text' },
  { name: 'Weight', kind: 'number' },
];
const WORDS = ['hat', 'red hat', 'cap', 'umbrella', 'hatbox', '', '12', '3,5', 'Éclair', 'hat hat'];
const cells = fc.tuple(fc.constantFrom(...WORDS), fc.constantFrom(...WORDS));

const questionOf = (text: string, effect: Effect, flip: boolean, down: boolean | undefined): Question => ({
  ...blankQuestion([0, 1]),
  strands: [{ verb: 'find', text, reading: 'words' }],
  ...{ effect, flip },
  sort: down === undefined ? [] : [{ column: 0, direction: down ? 'down' : 'up', by: 'value' }],
});

/** All rows of a snapshot. */
function rowsOf(snapshot: Snapshot, from = 0): SnapshotRow[] {
  return [...snapshot.rowSteps(from, true)].filter((row) => row !== undefined);
}

describe('a snapshot', () => {
  const asked = fc.record({
    rows: fc.array(cells, { minLength: 1, maxLength: 60 }),
    text: fc.constantFrom('', 'hat', 'red -cap', 'h', '12'),
    effect: fc.constantFrom<Effect>('show only matches', 'mark in place', 'leave matches out'),
    flip: fc.boolean(),
    down: fc.option(fc.boolean(), { nil: undefined }),
    edits: fc.array(fc.tuple(fc.integer({ min: 1, max: 80 }), fc.option(cells, { nil: null })), { maxLength: 30 }),
    respecify: fc.boolean(),
  });

  it('has the rows on show, with their marks, as they were, whatever becomes of the table', () => {
    fc.assert(
      fc.property(asked, ({ rows, text, effect, flip, down, edits, respecify }) => {
        const table = new Table(
          COLUMNS,
          rows.map((row, i) => ({ id: i + 1, cells: row })),
        );
        const search = new Search(table, questionOf(text, effect, flip, down)).run();
        const wanted = windowRows(search, 0, 1_000, [1, 0]).map(({ id, match, marks }) => ({
          ...{ id, match, cells: [rows[id - 1][1], rows[id - 1][0]] },
          marks: marks.map((mark) => ({ ...mark, column: 1 - mark.column })),
        }));
        const snapshot = new Snapshot(search, [1, 0]);
        const steps = snapshot.rowSteps(0, true);
        const read = [steps.next().value].filter((row) => row !== undefined);
        const byRow = new Map(edits.map(([id, after]): [number, RowEdit] => [id, { id, after }]));
        finished(table.applySteps([...byRow.values()]));
        if (respecify) table.respecify([{ name: 'Thing', kind: 'choice' }, COLUMNS[1]]);
        for (const row of steps) if (row) read.push(row);
        const sorted = (all: readonly SnapshotRow[]): unknown[] =>
          all.map((row) => ({
            ...row,
            marks: [...row.marks].sort((a, b) => a.column - b.column || a.start - b.start),
          }));
        expect(sorted(read)).toEqual(sorted(wanted));
        expect(snapshot.count).toBe(wanted.length);
        expect(rowsOf(snapshot, 2).length).toBe(Math.max(0, wanted.length - 2));
      }),
      { numRuns: 300 },
    );
  });

  it('has a stretch of them, or those of some ids: in the order on show, others after them', () => {
    const table = new Table(
      COLUMNS,
      ['c', 'a', 'b', 'x'].map((item, i) => ({ id: i + 1, cells: [item, ''] })),
    );
    const search = new Search(table, {
      ...questionOf('-x', 'show only matches', false, false),
    }).run();
    const ids = (...wanted: ConstructorParameters<typeof Snapshot>): number[] =>
      rowsOf(new Snapshot(...wanted)).map(({ id }) => id);
    expect(ids(search, [0])).toEqual([2, 3, 1]);
    expect(ids(search, [0], { offset: 1, limit: 1 })).toEqual([3]);
    expect(ids(search, [0], { offset: 9 })).toEqual([]);
    expect(ids(search, [0], { ids: [1, 4, 2, 2, 99] })).toEqual([2, 1, 4]);
    expect(ids(search, [0], { ids: [1, 4, 2] }, (slot) => slot !== 1)).toEqual([1, 4]);
  });

  it('knows the longest cell of each column, to the letter only where it is over what is enough', () => {
    const table = new Table(COLUMNS, [
      { id: 1, cells: ['x'.repeat(50), '1'] },
      { id: 2, cells: ['xyz', '12'] },
    ]);
    table.apply([{ id: 2, after: ['xyz', '1'.repeat(40)] }]);
    const of = (text: string): number[] => {
      const search = new Search(table, questionOf(text, 'show only matches', false, undefined)).run();
      return finished(new Snapshot(search, [0, 1]).longestSteps(45));
    };
    expect(of('')).toEqual([50, 40]);
    expect(of('xyz')).toEqual([3, 40]);
  });
});

describe('packed cells', () => {
  it('become a table that answers the same', () => {
    const rows = Array.from({ length: 500 }, (_, i) => ({ id: i + 1, cells: [WORDS[i % WORDS.length], `${i}`] }));
    const table = new Table(COLUMNS, rows);
    const bytes = (parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> =>
      Uint8Array.from(parts.flatMap((part) => [...part]));
    const readers = [...table.packedCells()].map(({ numberParts, textParts }: PackWriter) => {
      return new PackReader(bytes(numberParts).buffer, bytes(textParts));
    });
    const again = Table.ofCells(COLUMNS, readers);
    for (const text of ['', 'hat', 'é', '49', 'red -box'])
      for (const one of [undefined, true]) {
        const [a, b] = [table, again].map((of) =>
          windowRows(new Search(of, questionOf(text, 'show only matches', false, one)).run(), 0, 1_000, [0, 1]),
        );
        expect(b).toEqual(a);
      }
  });

  it('are refused of a table that was changed, since its index is of before', () => {
    const table = new Table(COLUMNS, [{ id: 1, cells: ['hat', ''] }]);
    table.apply([{ id: 1, after: ['cap', ''] }]);
    expect(() => [...table.packedCells()]).toThrowError(/changed/);
  });
});
