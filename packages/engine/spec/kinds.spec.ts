import {
  guessKind,
  KindTally,
  plainText,
  readDate,
  readNumber,
  shownText,
  type ColumnSpec,
} from '@usual-needle/engine';

describe('kinds', () => {
  const guesses: [string[], string][] = [
    [['1', '2.5', '-3', '1,250.50'], 'number'],
    [['007', '12'], 'text'],
    [['+48 600 100 200', '12'], 'text'],
    [['0612345678'], 'text'],
    [['12345678901234567'], 'text'],
    [['1.250,50', '3', '2,5'], 'number'],
    [['€ 5', '€ 1,250.50', '3 €'], 'number'],
    [['5 €', '5 $'], 'text'],
    [['12 %', '7%'], 'number'],
    [['555 123', '555 124'], 'text'],
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

  it('tells the decimal comma where a cell does, and reads by it', () => {
    expect(guessKind(['1.250,50', '3']).decimal).toBe('comma');
    expect(guessKind(['1.250', '3']).decimal).toBeUndefined();
    const column: ColumnSpec = { name: 'Value', kind: 'number', decimal: 'comma' };
    expect(plainText('1.250,50', column)).toBe('1250.5');
    expect(plainText('€ 0,10', column)).toBe('0.1');
    expect(plainText('1,250.50', column)).toBeUndefined();
    expect(shownText('1.250,5', { ...column, shown: { number: { decimals: 2, grouping: true } } })).toBe('1,250.50');
  });

  it('tolerates so many cells that do not fit, and counts them', () => {
    const tally = new KindTally();
    for (let i = 0; i < 98; i++) tally.add(`${1 + (i % 28)}.10.2026`);
    for (const cell of ['last week', '31.02.2026', ' ']) tally.add(cell);
    expect(tally.guess().kind).toBe('text');
    expect(tally.guess(0.02)).toEqual({ kind: 'date', dateOrder: 'day first', problems: [] });
    expect([tally.filled, tally.misfits('day first')]).toEqual([100, 2]);
  });

  it('says which date cannot be told', () => {
    const { problems } = guessKind(['', '03/04/2026', '05/06/2026']);
    expect(problems).toEqual([
      { row: 2, message: '03/04/2026 could be day first or month first; say which to read this column as dates' },
    ]);
    expect(guessKind(['18/11/2026']).dateOrder).toBe('day first');
    expect(guessKind(['11/18/2026']).dateOrder).toBe('month first');
  });

  it('reads numbers and dates, and refuses what is none', () => {
    expect(['1,250.50', '-3', '\u22123', '.5', '1,25', '1 250', ''].map((raw) => readNumber(raw))).toEqual([
      1250.5,
      -3,
      -3,
      0.5,
      undefined,
      undefined,
      undefined,
    ]);
    expect(readDate('2026-11-18')).toBe(Date.UTC(2026, 10, 18) / 86_400_000);
    expect(readDate('Nov 18, 2026')).toBe(readDate('18 November 2026'));
    expect(['2026-02-29', '31 Apr 2026', '18 Foo 2026', '0000-01-01'].map((raw) => readDate(raw))).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
    ]);
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
