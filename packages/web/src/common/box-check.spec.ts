import { columnName, onTable, EMPTY_BOX, type TableSummary } from '@usual-needle/contract';
import { checkedBox } from './box-check';

const TABLE = {
  id: 1,
  name: 'T',
  rows: 0,
  version: 1,
  change: 1,
  changedAt: '',
  columns: [
    { name: 'Item', kind: 'text', formerly: ['Thing', 'What'] },
    { name: 'Status', kind: 'choice' },
  ],
} as TableSummary;

describe('A8: a box from outside', () => {
  const cases: [what: string, parts: unknown, box: object, leftOut: string[]][] = [
    ['nothing', null, {}, []],
    ['a number', 7, {}, []],
    ['a list', [1, 2], {}, []],
    ['what is right', { need: 'any word', flip: true }, { need: 'any word', flip: true }, []],
    ['a part of null, which is not set', { need: null }, { need: undefined }, []],
    ['a part of a wrong type', { need: 7, flip: true }, { flip: true }, ['“need”']],
    ['a part that there is not', { nedd: 1 }, {}, ['“nedd”']],
    ['a name of the language', JSON.parse('{"__proto__":{"flip":true}}'), {}, ['“__proto__”']],
    [
      'a list with some that are right',
      { threaded: ['Item', 7, null] },
      { threaded: ['Item'] },
      ['2 of the columns to search'],
    ],
    [
      'pickers of which one is none',
      { pickers: [{ column: 'Status', values: ['Held'] }, { column: 'Status', sometimes: true }, null] },
      { pickers: [{ column: 'Status', values: ['Held'] }] },
      ['2 of the pickers'],
    ],
    [
      'strands of null',
      { strands: [null, { verb: 'find', text: 'x' }] },
      { strands: [{ verb: 'find', text: 'x' }] },
      ['1 of the strands'],
    ],
    ['a list that is none', { sort: 'Status' }, {}, ['“sort”']],
  ];
  for (const [what, parts, box, leftOut] of cases) {
    it(`keeps what can be kept of ${what}, and says what could not`, () => {
      const checked = checkedBox(parts);
      expect(checked.box).toEqual(box);
      expect(checked.leftOut).toEqual(leftOut);
    });
  }

  it('takes no more strands than a box has, and looks only at the parts it is told to', () => {
    const strands = Array.from({ length: 40 }, () => ({ verb: 'plus', text: 'x' }));
    expect(checkedBox({ strands }).box.strands!.length).toBe(16);
    expect(checkedBox({ need: 'any word', flip: true }, new Set(['flip'])).box).toEqual({ flip: true });
  });

  it('finds columns by the names they had before, and leaves out those that went away', () => {
    expect(columnName(TABLE, 'What')).toBe('Item');
    expect(columnName(TABLE, 'item')).toBeUndefined();
    const { box, gone } = onTable(
      {
        ...EMPTY_BOX,
        threaded: ['Thing', 'Item', 'Gone'],
        columns: [{ name: 'What', width: 90 }, { name: 'Item' }, { name: 'Gone' }],
        sort: [{ column: 'Gone', direction: 'up' }],
        pickers: [{ column: 'Thing', values: ['x'] }],
      },
      TABLE,
    );
    expect(box).toEqual({
      ...EMPTY_BOX,
      threaded: ['Item'],
      columns: [{ name: 'Item', width: 90 }],
      sort: [],
      pickers: [{ column: 'Item', values: ['x'] }],
    });
    expect(gone).toEqual(['Gone']);
  });

  it('shows every column where none of those to show is left', () => {
    expect(onTable({ ...EMPTY_BOX, columns: [{ name: 'Gone' }] }, TABLE).box.columns).toBeUndefined();
  });
});
