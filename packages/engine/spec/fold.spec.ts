import fc from 'fast-check';
import { foldCase, fold, foldWithOffsets, isBlank, type FoldSetting } from '@usual-needle/engine';

const BOTH: FoldSetting = { case: 'ignore', accents: 'ignore' };
const CASE: FoldSetting = { case: 'respect', accents: 'ignore' };
const ACCENTS: FoldSetting = { case: 'ignore', accents: 'respect' };
const STRICT: FoldSetting = { case: 'respect', accents: 'respect' };

/** Text of the sort that goes wrong: accents both ways, ligatures, emoji, spaces, lone surrogates. */
export const hostileText = fc
  .array(
    fc.oneof(
      fc.constantFrom(
        'a',
        'B',
        'ß',
        'ẞ',
        'İ',
        'ı',
        'ﬁ',
        'Ǆ',
        'é',
        'e\u0301',
        '\u0301',
        '\u0323',
        'ø',
        'Æ',
        'Ł',
        'œ',
        'þ',
        'Σ',
        'ς',
        'ŉ',
        'ǰ',
        'ΐ',
        '👩🏽‍🚀',
        '🇵🇱',
        '한',
        '\u1112\u1161\u11ab',
        'שלום',
        '\ud800',
        '\udc00',
        ' ',
        '\u00a0',
        '\n',
        '\t',
        '\u2003',
        '–',
        '−',
        '“',
        '’',
        '½',
        '´',
        '0',
      ),
      fc.string({ unit: 'binary', maxLength: 3 }),
    ),
    { maxLength: 12 },
  )
  .map((parts) => parts.join(''));

describe('fold', () => {
  const table: [string, FoldSetting, string][] = [
    ['Umbrella', BOTH, 'umbrella'],
    ['Brückl', BOTH, 'bruckl'],
    ['Bru\u0308ckl', BOTH, 'bruckl'],
    ['SØNDRE', BOTH, 'sondre'],
    ['Łucja', BOTH, 'lucja'],
    ['Đorđe Ðóra Þór', BOTH, 'dorde dora thor'],
    ['Æther œuvre', BOTH, 'aether oeuvre'],
    ['Straße STRAẞE', BOTH, 'strasse strasse'],
    ['ılık İzmir', BOTH, 'ilik izmir'],
    ['ﬁsh Ǆ', BOTH, 'fish dz'],
    ['ΣΊΣΥΦΟΣ', BOTH, 'σισυφοσ'],
    ['Brückl', CASE, 'Bruckl'],
    ['Łódź ÆØ', CASE, 'Lodz AEO'],
    ['Brückl', ACCENTS, 'brückl'],
    ['Bru\u0308ckl', ACCENTS, 'brückl'],
    ['Straße', ACCENTS, 'strasse'],
    ['ı', ACCENTS, 'ı'],
    ['ﬁsh', ACCENTS, 'fish'],
    ['Brückl ﬁ', STRICT, 'Brückl ﬁ'],
    ['  two\t\r\n spaces\u00a0\u2003here ', BOTH, 'two spaces here'],
    ['“quote” ‘one’ „low‟', STRICT, '"quote" \'one\' "low"'],
    ['a–b—c−d‑e', STRICT, 'a-b-c-d-e'],
    ['\u0301', BOTH, ''],
    ['👩🏽‍🚀', BOTH, '👩🏽‍🚀'],
  ];
  for (const [text, setting, expected] of table) {
    it(`reads ${JSON.stringify(text)} as ${JSON.stringify(expected)} (case ${setting.case}, accents ${setting.accents})`, () => {
      expect(fold(text, setting)).toBe(expected);
    });
  }

  for (const setting of [BOTH, CASE, ACCENTS, STRICT]) {
    const name = `case ${setting.case}, accents ${setting.accents}`;
    it(`changes nothing when done twice (${name})`, () => {
      fc.assert(
        fc.property(hostileText, (text) => {
          const once = fold(text, setting);
          expect(fold(once, setting)).toBe(once);
        }),
      );
    });

    it(`gives the same text with and without offsets, and offsets inside the source (${name})`, () => {
      fc.assert(
        fc.property(hostileText, (text) => {
          const folded = foldWithOffsets(text, setting);
          expect(folded.text).toBe(fold(text, setting));
          expect(folded.starts.length).toBe(folded.text.length);
          for (let i = 0; i < folded.starts.length; i++) {
            expect(folded.starts[i]).toBeLessThan(folded.ends[i]);
            expect(folded.ends[i]).toBeLessThanOrEqual(text.length);
            if (i > 0) expect(folded.starts[i]).toBeGreaterThanOrEqual(folded.starts[i - 1]);
            expect(/^\p{M}/u.test(text.slice(folded.ends[i]))).toBe(false);
          }
        }),
      );
    });
  }

  it('knows that only spaces are blank', () => {
    for (const blank of ['', ' ', '\t\n', '\u00a0\u2003\u3000']) expect(isBlank(blank)).toBe(true);
    for (const filled of ['a', ' a ', '-', '\u0301']) expect(isBlank(filled)).toBe(false);
  });

  it('tells letters apart by case as the platform’s own table of simple case folding does', () => {
    let compared = 0;
    for (let codePoint = 0; codePoint < 0x1ffff; codePoint++) {
      if (codePoint >= 0xd800 && codePoint < 0xe000) continue;
      const letter = String.fromCodePoint(codePoint);
      const others = [letter.toLowerCase(), letter.toUpperCase()].filter(
        (one) => one !== letter && [...one].length === 1,
      );
      for (const other of others) {
        const same = new RegExp(`^\\u{${codePoint.toString(16)}}$`, 'iu').test(other);
        // What the simple table keeps apart may still fold alike in full (`ẞ` and `ß`), but never the other way.
        if (!same) continue;
        compared++;
        expect(foldCase(letter)).withContext(`${letter} ${other}`).toBe(foldCase(other));
      }
    }
    expect(compared).toBeGreaterThan(2_500);
  });
});
