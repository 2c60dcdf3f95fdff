import { type How, rememberedHow, rememberHow } from './how';
import { copiedCells } from './cells-copied';
import { aboutBytes, type Counts, takeOutSentence, timeLeft } from './take-out-words';

const HOW: How = {
  ...{ rows: 'on show', columns: 'on show', form: 'csv', header: true },
  ...{ safe: false, delimiter: 'comma', mark: false, marks: false },
};
const COUNTS: Counts = { shown: 161, selected: 0, others: 0, columns: 7, allColumns: 14, sorted: true };
const said = (how: Partial<How>, counts: Partial<Counts> = {}): string =>
  takeOutSentence({ ...HOW, ...how }, { ...COUNTS, ...counts })
    .map(({ text }) => text)
    .join('');

describe('the sentence of taking out', () => {
  const cases: [how: Partial<How>, counts: Partial<Counts>, says: string][] = [
    [
      {},
      {},
      'Takes out the 161 rows on show with the 7 columns on show, in this order, as CSV, parted by commas, as plain UTF-8, to the letter.',
    ],
    [
      { form: 'xlsx' },
      { shown: 1, columns: 14, sorted: false },
      'Takes out the 1 row on show with every column, in the table’s own order, as a spreadsheet file, without marks. It is safe to open: what looks like a formula stays text.',
    ],
    [
      { form: 'json', rows: 'selected', marks: true },
      { selected: 3 },
      'Takes out the 3 rows selected with the 7 columns on show, in this order, as JSON, with the marks.',
    ],
    [
      { form: 'page', rows: 'others', columns: 'every column' },
      { others: 20 },
      'Takes out the 20 rows not on show with all 14 columns, in this order, as a page to print, without marks.',
    ],
  ];
  for (const [how, counts, says] of cases) it(says, () => expect(said(how, counts)).toBe(says));

  it('offers nothing where there is nothing to choose', () => {
    const [, rows, , columns] = takeOutSentence(HOW, { ...COUNTS, columns: 14 });
    expect([rows.choices, columns.choices]).toEqual([undefined, undefined]);
  });

  it('says sizes and times as well as a guess is', () => {
    expect([0, 999, 8_140, 24_400, 151_000_000].map(aboutBytes)).toEqual([
      'about 0 bytes',
      'about 1000 bytes',
      'about 8 kB',
      'about 24 kB',
      'about 150 MB',
    ]);
    expect([timeLeft(0, 10, 1), timeLeft(5, 10, 4), timeLeft(1, 1_000, 1)]).toEqual(['', '4 s left', '17 min left']);
  });

  it('is remembered but for rows and columns, and for what is none', () => {
    rememberHow({ ...HOW, rows: 'others', form: 'json', marks: true });
    expect(rememberedHow()).toEqual({ ...HOW, form: 'json', marks: true });
    localStorage.setItem('usual-needle take-out', '{"form":"dbf","header":"no","safe":true}');
    expect(rememberedHow()).toEqual({ ...HOW, form: 'xlsx', safe: true });
    localStorage.removeItem('usual-needle take-out');
  });
});

describe('cells that are copied', () => {
  it('are text whatever they hold, with marks in what is shown', () => {
    const columns = [
      { name: '<Item>', kind: 'text' as const },
      { name: 'Found', kind: 'date' as const, shown: { date: 'd MMM yyyy' as const } },
    ];
    const rows = [
      {
        cells: ['a\t<b>', '2026-11-18'],
        marks: [
          [0, 2, 5, 1],
          [1, 3, 6, 2],
        ] as const,
      },
    ];
    expect(copiedCells(columns, rows, true)).toEqual({
      text: '<Item>\tFound\n"a\t<b>"\t2026-11-18',
      html:
        '<table><thead><tr><th>&lt;Item&gt;</th><th>Found</th></tr></thead><tbody><tr><td>a\t<b><u>&lt;b&gt;</u></b></td>' +
        '<td>18 <b><u>Nov</u></b> 2026</td></tr></tbody></table>',
    });
    expect(copiedCells(columns, rows, false).text).toBe('"a\t<b>"\t2026-11-18');
  });
});
