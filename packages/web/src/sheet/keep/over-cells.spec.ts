import type { Clash, EditRequest } from '@usual-needle/contract';
import { besideTheirs, mineOf } from './clash-ways';
import { overBoth, overOf } from './over-cells';

const edit = (more: Partial<EditRequest>): EditRequest =>
  ({ key: 'k', kind: 'edited', columns: ['Status', 'Shelf'], ...more }) as EditRequest;
const clash = (id: number, column: string | null, theirs: string | null): Clash =>
  ({ id, column, theirs, number: 7, who: null }) as unknown as Clash;

const TWO_ROWS = edit({
  changed: [
    { id: 1, was: ['Held', 'A'], now: ['Sold', 'B'] },
    { id: 2, was: ['Held', 'C'], now: ['Sold', null] },
  ],
});

describe('cells whose edits are on their way', () => {
  it('hold what the last of them says, and nothing where an edit leaves them', () => {
    const later = edit({ columns: ['Status'], changed: [{ id: 1, was: ['Sold'], now: ['Police'] }] });
    const over = overOf([{ request: TWO_ROWS }, { request: later }], []);
    expect([...over.get(1)!].map(([column, { text }]) => [column, text])).toEqual([
      ['Status', 'Police'],
      ['Shelf', 'B'],
    ]);
    expect([...over.get(2)!.keys()]).toEqual(['Status']);
    expect(overOf([], []).size).toBe(0);
  });

  it('are told to clash where they do, by cell, or all of a row that has gone', () => {
    const over = overOf([], [{ request: TWO_ROWS, clashes: [clash(1, 'Shelf', 'Z'), clash(2, null, null)] }]);
    expect([over.get(1)!.get('Status')!.clashes, over.get(1)!.get('Shelf')!.clashes]).toEqual([false, true]);
    expect(over.get(2)!.get('Status')!.clashes).toBe(true);
  });
});

describe('what was on its way and what is', () => {
  it('are one, cell by cell, and what is goes above', () => {
    const cell = (text: string): { text: string; clashes: boolean } => ({ text, clashes: false });
    const was = new Map([
      [
        1,
        new Map([
          ['A', cell('a')],
          ['B', cell('b')],
        ]),
      ],
    ]);
    const is = new Map([
      [1, new Map([['B', cell('c')]])],
      [2, new Map([['A', cell('d')]])],
    ]);
    const both = overBoth(was, is);
    expect([...both.get(1)!].map(([name, { text }]) => name + text)).toEqual(['Aa', 'Bc']);
    expect(both.get(2)!.get('A')!.text).toBe('d');
    expect(was.get(1)!.get('B')!.text).toBe('b');
  });
});

describe('the ways out of a clash', () => {
  const clashes = [clash(1, 'Shelf', 'Z'), clash(2, null, null)];

  it('mine is written over what the others wrote, but not into a row that has gone', () => {
    const request = { ...TWO_ROWS, removed: [{ id: 3, seen: 4 }] };
    const { changed, removed } = mineOf({ request, clashes }, 9);
    expect(changed).toEqual([{ id: 1, was: ['Held', 'Z'], now: ['Sold', 'B'] }]);
    expect(removed).toEqual([{ id: 3, seen: 9 }]);
  });

  it('what does not clash is written beside theirs, and nothing where all of it does', () => {
    expect(besideTheirs({ request: TWO_ROWS, clashes })!.changed).toEqual([
      { id: 1, was: ['Held', 'A'], now: ['Sold', null] },
    ]);
    const all = [clash(1, 'Status', 'X'), ...clashes];
    expect(besideTheirs({ request: TWO_ROWS, clashes: all })).toBeUndefined();
    expect(besideTheirs({ request: { ...TWO_ROWS, added: [['New', '']] }, clashes: all })!.added).toEqual([
      ['New', ''],
    ]);
  });
});
