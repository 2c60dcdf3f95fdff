import type { Column } from '@usual-needle/contract';
import { hidden, laidOut, shownAgain, shownOf, usualWidth } from './layout';

const ALL = ['A', 'B', 'C', 'D'].map((name) => ({ name, kind: 'text' }) as Column);
const names = (list: readonly { name: string }[]): string => list.map(({ name }) => name).join('');

describe('A13: columns that are hidden and shown again', () => {
  it('come back to where they were, as wide as they were', () => {
    const shown = [{ name: 'C' }, { name: 'A', width: 90 }, { name: 'B' }];
    const { columns, place } = hidden(shown, 'A')!;
    expect(names(columns)).toBe('CB');
    expect(shownAgain(columns, 'A', ALL, place)).toEqual(shown);
    // Others may have moved meanwhile.
    expect(names(shownAgain([{ name: 'B' }, { name: 'C' }], 'A', ALL, place))).toBe('BCA');
  });

  it('come to where the table has them, if nobody knows', () => {
    expect(names(shownAgain([{ name: 'A' }, { name: 'D' }], 'C', ALL, undefined))).toBe('ACD');
    expect(names(shownAgain([{ name: 'D' }], 'A', ALL, undefined))).toBe('AD');
  });

  it('are never the last one', () => {
    expect(hidden([{ name: 'A' }], 'A')).toBeUndefined();
    expect(hidden([{ name: 'A' }, { name: 'B' }], 'X')).toBeUndefined();
  });

  it('are laid out as the box says, or all as the table has them', () => {
    expect(names(laidOut(undefined, ALL))).toBe('ABCD');
    expect(laidOut([{ name: 'B', width: 77 }, { name: 'gone' }], ALL).map(({ name, width }) => [name, width])).toEqual([
      ['B', 77],
    ]);
    expect(names(shownOf(undefined, ALL))).toBe('ABCD');
    expect(usualWidth({ name: 'Description', kind: 'text' } as Column)).toBeGreaterThan(
      usualWidth({ name: 'Due', kind: 'date' } as Column),
    );
  });
});
