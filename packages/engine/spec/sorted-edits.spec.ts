import fc from 'fast-check';
import { blankQuestion, Search, Table, windowRows, type ColumnSpec, type Question } from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Worth', kind: 'number' },
  { name: 'Status', kind: 'choice' },
];

type Sort = Question['sort'];
const SORTS: Sort[] = [
  [],
  [{ column: 1, direction: 'up', by: 'value' }],
  [{ column: 0, direction: 'down', by: 'value' }],
  [
    { column: 2, direction: 'up', by: 'value' },
    { column: 1, direction: 'down', by: 'value' },
  ],
  [{ column: 0, direction: 'down', by: 'count' }],
  [
    { column: 2, direction: 'up', by: 'count' },
    { column: 1, direction: 'down', by: 'value' },
  ],
  [
    { column: 1, direction: 'up', by: 'value' },
    { column: 0, direction: 'down', by: 'count' },
  ],
];

function list(table: Table, sort: Sort, text: string): unknown[] {
  const question = {
    ...blankQuestion([0, 2]),
    strands: [{ verb: 'find' as const, text, reading: 'words' as const }],
    sort,
  };
  const search = new Search(table, question).run();
  return [
    search.matched,
    windowRows(search, 0, 1_000, [0, 1, 2]).map(({ id, place, position, cells }) => [id, place, position, cells]),
  ];
}

describe('a sorted list that rows change under', () => {
  const cells = fc.tuple(
    fc.constantFrom('umbrella', 'hat', 'Hat', 'glove', ''),
    fc.constantFrom('1', '2', '10', 'x', ''),
    fc.constantFrom('Held', 'Sold'),
  );
  const change = fc.oneof(
    fc.record({ does: fc.constant('change' as const), row: fc.nat(40), cells }),
    fc.record({ does: fc.constant('remove' as const), row: fc.nat(40) }),
    fc.record({ does: fc.constant('restore' as const), row: fc.nat(40), cells }),
    fc.record({ does: fc.constant('add' as const), some: fc.array(cells, { minLength: 1, maxLength: 3 }) }),
  );

  it('is as one of a table that was made anew, however many rows changed, came, went and came back', () => {
    fc.assert(
      fc.property(
        fc.array(cells, { maxLength: 40 }),
        fc.array(fc.array(change, { maxLength: 4 }), { maxLength: 12 }),
        (rows, rounds) => {
          const now = new Map<number, readonly string[]>(rows.map((one, i) => [i + 1, one]));
          const table = new Table(
            COLUMNS,
            [...now].map(([id, of]) => ({ id, cells: of })),
          );
          let next = rows.length + 1;
          for (const changes of rounds) {
            for (const one of changes) {
              if (one.does === 'add') {
                const added = one.some.map((of) => ({ id: next++, after: of as readonly string[] }));
                table.apply(added);
                for (const { id, after } of added) now.set(id, after);
                continue;
              }
              const id = (one.row % Math.max(1, next - 1)) + 1;
              if (id >= next || (one.does === 'restore') === now.has(id)) continue;
              const after = one.does === 'remove' ? null : one.cells;
              table.apply([{ id, after }]);
              if (after) now.set(id, after);
              else now.delete(id);
            }
            const anew = new Table(
              COLUMNS,
              [...now].sort(([a], [b]) => a - b).map(([id, of]) => ({ id, cells: of })),
            );
            for (const sort of SORTS)
              for (const text of ['', 'hat']) expect(list(table, sort, text)).toEqual(list(anew, sort, text));
          }
        },
      ),
      { numRuns: 150 },
    );
  });

  it('is not sorted anew for a row that is added', () => {
    const table = new Table(COLUMNS, [{ id: 1, cells: ['hat', '1', 'Held'] }]);
    list(table, SORTS[1], '');
    const { structure } = table;
    table.apply([{ id: 2, after: ['glove', '0', 'Held'] }]);
    table.apply([{ id: 1, after: null }]);
    table.apply([{ id: 1, after: ['hat', '9', 'Sold'] }]);
    expect(table.structure).toBe(structure);
  });

  it('keeps every slot while rows are added one by one, and few segments', () => {
    const cellsOf = (i: number): string[] => [i % 3 ? `hat ${i}` : `umbrella ${i}`, String(i % 50), 'Held'];
    const now = new Map<number, readonly string[]>();
    for (let id = 1; id <= 300; id++) now.set(id, cellsOf(id));
    const rowsNow = (): { id: number; cells: readonly string[] }[] =>
      [...now].sort(([a], [b]) => a - b).map(([id, cells]) => ({ id, cells }));
    const table = new Table(COLUMNS, rowsNow());
    list(table, SORTS[1], '');
    const { structure } = table;
    const slots = new Map<number, number | undefined>();
    for (let id = 301; id <= 300 + 4_096 + 700; id++) {
      now.set(id, cellsOf(id));
      table.apply([{ id, after: now.get(id)! }]);
      slots.set(id, table.slotOf(id));
      if (id % 7 !== 0) continue;
      // A row of a while ago goes, and every other of them comes back.
      const gone = id - 200;
      table.apply([{ id: gone, after: null }]);
      now.delete(gone);
      if (id % 2) continue;
      now.set(gone, ['glove', '1', 'Sold']);
      table.apply([{ id: gone, after: now.get(gone)! }]);
    }
    expect(table.structure).toBe(structure);
    expect(table.segments.length).toBeLessThan(8);
    for (const [id, slot] of slots) if (now.has(id)) expect(table.slotOf(id)).withContext(`row ${id}`).toBe(slot);
    const anew = new Table(COLUMNS, rowsNow());
    for (const sort of SORTS)
      for (const text of ['', 'hat', 'glove']) expect(list(table, sort, text)).toEqual(list(anew, sort, text));
  });
});
