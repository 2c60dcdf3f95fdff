/** Cells of many thousand letters: they are told apart, cut into segments and built step by step, by their letters. */
import { blankQuestion, finished, type Question, type Row, Search, Table, windowRows } from '@usual-needle/engine';
import fc from 'fast-check';
import { TextMap } from '../dist/text/text-map.js';

const COLUMNS = [
  { name: 'No', kind: 'number' },
  { name: 'Text', kind: 'text' },
] as const;

/** Rows whose texts are long, alike, and different in their last letters only. */
const rowsOf = (count: number, letters: number): Row[] =>
  Array.from({ length: count }, (_, i) => ({
    id: i + 1,
    cells: [String(i), `${'lost umbrella '.repeat(letters / 14)}${String(i).padStart(4, '0')}`],
  }));

const idsOf = (table: Table, more: Partial<Question>, from = 0, count = 1_000): number[] =>
  windowRows(new Search(table, { ...blankQuestion([1]), ...more }).run(), from, count, []).map(({ id }) => id);
const found = (table: Table, text: string): number[] =>
  idsOf(table, { strands: [{ verb: 'find', text, reading: 'words' }] });

describe('a map from texts', () => {
  it('does what a map does, of texts that are short, long, and of one length', () => {
    const text = fc
      .tuple(
        fc.constantFrom('', 'x'.repeat(15_999), 'y'.repeat(16_000), 'y'.repeat(40_000)),
        fc.constantFrom('', 'a', 'b'),
      )
      .map(([long, end]) => long + end);
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom('set', 'delete'), text, fc.nat(9))), (commands) => {
        const [map, plain] = [new TextMap<number>(), new Map<string, number>()];
        for (const [command, key, value] of commands) {
          if (command === 'set') {
            map.set(key, value);
            plain.set(key, value);
          } else {
            map.delete(key);
            plain.delete(key);
          }
          expect(map.get(key)).toBe(plain.get(key));
          expect(map.has(key)).toBe(plain.has(key));
        }
        expect(map.size).toBe(plain.size);
        expect([...map.keys()]).toEqual([...plain.keys()]);
        expect([...map.values()]).toEqual([...plain.values()]);
      }),
      { numRuns: 300 },
    );
  });
});

describe('long cells', () => {
  it('are taken in and built in steps that are counted by letters, not by rows', () => {
    const rows = rowsOf(60, 70_000);
    const table = new Table(COLUMNS);
    let steps = 0;
    for (const work of [table.appendSteps(rows), table.buildIndexes()]) {
      while (!work.next().done) steps++;
    }
    // A quarter of a million letters a step, at most, in each of the passes.
    expect(steps).toBeGreaterThan((60 * 70_000) / (1 << 18));
    expect(found(table, '0042')).toEqual([43]);
    expect(found(table, 'umbrella')).toHaveSize(60);
  });

  it('fill a segment by their letters; what is added rebuilds no large one', () => {
    const rows = rowsOf(40, 700_000);
    const table = new Table(COLUMNS);
    finished(table.appendSteps(rows));
    const before = [...table.segments];
    expect(before.length).toBeGreaterThan(1);
    expect(before.reduce((sum, { rowCount }) => sum + rowCount, 0)).toBe(40);
    finished(table.appendSteps([{ id: 41, cells: ['41', 'a hat'] }]));
    expect(table.segments.slice(0, before.length)).toEqual(before);
    finished(table.appendSteps([{ id: 42, cells: ['42', 'a glove'] }]));
    expect(table.segments.length).toBe(before.length + 1);
    expect(found(table, '0007')).toEqual([8]);
    expect(found(table, 'a hat')).toEqual([41]);
    expect(found(table, 'glove')).toEqual([42]);
    expect(found(table, 'umbrella')).toHaveSize(40);
  });

  it('are told apart where they are picked, sorted and looked up by', () => {
    const table = new Table(COLUMNS, rowsOf(30, 21_000));
    expect(idsOf(table, { sort: [{ column: 1, direction: 'down', by: 'value' }] }, 0, 3)).toEqual([30, 29, 28]);
    const values = [table.cellText(7, 1)!];
    expect(idsOf(table, { pickers: [{ type: 'values', column: 1, values }] })).toEqual([7]);
  });
});
