import type { Offers } from '@usual-needle/contract';
import { barsOf } from './chart-bars';

const offers = (values: Record<string, number>): Offers => ({
  values: Object.entries(values).map(([value, rows]) => ({ value, rows })),
  count: 0,
  range: null,
});

describe('the bars of the chart', () => {
  it('part the rows of each value into matches and the rest', () => {
    const bars = barsOf(
      { name: 'Status', kind: 'choice' },
      offers({ Held: 2, '': 1 }),
      offers({ Held: 5, Returned: 3, '': 1, Lost: 0 }),
    );
    expect(bars).toEqual([
      { label: 'Held', matches: 2, rest: 3, picker: { column: 'Status', values: ['Held'] } },
      { label: 'Returned', matches: 0, rest: 3, picker: { column: 'Status', values: ['Returned'] } },
      { label: 'blank', matches: 1, rest: 0, picker: { column: 'Status', values: [''] } },
    ]);
  });

  it('put the smallest of many values together, and lose no row', () => {
    const all = Object.fromEntries(Array.from({ length: 60 }, (_, i) => [`v${i}`, i + 1]));
    const bars = barsOf({ name: 'A', kind: 'choice' }, offers({ v3: 4 }), offers(all));
    expect(bars.length).toBe(40);
    expect(bars.some(({ label, matches }) => label === 'v3' && matches === 4)).toBe(true);
    expect(bars.at(-1)).toEqual(jasmine.objectContaining({ label: '21 others', picker: undefined }));
    expect(bars.reduce((sum, { matches, rest }) => sum + matches + rest, 0)).toBe((60 * 61) / 2);
  });

  it('narrow to days and whole numbers that belong to one bar only', () => {
    const range = (bins: number[]): Offers => ({ values: [], count: 0, range: { least: 0, most: 10, bins } });
    const days = barsOf({ name: 'On', kind: 'date' }, range([1, 0, 2]), range([4, 1, 2]));
    expect(days.map(({ matches, rest }) => [matches, rest])).toEqual([
      [1, 3],
      [0, 1],
      [2, 0],
    ]);
    expect(days.map(({ picker }) => picker)).toEqual([
      { column: 'On', days: { from: '1970-01-01', to: '1970-01-04' } },
      { column: 'On', days: { from: '1970-01-05', to: '1970-01-07' } },
      { column: 'On', days: { from: '1970-01-08', to: '1970-01-11' } },
    ]);
    const numbers = barsOf({ name: 'N', kind: 'number' }, range([0, 0]), range([1, 1]));
    expect(numbers.map(({ picker }) => picker)).toEqual([
      { column: 'N', numbers: { from: 0, to: 4 } },
      { column: 'N', numbers: { from: 5, to: 10 } },
    ]);
  });
});
