import fc from 'fast-check';
import {
  blankQuestion,
  Search,
  Staying,
  Table,
  windowRows,
  type ColumnSpec,
  type Question,
  type Stay,
} from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Worth', kind: 'number' },
];

function searched(table: Table, sorted: boolean, effect: Question['effect']): Search {
  const sort = sorted ? [{ column: 1, direction: 'up' as const, by: 'value' as const }] : [];
  const strands = [{ verb: 'find' as const, text: 'a', reading: 'words' as const }];
  return new Search(table, { ...blankQuestion([0]), strands, sort, effect }).run();
}

/** What the list should be, made the slow way: the others in their order, the staying ones put in where they stay. */
function slowly(search: Search, stays: readonly Stay[]): number[] {
  const shown = windowRows(search, 0, 1_000, [0]).map(({ id }) => id);
  const known = stays.filter((one, i) => search.table.row(one.id) && stays.findIndex(({ id }) => id === one.id) === i);
  if (search.question.sort.length === 0)
    return [...new Set([...shown, ...known.map(({ id }) => id)])].sort((a, b) => a - b);
  const others = shown.filter((id) => !known.some((one) => one.id === id));
  const list: (number | undefined)[] = [];
  const length = others.length + known.length;
  const sorted = [...known].sort((a, b) => a.index - b.index);
  const places: number[] = [];
  for (const { index } of sorted) places.push(Math.max((places.at(-1) ?? -1) + 1, index));
  for (let i = places.length - 1, last = length - 1; i >= 0; i--) last = (places[i] = Math.min(last, places[i])) - 1;
  sorted.forEach(({ id }, i) => (list[places[i]] = id));
  for (let i = 0; i < length; i++) list[i] ??= others.shift();
  return list as number[];
}

describe('rows that stay where they were seen', () => {
  const cell = fc.constantFrom('a', 'b', 'ab', '');
  const stay = fc.record({ id: fc.integer({ min: 1, max: 14 }), index: fc.integer({ min: 0, max: 15 }) });
  const given = fc.record({
    rows: fc.array(fc.tuple(cell, fc.integer({ min: 0, max: 4 })), { maxLength: 12 }),
    gone: fc.array(fc.integer({ min: 1, max: 12 }), { maxLength: 3 }),
    stays: fc.array(stay, { maxLength: 5 }),
    sorted: fc.boolean(),
    effect: fc.constantFrom<Question['effect']>('show only matches', 'mark in place', 'leave matches out'),
  });

  it('are in their places, whichever window is asked for, and so are the others and the matches', () => {
    fc.assert(
      fc.property(given, ({ rows, gone, stays, sorted, effect }) => {
        const table = new Table(
          COLUMNS,
          rows.map(([thing, worth], i) => ({ id: i + 1, cells: [thing, String(worth)] })),
        );
        for (const id of gone) table.remove(id);
        const search = searched(table, sorted, effect);
        const list = new Staying(search.view, stays);
        const wanted = slowly(search, stays);
        expect(list.shown).toBe(wanted.length);
        const ids = (offset: number, limit: number): number[] =>
          list.rows(offset, limit).map(({ segment, row }) => table.segments[segment].ids[row]);
        expect(ids(0, 100)).toEqual(wanted);
        for (let offset = 0; offset <= wanted.length; offset += 2)
          expect(ids(offset, 3)).toEqual(wanted.slice(offset, offset + 3));
        for (let id = 1; id < 15; id++)
          expect(list.placeOf(id) ?? -1)
            .withContext(`place of ${id}`)
            .toBe(wanted.indexOf(id));
        const matches = wanted.map((id) => table.row(id)!.cells[0].includes('a'));
        for (let from = -1; from <= wanted.length; from++) {
          const after = matches.indexOf(true, from + 1);
          expect(list.nextMatch(from))
            .withContext(`after ${from}`)
            .toBe(after < 0 ? undefined : after);
          const before = from <= 0 ? -1 : matches.lastIndexOf(true, from - 1);
          expect(list.nextMatch(from, true))
            .withContext(`before ${from}`)
            .toBe(before < 0 ? undefined : before);
        }
      }),
      { numRuns: 300 },
    );
  });

  it('go to their own places if they are to, and are said to be left where they have none', () => {
    const table = new Table(
      COLUMNS,
      ['1', '2', '3', '4'].map((worth, i) => ({ id: i + 1, cells: ['a', worth] })),
    );
    table.change(2, ['a', '9']);
    table.change(3, ['b', '3']);
    const stays = [2, 3].map((id) => ({ id, index: id - 1 }));
    const list = (moves: boolean): (number | boolean)[][] => {
      const staying = new Staying(
        searched(table, true, 'show only matches').view,
        stays.map((one) => ({ ...one, moves })),
      );
      expect(staying.misplaced).toBe(moves ? 1 : 2);
      return staying.rows(0, 9).map(({ segment, row, left }) => [table.segments[segment].ids[row], left]);
    };
    expect(list(false)).toEqual([
      [1, false],
      [2, false],
      [3, true],
      [4, false],
    ]);
    expect(list(true)).toEqual([
      [1, false],
      [4, false],
      [3, true],
      [2, false],
    ]);
  });
});
