import fc from 'fast-check';
import { blankQuestion, Search, Table, windowRows, type ColumnSpec } from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Description', kind: 'text' },
  { name: 'Colour', kind: 'choice' },
  { name: 'Value', kind: 'number' },
];
const ROWS = [
  ['Umbrella, wooden handle', 'black', '12'],
  ['Old umbrella', 'wood brown', '1,250.50'],
  ['Brückl’s   hat', '', ''],
  ['Straße map\nsecond line', 'red', '7'],
  ['umbrella umbrella', 'Umber', ''],
];

function tableOf(rows: readonly (readonly string[])[], columns = COLUMNS): Table {
  return new Table(
    columns,
    rows.map((cells, i) => ({ id: i + 1, cells })),
  );
}

function find(table: Table, text: string, threaded = [0, 1, 2]): Search {
  return new Search(table, { ...blankQuestion(threaded), strands: [{ verb: 'find', text, reading: 'words' }] }).run();
}

function ids(search: Search): number[] {
  return windowRows(search, 0, 1000, []).map(({ id }) => id);
}

describe('a search for several words', () => {
  const table = tableOf(ROWS);
  const cases: [string, number[]][] = [
    ['', [1, 2, 3, 4, 5]],
    ['   ', [1, 2, 3, 4, 5]],
    ['umbr', [1, 2, 5]],
    ['umbr wood', [1, 2]],
    ['WOOD umbr', [1, 2]],
    ['bruckl', [3]],
    ['brückl', [3]],
    ["brückl's hat", [3]],
    ['strasse', [4]],
    ['map second', [4]],
    ['1250.5', [2]],
    ['1,250.50', [2]],
    ['umber', [5]],
    ['nothing', []],
  ];
  for (const [text, expected] of cases) {
    it(`finds ${JSON.stringify(text)} in rows ${expected.join(', ') || 'none'}`, () => {
      expect(ids(find(table, text))).toEqual(expected);
    });
  }

  it('looks in threaded columns only', () => {
    expect(ids(find(table, 'wood', [0]))).toEqual([1]);
    expect(ids(find(table, 'wood', []))).toEqual([]);
  });

  it('counts rows per column and per keyword', () => {
    const search = find(table, 'umbr wood');
    expect(search.columnTallies).toEqual([2, 1, 0]);
    expect(search.keywordTallies).toEqual([2, 2]);
    expect([search.matched, search.shown, search.searched]).toEqual([2, 2, 5]);
  });

  it('marks hits in the shown text, whatever folding did to its length', () => {
    const marks = (text: string) =>
      windowRows(find(table, text), 0, 9, [0]).map((row) =>
        row.marks.map((m) => [m.column, m.start, m.end, m.keyword]),
      );
    expect(marks('umbr wood')).toEqual([
      [
        [0, 0, 4, 1],
        [0, 10, 14, 2],
      ],
      [
        [0, 4, 8, 1],
        [1, 0, 4, 2],
      ],
    ]);
    expect(marks('strasse')).toEqual([[[0, 0, 6, 1]]]);
    expect(marks("l's hat".replace(' ', '\u00a0'))).toEqual([
      [
        [0, 5, 8, 1],
        [0, 11, 14, 2],
      ],
    ]);
    expect(marks('1250.5')).toEqual([[[2, 0, 8, 1]]]);
  });

  it('agrees with a plain look at every cell, whatever the table', () => {
    const word = fc.stringMatching(/^[ab -]{0,6}$/);
    fc.assert(
      fc.property(fc.array(fc.array(word, { minLength: 2, maxLength: 2 }), { maxLength: 40 }), word, (rows, text) => {
        const columns: ColumnSpec[] = [
          { name: 'A', kind: 'text' },
          { name: 'B', kind: 'text' },
        ];
        const words = text.split(' ').filter((one) => one !== '');
        const even = (cell: string): string => cell.replace(/ +/g, ' ').trim();
        fc.pre(words.every((one) => /^[ab]/.test(one)));
        const expected = rows.flatMap((cells, i) =>
          words.every((one) => cells.some((cell) => even(cell).includes(one))) ? [i + 1] : [],
        );
        expect(ids(find(tableOf(rows, columns), text, [0, 1]))).toEqual(expected);
      }),
    );
  });

  it('goes on segment by segment, its counts growing', () => {
    const many = new Table(
      [{ name: 'A', kind: 'text' }],
      Array.from({ length: 150_000 }, (_, i) => ({ id: i, cells: [`row ${i}`] })),
    );
    const search = new Search(many, {
      ...blankQuestion([0]),
      strands: [{ verb: 'find', text: '99', reading: 'words' }],
    });
    const counts: number[] = [];
    while (search.step()) counts.push(search.matched);
    // A short first one, two whole ones, and the rest.
    expect(counts.length).toBe(4);
    expect(counts[0]).toBeLessThan(counts[1]);
    expect(search.complete).toBe(true);
    expect(search.matched).toBe(
      Array.from({ length: 150_000 }, (_, i) => i).filter((i) => String(i).includes('99')).length,
    );
    const [row] = windowRows(search, search.shown - 1, 5, [0]);
    expect(row.cells).toEqual(['row 149999']);
    expect(row.place).toBe(150_000);
  });
});

describe('a table that changes', () => {
  it('answers as one built anew would', () => {
    const action = fc.oneof(
      fc.record({ act: fc.constant('change' as const), at: fc.nat(60), text: fc.stringMatching(/^[abc ]{0,5}$/) }),
      fc.record({ act: fc.constant('remove' as const), at: fc.nat(60), text: fc.constant('') }),
      fc.record({ act: fc.constant('add' as const), at: fc.constant(0), text: fc.stringMatching(/^[abc ]{0,5}$/) }),
    );
    const column: ColumnSpec[] = [{ name: 'A', kind: 'text' }];
    fc.assert(
      fc.property(
        fc.array(fc.stringMatching(/^[abc ]{0,5}$/), { minLength: 1, maxLength: 50 }),
        fc.array(action, { maxLength: 30 }),
        (start, actions) => {
          const truth = new Map(start.map((text, i) => [i + 1, text]));
          const table = new Table(
            column,
            start.map((text, i) => ({ id: i + 1, cells: [text] })),
          );
          let next = start.length + 1;
          for (const { act, at, text } of actions) {
            if (act === 'add') {
              table.append([{ id: next, cells: [text] }]);
              truth.set(next++, text);
            } else if (act === 'change') {
              expect(table.change(at, [text])).toBe(truth.has(at));
              if (truth.has(at)) truth.set(at, text);
            } else {
              expect(table.remove(at)).toBe(truth.delete(at));
            }
            for (const needle of ['a', 'ab', 'abc']) {
              const expected = [...truth].filter(([, cell]) => cell.includes(needle)).map(([id]) => id);
              expect(ids(find(table, needle, [0]))).toEqual(expected);
            }
            expect(table.rowCount).toBe(truth.size);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('refuses rows that do not come after those it has', () => {
    const table = tableOf(ROWS);
    expect(() => table.append([{ id: 5, cells: ['x'] }])).toThrowError(RangeError);
  });
});
