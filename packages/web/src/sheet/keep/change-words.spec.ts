import type { Change } from '@usual-needle/contract';
import { cellWords, changeWords } from './change-words';
import { givenBy } from './new-row';
import { unfit } from './unfit';

const change = (more: Partial<Change>): Change => ({
  table: 1,
  number: 2,
  at: '2026-11-25T10:00:00Z',
  who: null,
  kind: 'edited',
  key: null,
  undoes: null,
  rows: 1,
  counts: { added: 0, changed: 1, removed: 0, columns: ['Status'] },
  rowChanges: null,
  columns: null,
  ...more,
});
const said = (more: Partial<Change>, own = false): string =>
  changeWords(change(more), own)
    .map(({ text }) => text)
    .join('');

describe('a change in words', () => {
  const counts = (columns: string[], more = {}) => ({ added: 0, changed: 1, removed: 0, columns, ...more });
  const cases: [says: string, change: Partial<Change>, own?: boolean][] = [
    ['Someone changed Status in 1 row', {}],
    [
      'T. Kessel changed Status and Shelf in 3 rows',
      { who: 'T. Kessel', rows: 3, counts: counts(['Status', 'Shelf']) },
    ],
    ['You changed A, B and 2 more columns in 1 row', { counts: counts(['A', 'B', 'C', 'D']) }, true],
    ['T. Kessel added 2 rows', { who: 'T. Kessel', kind: 'added', rows: 2 }],
    ['You filled Shelf down in 14 rows', { kind: 'filled', rows: 14, counts: counts(['Shelf']) }, true],
    ['Someone removed 1 row', { kind: 'removed' }],
    [
      'Refreshed: 38 added, 112 changed',
      { kind: 'refreshed', rows: 150, counts: counts([], { added: 38, changed: 112 }) },
    ],
    ['Brought in: 4,082 rows', { kind: 'brought in', rows: 4082, counts: null }],
    ['Someone undid change 7 in 1 row', { kind: 'undone', undoes: 7 }],
    [
      'O. Adair changed the columns Found at',
      {
        who: 'O. Adair',
        kind: 'columns',
        rows: 0,
        columns: { before: [{ name: 'Found at', kind: 'text' }], after: [{ name: 'Found at', kind: 'choice' }] },
      },
    ],
  ];
  for (const [says, of, own] of cases) it(says, () => expect(said(of, own)).toBe(says));

  it('of one cell, says what it was and what it became', () => {
    const rowChanges = [{ id: 1, before: ['a', 'Held'], after: ['a', ''] }];
    expect(cellWords(change({ rowChanges }), 2)).toEqual({ before: 'Held', after: 'blank' });
    expect(cellWords(change({ rowChanges: [...rowChanges, ...rowChanges] }), 2)).toBeUndefined();
  });
});

describe('a new row', () => {
  it('takes what the pickers leave no choice about', () => {
    const column = 'A';
    expect(
      [
        givenBy({ column, values: ['Held'] }),
        givenBy({ column, values: ['Held', 'Sold'] }),
        givenBy({ column, days: { from: '2026-11-25', to: '2026-11-25' } }),
        givenBy({ column, days: { from: '2026-11', to: '2026-11' } }),
        givenBy({ column, numbers: { from: 3, to: 3 } }),
        givenBy({ column, numbers: { from: 3, to: null } }),
        givenBy({ column, answer: 'yes' }),
        givenBy({ column, answer: 'either' }),
        givenBy({ column, letters: ['a'], position: 'starts' }),
      ].map((given) => given ?? ''),
    ).toEqual(['Held', '', '2026-11-25', '', '3', '', 'yes', '', '']);
  });
});

describe('a value that does not fit', () => {
  it('is told by the kind of its column, and blank ones always fit', () => {
    const doubts = [
      unfit('last week', { name: 'A', kind: 'date' }),
      unfit('31.02.2026', { name: 'A', kind: 'date', dateOrder: 'day first' }),
      unfit('7,5', { name: 'A', kind: 'number', decimal: 'comma' }),
      unfit('seven', { name: 'A', kind: 'number' }),
      unfit('maybe', { name: 'A', kind: 'yes/no' }),
      unfit('Yes', { name: 'A', kind: 'yes/no' }),
      unfit('anything', { name: 'A', kind: 'choice' }),
      unfit('  ', { name: 'A', kind: 'date' }),
    ];
    expect(doubts.map((words) => words !== '')).toEqual([true, true, false, true, true, false, false, false]);
  });
});
