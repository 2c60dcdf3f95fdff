/** Numbers and dates as a column writes them: what its cells are compared by, and how what is typed is read. */
import {
  blankQuestion,
  changed,
  DEFAULT_SETTINGS,
  explain,
  Search,
  Table,
  valueOf,
  windowRows,
  type ColumnSpec,
  type Question,
  type TextReading,
  type Settings,
} from '@usual-needle/engine';
import { oracleSpans, type OracleTerm } from './oracle.js';

const COLUMNS: ColumnSpec[] = [
  { name: 'Lent on', kind: 'date', dateOrder: 'day first', shown: { date: 'd MMM yyyy' } },
  { name: 'Price', kind: 'number', decimal: 'comma', shown: { number: { decimals: 2, grouping: true } } },
  { name: 'Note', kind: 'text' },
];
const ROWS = [
  ['19.06.2015', '1.250,50', 'kept'],
  ['20.06.2015', '999,9', ''],
  ['01.03.2015', '1.000,5 €', 'lent'],
  ['soon', 'n/a', 'lost'],
  ['2015-03-01', '1250.5', 'typed here'],
];
const table = new Table(
  COLUMNS,
  ROWS.map((cells, i) => ({ id: i + 1, cells })),
);

function question(text: string, settings: Partial<Settings> = {}, reading: TextReading = 'words'): Question {
  return {
    ...blankQuestion([0, 1, 2]),
    settings: { ...DEFAULT_SETTINGS, ...settings },
    strands: [{ verb: 'find', text, reading }],
  };
}
const found = (asked: Question): number[] => windowRows(new Search(table, asked).run(), 0, 99, []).map(({ id }) => id);

describe('a cell is compared by its text as brought in, too', () => {
  const cases: [text: string, rows: number[], settings?: Partial<Settings>, reading?: TextReading][] = [
    ['19.06.2015', [1]],
    ['19 Jun 2015', [1]],
    ['2015-06-19', [1]],
    ['.06.', [1, 2]],
    ['1.250,50', [1]],
    ['1,250.50', [1, 5]],
    ['1250.5', [1, 5]],
    ['€', [3]],
    ['19.06.2015', [1], { where: 'whole cell' }],
    ['2015', [1, 2, 3, 5], { where: 'end of the cell' }],
    ['??.06.2015', [1, 2], { where: 'whole cell' }, 'wildcards'],
    ['^\\d\\d\\.06', [1, 2], {}, 'pattern'],
    ['€$', [3], {}, 'pattern'],
    ['=1.000,5\\ €', [3]],
    ['5€', []],
    ['"2015 19"', []],
  ];
  for (const [text, rows, settings, reading] of cases)
    it(`${reading ?? 'words'} ${text} ${settings?.where ?? ''}`, () => {
      expect(found(question(text, settings, reading))).toEqual(rows);
    });

  it('marks the whole shown text for a hit in it alone', () => {
    const search = new Search(table, question('19.06')).run();
    const [row] = windowRows(search, 0, 1, [0, 1, 2]);
    expect(row.marks[0]).toEqual({ column: 0, start: 0, end: '19 Jun 2015'.length, keyword: 1 });
  });

  it('says of each of its texts what plain code says, in every place, case and accents', () => {
    const faces = [
      ['19 Jun 2015', '2015-06-19', '19.06.2015'],
      ['1,250.50', '1250.5', '1.250,50'],
      ['1,000.50', '1000.5', '1.000,5 €'],
    ];
    const raws = ['19.06.2015', '1.250,50', '1.000,5 €'];
    const typed = ['19', '06', '2015', 'jun', '5 €', '€', '1.2', '250', '50', '-06-', '0', 'j?n', '1*0', '?.?'];
    for (const where of [
      'anywhere',
      'start of a word',
      'whole word',
      'start of the cell',
      'end of the cell',
      'whole cell',
    ] as const)
      for (const both of ['ignore', 'respect'] as const)
        for (const text of typed) {
          const settings = { ...DEFAULT_SETTINGS, where, case: both, accents: both };
          const wild = /[*?]/.test(text);
          const term: OracleTerm = { type: wild ? 'wild' : 'word', text };
          const expected = faces.map((some) => some.some((face) => oracleSpans(face, term, settings) !== undefined));
          const cells = raws.map((raw, i) => ({ id: i + 1, cells: i === 0 ? [raw, ''] : ['', raw] }));
          const one = new Table(COLUMNS.slice(0, 2), cells);
          const asked = { ...question(text, settings, wild ? 'wildcards' : 'plain text'), threaded: [0, 1] };
          const rows = windowRows(new Search(one, asked).run(), 0, 9, []).map(({ id }) => id);
          expect(raws.map((_, i) => rows.includes(i + 1)))
            .withContext(`${text} ${where} ${both}`)
            .toEqual(expected);
        }
  });
});

describe('a value that is typed is read as the cells are written, as they are shown, and in ISO form', () => {
  const cases: [text: string, rows: number[]][] = [
    ['price>1.000,50', [1, 5]],
    ['price>=1.000,5', [1, 3, 5]],
    ['price>1,000.50', [1, 5]],
    ['price>1000.5', [1, 5]],
    ['price>1.000', [1, 3, 5]],
    ['price:999,9', [2]],
    ['price=1.250,50', [1, 5]],
    ['"lent on"=01.03.2015', [3, 5]],
    ['lent=01/03/2015', [3, 5]],
    ['lent=2015-03-01', [3, 5]],
    ['lent="1 Mar 2015"', [3, 5]],
    ['lent=2015', [1, 2, 3, 5]],
    ['lent:01.03.2015..19.06.2015', [1, 3, 5]],
  ];
  for (const [text, rows] of cases) it(text, () => expect(found(question(text))).toEqual(rows));

  it('reads a cell as it does what is typed', () => {
    expect(valueOf('1250.5', COLUMNS[1])).toBe(1250.5);
    expect(valueOf('1.250', COLUMNS[1])).toBe(1250);
    expect(valueOf('31/12/2015', { name: 'D', kind: 'date', shown: { date: 'dd/MM/yyyy' } })).toBe(16_800);
    expect(valueOf('12/31/2015', { name: 'D', kind: 'date', dateOrder: 'day first' })).toBeUndefined();
  });

  it('says what it expects, with an example of the column', () => {
    const notices = (text: string): string[] =>
      new Search(table, question(text)).strands[0].parsed.notices.map(({ message }) => message);
    expect(notices('lent>tuesday')).toEqual([
      '“tuesday” cannot be read as a date, so no row of “Lent on” matches it. Its cells look like “19 Jun 2015”.',
    ]);
    expect(notices('price>lots')[0]).toContain('Its cells look like “1,250.50”.');
  });
});

describe('nothing found, after rows were added and edited', () => {
  const COLUMN: ColumnSpec[] = [{ name: 'Thing', kind: 'text' }];
  const rows = ['umbrella black', 'wood box', 'umbrella wood'].map((thing, i) => ({ id: i + 1, cells: [thing] }));
  const asked = (text: string, more: Partial<Question> = {}): Question => ({
    ...blankQuestion([0]),
    strands: [{ verb: 'find', text, reading: 'words' }],
    ...more,
  });

  it('offers near spellings and texts without signs that are in those rows only', () => {
    const one = new Table(COLUMN, rows);
    one.apply([
      { id: 2, after: ['zeppelin LQ-70707'] },
      { id: 4, after: ['harmonium XY-11223'] },
    ]);
    const offered = (text: string) =>
      explain(one, asked(text)).map((reason) => [reason.kind, reason.text, reason.rows]);
    expect(offered('zepelin')).toEqual([['near spelling', 'zeppelin', 1]]);
    expect(offered('harmonum')).toEqual([['near spelling', 'harmonium', 1]]);
    expect(offered('lq70707')).toContain(['signs', 'LQ-70707', 1]);
    expect(offered('xy11223')).toContain(['signs', 'XY-11223', 1]);
  });

  it('offers the near spellings of two keywords together, with their count', () => {
    const one = new Table(COLUMN, rows);
    const reason = explain(one, asked('umbrela wod')).find(({ kind }) => kind === 'together');
    expect(reason?.rows).toBe(1);
    expect(changed(asked('umbrela wod'), reason!.change).strands[0].text).toBe('umbrella wood');
    const spaced = asked('  umbrela   wod ');
    const again = explain(one, spaced).find(({ kind }) => kind === 'together');
    expect(again?.rows).toBe(1);
    expect(changed(spaced, again!.change).strands[0].text).toBe('umbrella   wood');
  });

  it('offers nothing twice, whatever way leads to the same question', () => {
    const one = new Table(
      [...COLUMN, { name: 'Other', kind: 'text' }, { name: 'Third', kind: 'text' }],
      [{ id: 1, cells: ['umbrella', 'kept here', 'lent here'] }],
    );
    const within = asked('umbrella', {
      strands: [
        { verb: 'find', text: 'umbrella', reading: 'words' },
        { verb: 'within', text: 'qqqq', reading: 'words' },
      ],
    });
    for (const question of [within, asked('kept lent'), asked('lent kept here'), asked('umbrella third>'), within]) {
      const texts = explain(one, question).map(({ change }) => {
        const { threaded, strands } = changed(question, change);
        return JSON.stringify([[...threaded].sort(), strands.filter(({ text }) => text.trim() !== '')]);
      });
      expect(new Set(texts).size).withContext(JSON.stringify(texts)).toBe(texts.length);
    }
  });
});
