import { blankQuestion, Search, Table, type Question, type Row } from '@usual-needle/engine';
import { RowChanges } from '../dist/store/row-changes.js';

describe('the changes of a segment', () => {
  it('are told row by row since a version, as long as they are known', () => {
    const changes = new RowChanges();
    for (const row of [4, 2, 4]) changes.row(row);
    expect(changes.since(0)).toEqual([4, 2, 4]);
    expect(changes.since(2)).toEqual([4]);
    expect(changes.since(3)).toEqual([]);
    changes.all();
    expect(changes.since(3)).toBeUndefined();
    expect(changes.since(changes.version)).toEqual([]);
    const before = changes.version;
    for (let row = 0; row < 1_500; row++) changes.row(row);
    expect(changes.since(before)).toBeUndefined();
    expect(changes.since(changes.version - 300)).toEqual(Array.from({ length: 300 }, (_, i) => 1_200 + i));
  });
});

describe('what was answered before', () => {
  const cellsOf = (i: number): string[] => [['umbrella', 'hat', 'glove'][i % 3], `LP-${i}`];
  const rows = (count: number): Row[] => Array.from({ length: count }, (_, i) => ({ id: i + 1, cells: cellsOf(i) }));
  const columns = [
    { name: 'Thing', kind: 'text' as const },
    { name: 'No', kind: 'text' as const },
  ];
  const asking = (text: string, reading: 'words' | 'pattern' = 'words'): Question => ({
    ...blankQuestion([0, 1]),
    strands: [{ verb: 'find', text, reading }],
  });
  const QUESTIONS = [
    asking('hat'),
    asking('-hat'),
    asking('hat or glove -1'),
    asking('LP-1?'),
    asking('Thing:=hat'),
    asking('hat~'),
    asking('^(hat|LP-.7)', 'pattern'),
    { ...asking('hat'), pickers: [{ type: 'values' as const, column: 0, values: ['hat', 'glove'] }] },
  ];
  const matched = (table: Table): number[] => QUESTIONS.map((question) => new Search(table, question).run().matched);

  // One row, and more rows than are told of one by one.
  for (const many of [1, 700, 1_600])
    it(`is true of the cells as they are after ${many} changes, and after rows are read in another way`, () => {
      const now = rows(2_000);
      const table = new Table(columns, now);
      matched(table);
      for (let i = 0; i < many; i++) {
        const cells = cellsOf(i + 1);
        now[i] = { id: i + 1, cells };
        table.apply([{ id: i + 1, after: cells }]);
      }
      table.apply([{ id: 1_900, after: null }]);
      const anew = (): Table => new Table(table.columns, [...now.slice(0, 1_899), ...now.slice(1_900)]);
      expect(matched(table)).toEqual(matched(anew()));
      table.respecify([{ name: 'Thing', kind: 'choice' }, columns[1]]);
      expect(matched(table)).toEqual(matched(anew()));
      table.apply([{ id: 1, after: ['hat', 'LP-17'] }]);
      now[0] = { id: 1, cells: ['hat', 'LP-17'] };
      expect(matched(table)).toEqual(matched(anew()));
    });
});
