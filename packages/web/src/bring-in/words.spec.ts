import { tableName, type Look, type Trouble } from '@usual-needle/formats';
import { kindOf, KINDS } from '../common/column-kinds';
import { likeness } from './likeness';
import { sentChoices } from './sent-choices';
import { formatWords, kindWords, troubleWords } from './words';

const column = (name: string, more: object = {}, choices: object = {}): Look['columns'][number] =>
  ({
    name,
    column: { name, kind: 'text', ...more },
    taken: true,
    filled: 9,
    values: 9,
    example: '',
    ...choices,
  }) as Look['columns'][number];
const LOOK = {
  found: { format: 'csv', delimiter: ';', encoding: 'windows-1252', header: true, packed: false },
  columns: [
    column('Claim no.'),
    column('Lost on', { kind: 'date', dateOrder: 'day first' }),
    column('Value', { kind: 'number', decimal: 'comma' }, { example: '1.250,50' }),
    column('Internal', {}, { taken: false }),
  ],
} as unknown as Look;
const trouble = (what: Trouble['what'], at: number, count: number, ...texts: string[]): Trouble => ({
  what,
  column: at,
  count,
  examples: texts.map((text, i) => ({ line: 8 + i, text })),
});

describe('the preview in words', () => {
  it('says what the file is', () => {
    expect(formatWords(LOOK.found)).toBe('semicolon-separated');
    expect(formatWords({ ...LOOK.found, delimiter: '^', packed: true })).toBe('gzipped “^”-separated');
    expect(formatWords({ ...LOOK.found, format: 'ndjson' })).toBe('JSON, a row a line');
  });

  it('says what each column holds', () => {
    expect(LOOK.columns.map(kindWords)).toEqual(['text', 'date, day first', 'number, 1.250,50', 'left out']);
    expect(kindWords(column('Line', { kind: 'choice' }))).toBe('choice of 9');
  });

  const said: [Trouble, whole: string, ways: string[]][] = [
    [
      trouble('misfit', 1, 34, '31.02.2026', 'last week'),
      '34 dates Lost on are no dates: “31.02.2026”, “last week” … Kept as written, sorted last.',
      ['Make it text'],
    ],
    [
      trouble('misfit', 2, 1, 'approx. 10'),
      '1 number Value cannot be read: “approx. 10” … Kept as written, sorted last.',
      ['Make it text', 'Read decimal points'],
    ],
    [
      trouble('tooMany', -1, 2, '903J', 'x'),
      '2 rows have a cell too many: lines 8, 9: “903J” … The cell is joined to the one before it.',
      ['Drop the cell', 'Leave the rows out'],
    ],
    [
      trouble('tooFew', -1, 1, 'x'),
      '1 row has too few cells: line 8 The cells that are missing are blank.',
      ['Leave the rows out'],
    ],
    [trouble('line break', -1, 1, 'a ⏎ b'), 'One cell has a line break in it. That is fine.', []],
    [
      trouble('order', 1, 412),
      'Days come before months in Lost on: 412 dates can only be read so.',
      ['Read months first'],
    ],
    [
      trouble('open order', 0, 9, '03/04/2026'),
      'Claim no. could be dates: “03/04/2026” … Days or months first? No cell tells. Kept as text.',
      ['Read days first', 'Read months first'],
    ],
    [
      trouble('bytes', -1, 1, 'x'),
      '1 letter cannot be read in this encoding: line 8 Each becomes a \ufffd. Another encoding may be the right one.',
      ['Read as Windows-1252'],
    ],
    [trouble('nul', -1, 2, 'x'), '2 cells hold NUL characters: line 8 These are taken out.', []],
    [trouble('half letter', -1, 1, 'x'), '1 cell holds half a letter: line 8 It becomes a \ufffd.', []],
    [trouble('tooLong', -1, 1, 'x'), '1 cell is too long: line 8 Cut after 100,000 letters.', []],
    [
      trouble('no value', 2, 3, 'n/a', '–'),
      '3 cells Value say that there is no value: “n/a”, “–” … Kept as written, sorted last.',
      ['Make them blank'],
    ],
    [
      trouble('unit', 2, 38, '€'),
      '38 numbers Value are written with €. The sign stays in the cell; they are counted and sorted as numbers.',
      ['Make it text'],
    ],
    [
      trouble('units', 0, 9, '€', '$'),
      'Claim no. could be numbers of different kinds: €, $ Kept as text.',
      ['Read as numbers, with decimal points', 'Read as numbers, with decimal commas'],
    ],
    [
      { ...trouble('near same', 0, 2, 'Non fiction → Non-fiction'), spellings: [['Non fiction', 'Non-fiction']] },
      '2 cells Claim no. are nearly another value: “Non fiction → Non-fiction” … Kept as they are.',
      ['Write them alike'],
    ],
    [
      trouble('spaces', -1, 1, ' x'),
      '1 cell has spaces before or after what it holds: line 8 Kept as they are; searching does not mind them.',
      ['Take the spaces away'],
    ],
    [
      trouble('repeated', -1, 2, 'x', 'y'),
      '2 rows are rows that have been before, cell by cell: lines 8, 9 Brought in again.',
      ['Leave them out'],
    ],
    [
      trouble('header', -1, 2, 'x'),
      '2 columns have no name, or that of another Named by their places. Other names can be given at their heads.',
      [],
    ],
  ];
  for (const [one, whole, ways] of said)
    it(whole.slice(0, 60), () => {
      const words = troubleWords(one, LOOK, {});
      expect(
        [words.count, words.column, words.says.trim(), words.done].filter(Boolean).join(' ').replace(' :', ':'),
      ).toBe(whole);
      expect(words.ways.map((way) => way.words)).toEqual(ways);
    });

  it('says what was chosen of it, and offers the other ways', () => {
    const words = troubleWords(trouble('tooMany', -1, 2, 'x'), LOOK, { tooMany: 'leave out' });
    expect([words.done, words.shows, words.ways.map((way) => way.words)] as unknown).toEqual([
      'These rows are left out.',
      false,
      ['Join the cell', 'Drop the cell'],
    ]);
  });

  it('asks for the century of short years, and whether days come first where that is open', () => {
    const next = new Date().getFullYear() + 1;
    const open = troubleWords(
      trouble('short years', 0, 5, '1.2.99'),
      { ...LOOK, columns: [column('On', {}, { found: {} })] },
      {},
    );
    expect(open.ways[0].words).toBe(`Days first, years ${next - 99} to ${next}`);
    expect(open.ways.length).toBe(6);
    const dates = { ...LOOK, columns: [column('On', { kind: 'date', dateOrder: 'day first' }, { found: {} })] };
    const told = troubleWords(trouble('century', 0, 1, '1.2.99'), dates, { columns: [{ firstYear: 1900 }] });
    expect([told.count, told.says, told.done]).toEqual([
      '1 date',
      ' has a year of two digits: “1.2.99” …',
      'Written as 1900 to 1999.',
    ]);
    expect(told.ways.map(({ words }) => words)).toEqual([`They are ${next - 99} to ${next}`, 'They are 2000 to 2099']);
  });

  it('says what is tidied, and offers to leave it', () => {
    const columns = [{ instead: [['a', 'b']] as [string, string][] }, {}, { noValue: 'blank' as const }];
    const ways = (one: Trouble, choices: object): string[] =>
      troubleWords(one, LOOK, choices).ways.map(({ words }) => words);
    const same = { ...trouble('near same', 0, 1), spellings: [['a', 'b']] } as Trouble;
    expect(ways(same, { columns })).toEqual(['Keep them as they are']);
    expect(ways(trouble('no value', 2, 1), { columns })).toEqual(['Keep them as written']);
    expect(ways(trouble('spaces', -1, 1), { spaces: 'trim' })).toEqual(['Keep the spaces']);
    expect(ways(trouble('repeated', -1, 1), { repeated: 'leave out' })).toEqual(['Bring them in again']);
  });

  it('sends what is tidied, by column', () => {
    const columns = [
      { instead: [['a', 'b']] as [string, string][] },
      { firstYear: 1927 },
      { noValue: 'blank' as const },
    ];
    const sent = sentChoices(LOOK, { spaces: 'trim', columns });
    expect([sent.spaces, ...sent.columns!.slice(0, 3)] as unknown).toEqual([
      'trim',
      { kind: 'text', instead: [['a', 'b']] },
      { kind: 'date', dateOrder: 'day first', firstYear: 1927 },
      { kind: 'number', decimal: 'comma', noValue: 'blank' },
    ]);
  });

  it('sends the file as it was shown', () => {
    expect(sentChoices(LOOK, { tooMany: 'drop' })).toEqual({
      tooMany: 'drop',
      tooFew: 'fill',
      unkeepable: 'mend',
      format: 'csv',
      delimiter: ';',
      encoding: 'windows-1252',
      header: true,
      columns: [
        { kind: 'text' },
        { kind: 'date', dateOrder: 'day first' },
        { kind: 'number', decimal: 'comma' },
        { take: false, kind: 'text' },
      ],
    });
  });

  it('knows each kind again, with how it is read', () => {
    for (const choice of KINDS) expect(kindOf({ name: 'A', ...choice.to })).toBe(choice);
    expect(kindOf({ name: 'A', kind: 'date', dateOrder: 'year first' })?.words).toBe('date, year first or by name');
    expect(kindOf({ name: 'A', kind: 'number', decimal: 'point' })?.words).toBe('number, decimal point');
  });

  it('names a table by its file', () => {
    expect(['claims-october.csv', 'found_items.csv.gz', 'x', '.csv', 'a.b.c'].map((file) => tableName(file))).toEqual([
      'Claims october',
      'Found items',
      'X',
      'New table',
      'A',
    ]);
  });

  it('tells names that are alike from those that are not', () => {
    expect(likeness('Item number', 'Item no.')).toBeGreaterThan(0.5);
    expect(likeness('State', 'Status')).toBeGreaterThan(0.4);
    expect(likeness('Colour', 'Shelf')).toBeLessThan(0.1);
    expect([likeness('', ''), likeness('Lost on', 'lost ON')]).toEqual([0, 1]);
  });
});
