import type { MarkTuple } from '@usual-needle/contract';
import { cellParts, stitchOf } from './cell-parts';

describe('cell parts', () => {
  const drawn = (text: string, marks: MarkTuple[]) =>
    cellParts(text, marks).map(({ text, mark }) => (mark ? `[${text}]${/k(\d)/.exec(mark)![1]}` : text));

  it('cut a cell at its marks', () => {
    expect(drawn('', [])).toEqual([]);
    expect(drawn('plain', [])).toEqual(['plain']);
    expect(
      drawn('umbrella wood', [
        [0, 0, 4, 1],
        [0, 9, 13, 2],
      ]),
    ).toEqual(['[umbr]1', 'ella ', '[wood]2']);
  });

  it('draw the first keyword where two overlap', () => {
    expect(
      drawn('woodwork', [
        [0, 0, 4, 2],
        [0, 2, 6, 1],
      ]),
    ).toEqual(['[wo]2', '[od]1', '[wo]1', 'rk']);
  });

  it('have a stitch of their own for ten keywords', () => {
    expect(new Set(Array.from({ length: 10 }, (_, i) => stitchOf(i + 1))).size).toBe(10);
    expect(stitchOf(6)).toBe('mark k1 heavy');
    expect(stitchOf(11)).toBe(stitchOf(1));
  });
});
