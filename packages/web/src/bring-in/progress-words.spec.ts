import type { Look, Trouble } from '@usual-needle/formats';
import { lookWords, progressWords } from './progress-words';

const trouble = (what: Trouble['what'], count: number): Trouble => ({ what, column: 0, count, examples: [] });
const LOOK = {
  found: { format: 'csv', delimiter: ';', encoding: 'windows-1252', header: true, packed: false },
  columns: [{ taken: true }, { taken: true }, { taken: false }],
  rows: 1_200,
  bytes: 1_500_000,
  done: false,
  troubles: [],
} as unknown as Look;

describe('what is said of a file that is looked through', () => {
  it('tells how far it is, and what will be taken of it', () => {
    const words = lookWords(LOOK, 3_000_000);
    expect(words.part).toBe(0.5);
    expect(words.rows).toBe('1,200 rows so far');
    expect(words.columns).toBe('2 of 3 columns');
    expect(words.read).toBe('1,200 rows read · 1.5 MB');
    const done = lookWords({ ...LOOK, done: true, rows: 1, columns: LOOK.columns.slice(0, 1) }, 3_000_000);
    expect([done.part, done.rows, done.columns]).toEqual([1, '1 row', '1 column']);
    expect(done.read).toContain('every row looked at');
  });

  it('is never beyond the end, nor of an empty file', () => {
    expect(lookWords(LOOK, 1_000).part).toBe(1);
    expect(lookWords({ ...LOOK, bytes: 0 }, 0).part).toBe(0);
  });

  it('counts what wants a look, cells and rows and columns apart', () => {
    const wanting = (...troubles: Trouble[]): string => lookWords({ ...LOOK, troubles }, 1).wanting;
    expect(wanting()).toBe('');
    expect(wanting(trouble('misfit', 1))).toBe('1 cell wants a look');
    expect(wanting(trouble('misfit', 3), trouble('tooFew', 1))).toBe('3 cells and 1 row want a look');
    expect(wanting(trouble('misfit', 1), trouble('tooMany', 2), trouble('open order', 4))).toBe(
      '1 cell, 2 rows, 1 column want a look',
    );
  });
});

describe('what is said of a file that is sent', () => {
  it('tells the share, the speed and what is left, once they can be told', () => {
    expect(progressWords({ sent: 10, size: 1_000, seconds: 0.2 }, 5_000)).toEqual({ part: 0.01, says: '1 % sent' });
    expect(progressWords({ sent: 500, size: 1_000, seconds: 2 }, 5_000).says).toBe(
      '50 % sent · 1,250 rows a second · 2 s left',
    );
  });

  it('says that all is sent, of an empty file too', () => {
    const all = 'All of it is sent; the last rows are being made searchable';
    expect(progressWords({ sent: 1_000, size: 1_000, seconds: 9 }, 5_000)).toEqual({ part: 1, says: all });
    expect(progressWords({ sent: 0, size: 0, seconds: 0 }, 0)).toEqual({ part: 1, says: all });
  });
});
