import { REASON_KINDS, type WireReason } from '@usual-needle/contract';
import { reasonWords } from './reason-words';

const REASON = {
  kind: 'one keyword',
  change: { type: 'need any word' },
  rows: 3,
  keyword: 'umbrela',
  text: 'umbrella',
  found: 2,
} as unknown as WireReason;

describe('A12: what a reason says', () => {
  for (const kind of REASON_KINDS) {
    it(`${kind}: a sentence, and what its button does`, () => {
      const { text, button } = reasonWords({ ...REASON, kind, columns: [{ column: 'Marks', rows: 1 }] });
      expect(button).toMatch(/^[A-Z]/);
      expect(text).not.toContain('undefined');
      expect(button).not.toContain('undefined');
    });
  }

  it('that a word is in no row, and that words are not in one row, are two things', () => {
    expect(reasonWords({ ...REASON, found: 0 }).text).toBe('is in no row.');
    expect(reasonWords({ ...REASON, found: undefined }).text).toBe('is not in one row with the others.');
  });

  it('many columns are told as the first few', () => {
    const columns = ['A', 'B', 'C', 'D', 'E', 'F'].map((column) => ({ column, rows: 1 }));
    expect(reasonWords({ ...REASON, kind: 'other columns', columns }).button).toBe('Thread A, B, C and 3 more too');
  });
});
