import { mayBeCut, surelyFits } from './text-width';

const ASCII = Array.from({ length: 0x7f - 0x20 }, (_, i) => String.fromCharCode(0x20 + i));
const SIDES = 16;

/** The least width of a cell that a text is in for sure. */
function leastWidth(text: string): number {
  let width = 0;
  while (!surelyFits(text, width)) width++;
  return width;
}

describe('the width of a text', () => {
  for (const font of ['14px sans-serif', '13px monospace', '14px system-ui'])
    it(`is at least as great as a browser draws it, in ${font}`, () => {
      const context = document.createElement('canvas').getContext('2d')!;
      context.font = font;
      for (const sign of ASCII) {
        const text = sign.repeat(10);
        expect(leastWidth(text) - SIDES)
          .withContext(text)
          .toBeGreaterThanOrEqual(context.measureText(text).width);
      }
    });

  it('is not told of signs that may be of any width, and of none that is not drawn', () => {
    for (const text of ['ü', '鍵', '🔑', 'a\u0301', '\t', '\n', '\u202e', '\u007f'])
      expect(surelyFits(text, 10_000)).withContext(text).toBe(false);
    expect(surelyFits('', SIDES)).toBe(true);
    expect(surelyFits('', SIDES - 1)).toBe(false);
  });

  it('leaves a date in its usual column uncut, and lets a long text be cut', () => {
    expect(surelyFits('19 Jun 2015', 120)).toBe(true);
    expect(surelyFits('a black umbrella with a wooden handle', 300)).toBe(false);
    expect(mayBeCut('a black umbrella with a wooden handle, left on a bench', 300)).toBe(true);
    expect(mayBeCut('umbrella', 300)).toBe(false);
  });
});
