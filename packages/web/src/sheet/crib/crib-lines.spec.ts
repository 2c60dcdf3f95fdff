import { parse, DEFAULT_SETTINGS } from '@usual-needle/engine';
import type { Column } from '@usual-needle/contract';
import { cribGroups } from './crib-lines';
import { cribValues, scopeOf, termOf, type ShownRow } from './crib-values';

const COLUMNS: Column[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Colour', kind: 'choice' },
  { name: 'Found on', kind: 'date' },
  { name: 'Found at', kind: 'text' },
  { name: 'Worth', kind: 'number', decimal: 'comma' },
];
const rows = (cells: readonly string[][]): ShownRow[] =>
  cells.map((row) => new Map(COLUMNS.map(({ name }, i) => [name, row[i] ?? ''])));
const ROWS = rows([
  ['Old leather satchel', 'dark brown', '5 Jan 2026', 'Quay', '1.250,50'],
  ['wooden Umbrella 405', 'red', '6 Jan 2026', '', '12'],
]);
const isSearched = ({ name }: Column): boolean => name !== 'Colour';
const values = cribValues(ROWS, COLUMNS, isSearched);

describe('the crib', () => {
  it('is made of values of the table', () => {
    expect(values.words).toEqual(['leather', 'satchel']);
    expect(values.other).toBe('wooden');
    expect(values.choice).toEqual({ scope: 'colour', cell: 'dark brown' });
    expect(values.date).toEqual({ scope: '"Found on"', cell: '5 Jan 2026' });
    expect(values.number?.cell).toBe('1.250,50');
    expect(values.partly).toBe('"Found at"');
  });

  it('names columns and cells so that they are read as meant', () => {
    expect(scopeOf('Found on', COLUMNS)).toBe('"Found on"');
    expect(scopeOf('Worth in all', [{ name: 'Worth in all' }])).toBe('worth');
    expect(scopeOf('A "b"', [{ name: 'A "b"' }, { name: 'A "b" c' }])).toBe('"A \\"b\\""');
    expect(termOf('red')).toBe('red');
    expect(termOf('5 Jan "26"')).toBe('"5 Jan \\"26\\""');
  });

  it('has only lines that are read without a word of complaint', () => {
    for (const reading of ['words', 'plain text', 'wildcards', 'pattern'] as const) {
      const groups = cribGroups(values, reading);
      expect(groups.length).withContext(reading).toBeGreaterThan(0);
      for (const { lines } of groups)
        for (const { text } of lines) {
          const { notices, problem, tree } = parse(text, DEFAULT_SETTINGS, COLUMNS, reading);
          expect([notices, problem]).withContext(text).toEqual([[], undefined]);
          expect(tree).withContext(text).toBeDefined();
        }
    }
  });

  it('is not made of what is too long to be read, nor held up by it', () => {
    const long = 'a'.repeat(100_000);
    const cells = [`${long}!`, long, `${long} ${long}`, `${'b'.repeat(500)} end`];
    const found = cribValues(rows(cells.map((cell) => [cell, cell, cell, cell, `1${cell}`])), COLUMNS, isSearched);
    expect([found.words, found.first, found.choice, found.date, found.number]).toEqual(Array(5).fill(undefined));
    expect(found.last).toBe('end');
  });

  it('has patterns to begin with even where no cell has two words', () => {
    const none = cribValues(rows([['a1', '', '', '', '']]), COLUMNS, isSearched);
    expect(none.words).toBeUndefined();
    expect(cribGroups(none, 'pattern').flatMap(({ lines }) => lines.map(({ text }) => text))).toEqual(['\\d{3}$']);
  });
});
