import type { LaidOutColumn } from '../state/layout';
import { headsOf } from './heads';

const COLUMNS: LaidOutColumn[] = ['A', 'B', 'C'].map((name) => ({
  name,
  kind: 'text',
  spec: { name, kind: 'text' },
  width: 100,
  code: false,
}));
const none = new Map<string, number>();

describe('A5, B4: the headers of the columns', () => {
  it('say how many rows hit, by name, in threaded columns only', () => {
    const heads = headsOf(
      COLUMNS,
      new Set(['A', 'C']),
      [],
      new Map([
        ['C', 1],
        ['B', 7],
        ['A', 1_234],
      ]),
    );
    expect(heads.map(({ hits }) => hits)).toEqual(['1,234 rows', '', '1 row']);
    expect(heads.map(({ label }) => label)).toEqual(['A, 1,234 rows match here', 'B', 'C, 1 row match here']);
    expect(heads.map(({ threaded }) => threaded)).toEqual([true, false, true]);
  });

  it('say nothing of a column that the answer on show is not of', () => {
    expect(headsOf(COLUMNS, new Set(['A', 'B', 'C']), [], none).every(({ hits }) => hits === '')).toBeTrue();
  });

  it('say what is sorted and which way, with the level where there are several', () => {
    const one = headsOf(COLUMNS, new Set(), [{ column: 'B', direction: 'down' }], none);
    expect(one.map(({ sorted, ariaSort }) => [sorted, ariaSort])).toEqual([
      ['', null],
      [' ↓', 'descending'],
      ['', null],
    ]);
    const two = headsOf(
      COLUMNS,
      new Set(),
      [
        { column: 'C', direction: 'up' },
        { column: 'A', direction: 'down' },
      ],
      none,
    );
    expect(two.map(({ sorted }) => sorted)).toEqual([' ↓2', '', ' ↑1']);
  });
});
