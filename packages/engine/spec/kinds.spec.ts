import { guessKind, plainText, readDate, readNumber, shownText, type ColumnSpec } from '@usual-needle/engine';

describe('kinds', () => {
  const guesses: [string[], string][] = [
    [['1', '2.5', '-3', '1,250.50'], 'number'],
    [['007', '12'], 'text'],
    [['+48 600 100 200', '12'], 'text'],
    [['0612345678'], 'text'],
    [['12345678901234567'], 'text'],
    [['2026-11-18', '18 Nov 2026', ''], 'date'],
    [['18/11/2026', '01/02/2026'], 'date'],
    [['03/04/2026', '05/06/2026'], 'text'],
    [['2026-02-30'], 'text'],
    [['yes', 'No', ''], 'yes/no'],
    [['red', 'blue', 'red', 'red', 'blue', 'red', 'red', 'blue', 'red', 'red'], 'choice'],
    [['a', 'b', 'c'], 'text'],
    [['', ' '], 'text'],
  ];
  for (const [cells, kind] of guesses) {
    it(`takes ${cells.join(' · ')} for ${kind}`, () => expect(guessKind(cells).kind).toBe(kind as never));
  }

  it('says which date cannot be told', () => {
    const { problems } = guessKind(['', '03/04/2026', '05/06/2026']);
    expect(problems).toEqual([{ row: 2, message: '03/04/2026 could be day first or month first; say which to read this column as dates' }]); // prettier-ignore
    expect(guessKind(['18/11/2026']).dateOrder).toBe('day first');
    expect(guessKind(['11/18/2026']).dateOrder).toBe('month first');
  });

  it('reads numbers and dates, and refuses what is none', () => {
    expect(['1,250.50', '-3', '\u22123', '.5', '1,25', '1 250', ''].map((raw) => readNumber(raw))).toEqual([1250.5, -3, -3, 0.5, undefined, undefined, undefined]); // prettier-ignore
    expect(readDate('2026-11-18')).toBe(Date.UTC(2026, 10, 18) / 86_400_000);
    expect(readDate('Nov 18, 2026')).toBe(readDate('18 November 2026'));
    expect(['2026-02-29', '31 Apr 2026', '18 Foo 2026', '0000-01-01'].map((raw) => readDate(raw))).toEqual([undefined, undefined, undefined, undefined]); // prettier-ignore
    expect(readDate('2024-02-29')).toBeDefined();
  });

  it('shows cells by the column and writes them plainly', () => {
    const date: ColumnSpec = { name: 'D', kind: 'date', shown: { date: 'd MMM yyyy' } };
    const number: ColumnSpec = { name: 'N', kind: 'number', shown: { number: { decimals: 2, grouping: true } } };
    expect([shownText('2026-11-08', date), plainText('8 Nov 2026', date)]).toEqual(['8 Nov 2026', '2026-11-08']);
    expect([shownText('-1250.5', number), plainText('-1,250.50', number)]).toEqual(['-1,250.50', '-1250.5']);
    expect([shownText('soon', date), plainText('soon', date)]).toEqual(['soon', undefined]);
  });
});
