import fc from 'fast-check';
import {
  blankQuestion,
  finished,
  isNearlyUnique,
  keyOf,
  Lender,
  overlapSteps,
  Search,
  Table,
  offering,
  valueCounts,
  windowRows,
  type ColumnSpec,
  type RowEdit,
  type Several,
} from '@usual-needle/engine';

const STOPS: ColumnSpec[] = [
  { name: 'Name', kind: 'text' },
  { name: 'Town', kind: 'text' },
];
const ITEMS: ColumnSpec[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Found at', kind: 'text' },
  { name: 'Town', kind: 'text' },
  { name: 'Towns', kind: 'choice' },
];

type Rows = readonly (readonly [id: number, cells: readonly string[]])[];

const tableOf = (columns: ColumnSpec[], rows: Rows): Table =>
  new Table(
    columns,
    rows.map(([id, cells]) => ({ id, cells })),
  );

/** What stands in a borrowed cell, looked up the slow way. */
function lookedUp(stops: Rows, cell: string, several: Several): string {
  const key = keyOf(cell);
  const fitting = key === '' ? [] : stops.filter(([, [name]]) => keyOf(name) === key).map(([, cells]) => cells[1]);
  return several === 'first' ? (fitting[0] ?? '') : fitting.filter((town) => town.trim() !== '').join('; ');
}

const withTowns = (stops: Rows, items: Rows): Rows =>
  items.map(([id, [thing, at]]) => [id, [thing, at, lookedUp(stops, at, 'first'), lookedUp(stops, at, 'all')]]);

function borrowing(items: Table, lender: Lender): void {
  items.borrow(2, { key: 1, find: (cell) => lender.cell(keyOf(cell), 1, 'first') });
  items.borrow(3, { key: 1, find: (cell) => lender.cell(keyOf(cell), 1, 'all') });
}

function shown(table: Table, text: string): unknown {
  const question = {
    ...blankQuestion([0, 2, 3]),
    strands: [{ verb: 'find' as const, text, reading: 'words' as const }],
    sort: [{ column: 2, direction: 'up' as const, by: 'value' as const }],
  };
  const search = new Search(table, question).run();
  const rows = windowRows(search, 0, 1_000, [0, 1, 2, 3]);
  return [
    search.matched,
    search.columnTallies,
    rows.map(({ id, cells, marks }) => [id, cells, marks]),
    valueCounts(offering(table, question, 3).run(), 3),
  ];
}

describe('a borrowed column', () => {
  const stops: Rows = [
    [1, ['Mill Lane', 'Oakham']],
    [2, ['Brückl', 'Aspby']],
    [3, ['mill lane', 'Elmsworth']],
    [4, ['', 'Nowhere']],
    [5, ['Quay', '']],
  ];
  const cases: [what: string, cell: string, first: string, all: string][] = [
    ['is found by its key', 'Brückl', 'Aspby', 'Aspby'],
    ['is found whatever the case, the accents and the spaces around', ' BRUCKL ', 'Aspby', 'Aspby'],
    ['is the first of several, or all', 'Mill lane', 'Oakham', 'Oakham; Elmsworth'],
    ['is blank where nothing fits', 'Mill', '', ''],
    ['is blank for a blank key, whatever stands beside a blank one', ' ', '', ''],
    ['is blank where a blank cell fits', 'Quay', '', ''],
  ];
  for (const [what, cell, first, all] of cases)
    it(what, () => {
      const items = tableOf(ITEMS, [[1, ['hat', cell]]]);
      borrowing(items, new Lender(tableOf(STOPS, stops), 0));
      expect(items.row(1)!.cells.slice(2)).toEqual([first, all]);
    });

  it('counts what finds one, and which keys stand twice', () => {
    const items = tableOf(
      ITEMS,
      ['mill lane', 'Mill Lane', 'quay', 'bridge', ''].map((at, i) => [i + 1, ['hat', at]] as const),
    );
    const lender = new Lender(tableOf(STOPS, stops), 0);
    expect(finished(overlapSteps(items, 1, lender))).toEqual({ rows: 5, found: 3, twice: 1 });
    expect(isNearlyUnique(items, 0)).toBe(false);
    expect(isNearlyUnique(items, 1)).toBe(true);
  });

  it('is as a column of its own, whatever rows of either table change, come, go and come back', () => {
    const names = fc.constantFrom('Quay', 'quay ', 'Brückl', 'Bruckl', 'Mill Lane', '');
    const stop = fc.tuple(names, fc.constantFrom('Oakham', 'oak', 'Aspby', ''));
    const item = fc.tuple(fc.constantFrom('hat', 'oak box', 'glove'), names);
    const edit = <T>(cells: fc.Arbitrary<T>): fc.Arbitrary<{ row: number; cells: T | null }> =>
      fc.record({ row: fc.nat(30), cells: fc.option(cells, { nil: null, freq: 3 }) });
    const round = fc.oneof(
      fc.record({ of: fc.constant('stops' as const), edits: fc.array(edit(stop), { maxLength: 3 }) }),
      fc.record({ of: fc.constant('items' as const), edits: fc.array(edit(item), { maxLength: 3 }) }),
    );
    fc.assert(
      fc.property(fc.array(stop, { maxLength: 8 }), fc.array(item, { maxLength: 20 }), fc.array(round), (a, b, all) => {
        const now = {
          stops: new Map<number, readonly string[]>(a.map((cells, i) => [i + 1, cells])),
          items: new Map<number, readonly string[]>(b.map((cells, i) => [i + 1, cells])),
        };
        const rowsOf = (of: 'stops' | 'items'): Rows => [...now[of]].sort(([x], [y]) => x - y);
        const next = { stops: a.length + 1, items: b.length + 1 };
        const lending = tableOf(STOPS, rowsOf('stops'));
        const lender = new Lender(lending, 0);
        const items = tableOf(ITEMS, rowsOf('items'));
        borrowing(items, lender);
        for (const { of, edits } of all) {
          const done = new Map<number, RowEdit>();
          for (const { row, cells } of edits) {
            const id = row + 1 >= next[of] ? next[of] : row + 1;
            if (done.has(id) || (cells === null && !now[of].has(id))) continue;
            if (id === next[of]) next[of]++;
            done.set(id, { id, after: cells });
            if (cells) now[of].set(id, cells);
            else now[of].delete(id);
          }
          const change = [...done.values()];
          if (of === 'items') items.apply(change);
          else {
            const keys = lender.during(change, () => lending.apply(change));
            items.lookUp(2, keys);
            items.lookUp(3, keys);
          }
        }
        const anew = tableOf(ITEMS, withTowns(rowsOf('stops'), rowsOf('items')));
        for (const text of ['', 'oak', 'asp', '"; "']) expect(shown(items, text)).toEqual(shown(anew, text));
        expect([...lender.keys].sort()).toEqual([...new Lender(lending, 0).keys].sort());
      }),
      { numRuns: 300 },
    );
  });
});
