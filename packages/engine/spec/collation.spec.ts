import fc from 'fast-check';
import { compareTexts } from '@usual-needle/engine';

const letters = fc.constantFrom(
  'a',
  'b',
  'A',
  'B',
  'é',
  'e\u0301',
  'z',
  '1',
  '2',
  '10',
  ' ',
  '-',
  '.',
  '’',
  'ß',
  'ss',
  'æ',
  'l',
  '·',
  '\u0301',
  '_',
  'ł',
  'の',
  '😀',
);
const text = fc.array(letters, { maxLength: 8 }).map((parts) => parts.join(''));

describe('the order of texts', () => {
  it('is the collator’s, though it is not always asked', () => {
    const collator = new Intl.Collator('en', { numeric: true });
    fc.assert(
      fc.property(text, text, text, (beginning, a, b) => {
        const [one, other] = [beginning + a, beginning + b];
        expect(compareTexts(one, other))
          .withContext(JSON.stringify([one, other]))
          .toBe(Math.sign(collator.compare(one.trim(), other.trim())));
      }),
      { numRuns: 20_000 },
    );
  });
});
