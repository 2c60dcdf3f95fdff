import { KindFinder } from '@usual-needle/formats';

function kindOf(...batches: string[][]): string {
  const finder = new KindFinder(1);
  for (const cells of batches) finder.add(cells.map((cell) => [cell]));
  const [guess] = finder.done();
  const { kind, dateOrder, decimal, lacksCentury } = guess;
  return [kind, decimal, lacksCentury && 'lacks century', dateOrder].filter(Boolean).join(' ');
}
const many = (count: number, cell: (i: number) => string): string[] => Array.from({ length: count }, (_, i) => cell(i));

describe('kinds are found from the whole column', () => {
  const cases: [kind: string, what: string, ...batches: string[][]][] = [
    ['number', 'numbers', many(400, String)],
    ['text', 'numbers and, at the end, a word', many(400, String), ['nine']],
    ['number', 'numbers and words that say that there is none', many(400, String), ['n/a', '-', 'unknown', 'N/A']],
    ['text', 'hardly any number among such words', ['n/a', 'n/a', '–', '7', 'none']],
    [
      'number comma',
      'amounts with a currency, some without, and some unknown',
      ['1.849,63 €', '12,50', 'n/a', '7,00 €'],
    ],
    ['text', 'amounts in two currencies', ['1.50 €', '$ 3.00', '4.00 €']],
    ['text', 'parts of a hundred among others', ['12 %', '0.5', '7 %']],
    ['text lacks century day first', 'dates with years of two digits', ['18.11.26', '01.02.99', '5.6.04']],
    ['text lacks century', 'such dates of which days and months are open', ['01.02.99', '5.6.04', '8.11.26']],
    ['text lacks century day first', 'such dates among whole ones, one of which tells', ['1.2.99', '18.11.2026']],
    ['text', 'numbers with zeros before them', many(50, (i) => `00${i}`)],
    ['date', 'dates by the standard', many(50, (i) => `2026-03-${String(1 + (i % 28)).padStart(2, '0')}`)],
    ['text', 'many texts', many(30_000, (i) => `text ${i}`)],
    [
      'text',
      'more texts than are kept, that all look alike afterwards',
      many(25_000, (i) => `t${i}`),
      many(50, () => 'same'),
    ],
    ['number', 'more numbers than are kept', many(50_000, String)],
    ['choice', 'few values, often', many(500, (i) => ['Held', 'Returned', 'Police'][i % 3])],
    ['yes/no', 'yes and no', many(60, (i) => (i % 2 ? 'yes' : 'no'))],
    ['text', 'nothing', ['', '', '']],
  ];
  for (const [kind, what, ...batches] of cases) {
    it(`${what}: ${kind}`, () => expect(kindOf(...batches)).toBe(kind));
  }

  it('tells day-first from month-first where one cell of a late batch does', () => {
    const open = many(20_000, (i) => `0${1 + (i % 9)}/0${1 + (i % 8)}/${1000 + (i % 8000)}`);
    const kind = kindOf(open, ['25/12/2025', '01/02/2025']);
    expect(kind).toMatch(/^date (day|d)/i);
  });

  it('keeps each column’s kind its own', () => {
    const finder = new KindFinder(3);
    finder.add(many(60, String).map((cell) => [cell, `word ${cell}`, '2026-01-02']));
    expect(finder.done().map(({ kind }) => kind)).toEqual(['number', 'text', 'date']);
  });
});
