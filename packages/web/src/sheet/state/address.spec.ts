import type { Box } from '@usual-needle/contract';
import { boxAt, readAddress, writeAddress } from './address';

const KEPT: Box = {
  format: 'usual-needle box',
  version: 1,
  threaded: ['A', 'B'],
  strands: [{ verb: 'find', text: '' }],
};

describe('the address of a search', () => {
  const boxes: [string, Partial<Box>][] = [
    ['as it is kept', {}],
    ['a text', { strands: [{ verb: 'find', text: 'a&b=c#d %20+ Łódź “x”' }] }],
    [
      'strands',
      {
        strands: [
          { verb: 'find', text: 'x', reading: 'pattern' },
          { verb: 'minus', text: 'y|z' },
        ],
      },
    ],
    [
      'columns, pickers, sort and flip',
      {
        threaded: ['Finder’s note'],
        pickers: [{ column: 'A', values: ['1?2'] }],
        sort: [{ column: 'A', direction: 'down' }],
        flip: true,
      },
    ],
    [
      'wording, columns and behaviour',
      { name: 'B', wording: { prompt: 'What?' }, columns: [{ name: 'A', width: 90 }], searches: 'on Enter' },
    ],
    ['settings', { need: 'any word', where: 'whole cell', effect: 'mark in place', grain: 'rows' }],
  ];
  for (const [what, more] of boxes) {
    it(`reads back ${what}`, () => {
      const box = { ...KEPT, ...more };
      const query = writeAddress(box, KEPT);
      expect(boxAt(KEPT, readAddress(query === '' ? '/box/1' : `/box/1?${query}`))).toEqual(box);
    });
  }

  it('is empty for a box as it is kept', () => expect(writeAddress(KEPT, KEPT)).toBe(''));

  it('carries that something was taken away', () => {
    const kept: Box = { ...KEPT, sort: [{ column: 'A', direction: 'up' }], columns: [{ name: 'A' }] };
    const box: Box = { ...kept, columns: undefined };
    expect(boxAt(kept, readAddress(`/box/1?${writeAddress(box, kept)}`))).toEqual(box);
  });

  it('takes nothing from it that is of no use', () => {
    const as = encodeURIComponent('{"threaded":"A","sort":[1],"pickers":{},"flip":"yes","need":"any word"}');
    expect(boxAt(KEPT, readAddress(`/box/1?as=${as}`))).toEqual({ ...KEPT, sort: [], need: 'any word' });
  });

  it('opens the box even if it was cut short', () => {
    expect(boxAt(KEPT, readAddress('/box/1?q=x&as={"flip":tr'))).toEqual({
      ...KEPT,
      strands: [{ verb: 'find', text: 'x' }],
    });
  });
});
