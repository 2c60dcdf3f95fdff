import fc from 'fast-check';
import {
  blankQuestion,
  DEFAULT_SETTINGS,
  explain,
  changed,
  parse,
  Search,
  Table,
  View,
  windowRows,
  offering,
  valueCounts,
  letterCounts,
  traceOf,
  type ColumnSpec,
  type Question,
  type TextReading,
  type Settings,
} from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Description', kind: 'text' },
  { name: 'Colour', kind: 'choice', order: ['red', 'green', 'black'] },
  { name: 'Found on', kind: 'date', shown: { date: 'd MMM yyyy' } },
  { name: 'Found at', kind: 'text' },
  { name: 'Value', kind: 'number', shown: { number: { decimals: 2, grouping: true } } },
];
const ROWS = [
  ['Umbrella, wooden handle', 'black', '2026-11-18', 'Harbour Steps', '1250.5'],
  ['Folding umbrela', 'red', '2026-11-02', 'Harbour 12:30', '12'],
  ['wood; drift-wood (two)', 'green', '2026-03-31', 'Søndre Pier', ''],
  ['Tag 10', 'black', '2025-12-31', 'tag:9', '-3'],
  ['Straße map “old”', '   ', '', 'a.b*c?', '0'],
  ['o’clock – late', 'red', '2026-02-28', 'x\ny  z', '7'],
];
const table = new Table(
  COLUMNS,
  ROWS.map((cells, i) => ({ id: i + 1, cells })),
);
const ALL = [0, 1, 2, 3, 4];

function search(
  text: string,
  settings: Partial<Settings> = {},
  reading: TextReading = 'words',
  more: Partial<Question> = {},
): Search {
  const question = { ...blankQuestion(ALL), settings: { ...DEFAULT_SETTINGS, ...settings }, ...more };
  return new Search(table, { ...question, strands: more.strands ?? [{ verb: 'find', text, reading }] }).run();
}
const ids = (one: Search): number[] => windowRows(one, 0, 99, []).map(({ id }) => id);

describe('the notation', () => {
  const words: [string, number[], Partial<Settings>?][] = [
    ['umbr', [1, 2]],
    ['umbr wood', [1]],
    ['wood | tag', [1, 3, 4]],
    ['umbr -wood', [2]],
    ['-wood', [2, 4, 5, 6]],
    ['red | black umbr', [1, 2, 6]],
    ['(red | black) umbr', [1, 2]],
    ['umbr -(wood | red)', []],
    ['umbr tag', [1, 2, 4], { need: 'any word' }],
    ['umbr tag -red', [1, 4], { need: 'any word' }],
    ['"wooden handle"', [1]],
    ['"handle wooden"', []],
    ['um*la', [1, 2]],
    ['w??d', [1, 3]],
    ['stra?e', [5]],
    ['a.b\\*c\\?', [5]],
    ['~umbrella', [1, 2]],
    ['~umbrlela', [1, 2]],
    ['=red', [2, 6]],
    ['="tag 10"', [4]],
    ['colour:red', [2, 6]],
    ['col:red', [2, 6]],
    ['"Found at":harbour', [1, 2]],
    ['found:harbour', []],
    ['12:30', [2]],
    ['ref:x', []],
    ['tag:9', [4]],
    ['colour:<blank>', [5]],
    ['colour:<filled>', [1, 2, 3, 4, 6]],
    ['<blank>', [3, 5]],
    ['value>0', [1, 2, 6]],
    ['value>=0', [1, 2, 5, 6]],
    ['value<0', [4]],
    ['value:0..12', [2, 5, 6]],
    ['value:..0', [4, 5]],
    ['value:7..', [1, 2, 6]],
    ['value>1,250', [1]],
    ['value>abc', []],
    ['"found on">2026-11', []],
    ['"found on">=2026-11', [1, 2]],
    ['"found on"<2026', [4]],
    ['"found on":2026-02..2026-03', [3, 6]],
    ['"found on":2026', [1, 2, 3, 6]],
    ['"found on":2026-11-18', [1]],
    ['colour>=green colour<=red', []],
    ['description>t', [1, 3, 4]],
    ['2026-11-18', [1]],
    ['"18 nov 2026"', [1]],
    ['1250.5', [1]],
    ['1,250.50', [1]],
    ['/^um.*le$/', [1]],
    ['/wood|tag/ -drift', [1, 4]],
    ['colour:/^r/', [2, 6]],
    ["o'clock", [6]],
    ['clock-late', []],
    ['"clock - late"', [6]],
    ['"x y z"', [6]],
    ['"old"', [2, 5]],
    ['umbr', [1, 2], { where: 'start of a word' }],
    ['mbr', [], { where: 'start of a word' }],
    ['wood', [3], { where: 'whole word' }],
    ['wood', [3], { where: 'start of the cell' }],
    ['handle', [1], { where: 'end of the cell' }],
    ['red', [2, 6], { where: 'whole cell' }],
    ['Umb', [1], { case: 'respect' }],
    ['sondre', [], { accents: 'respect' }],
    ['søndre', [3], { accents: 'respect' }],
    ['umbr \\-wood', []],
    ['drift\\-wood', [3]],
    ['\\(two\\)', [3]],
    ['umbrella - | ~ =', [1]],
    ['"umbrella, wood', [1]],
    ['(umbr wood', [1]],
    ['umbr wood)', []],
  ];
  for (const [text, expected, settings] of words) {
    it(`finds ${text} ${settings ? JSON.stringify(settings) : ''} in rows ${expected.join(', ') || 'none'}`, () => {
      const one = search(text, settings);
      expect(one.problem).toBeUndefined();
      expect(ids(one)).toEqual(expected);
    });
  }

  const readings: [TextReading, string, number[]][] = [
    ['plain text', 'wood; drift-wood (two)', [3]],
    ['plain text', '-wood', [3]],
    ['plain text', 'umbr wood', []],
    ['wildcards', 'umb*handle', [1]],
    ['wildcards', '?ag 1?', [4]],
    ['wildcards', 'b\\*c', [5]],
    ['pattern', '\\d{2}:\\d{2}', [2]],
    ['pattern', 'x\\ny', [6]],
    ['pattern', '^$', []],
  ];
  for (const [reading, text, expected] of readings) {
    it(`reads ${text} as ${reading}`, () => expect(ids(search(text, {}, reading))).toEqual(expected));
  }

  const notices: [string, number, number, RegExp][] = [
    ['umbr "open', 5, 6, /quote is not closed/],
    ['(umbr', 0, 1, /bracket is not closed/],
    ['umbr)', 4, 5, /closes nothing/],
    ['umbr -', 5, 6, /nothing after it/],
    ['umbr |', 5, 6, /nothing on one side/],
    ['~', 0, 1, /nothing after it/],
    ['= umbr', 0, 1, /nothing after it/],
    ['ref:x', 0, 4, /no column “ref”/],
    ['found:x', 0, 6, /begins the names of 2 columns/],
    ['value>abc', 6, 9, /cannot be read as a number/],
    ['"found on">2026-13', 11, 18, /cannot be read as a date/],
    ['value>', 0, 6, /compared with nothing yet/],
    ['""', 0, 2, /nothing between these quotes/],
    ['()', 0, 2, /nothing in these brackets/],
    ['umbr AND wood', 5, 9, /“AND” is looked for as a word.*all asked for/],
    ['umbr OR wood', 5, 7, /“OR” is looked for as a word.*“\|”/],
    ['umbr (hat NOT wood)', 10, 14, /“NOT” is looked for as a word.*“-”/],
  ];
  for (const [text, start, end, message] of notices) {
    it(`gives a notice for ${text} at its place`, () => {
      const { notices: given, problem } = parse(text, DEFAULT_SETTINGS, COLUMNS);
      expect(problem).toBeUndefined();
      expect(given).toContain(
        jasmine.objectContaining({
          kind: jasmine.any(String) as never,
          message: jasmine.stringMatching(message) as never,
          start,
          end,
        }),
      );
    });
  }

  it('takes AND, OR and NOT as the words they are, and says what may be meant in their place', () => {
    const meant = (text: string): string | undefined => {
      const { notices: given, tree } = parse(text, DEFAULT_SETTINGS, COLUMNS);
      expect(JSON.stringify(tree).toLowerCase())
        .withContext(text)
        .toMatch(/and|or|not/);
      const notice = given.find(({ instead }) => instead !== undefined);
      return notice && text.slice(0, notice.start) + notice.instead + text.slice(notice.end);
    };
    expect(meant('umbr AND wood')).toBe('umbr wood');
    expect(meant('umbr OR wood')).toBe('umbr | wood');
    expect(meant('umbr NOT wood')).toBe('umbr -wood');
    expect(meant('NOT wood')).toBe('-wood');
    for (const text of [
      'AND wood',
      'wood OR',
      'wood OR | hat',
      'wood or hat',
      '"hat OR wood"',
      'ORder wood',
      'hat and wood',
    ])
      expect(meant(text)).withContext(text).toBeUndefined();
  });

  const problems: [string, TextReading, number, RegExp][] = [
    ['umbr /open', 'words', 5, /not finished/],
    ['umbr /(a/', 'words', 6, /not closed/],
    ['a**', 'pattern', 2, /cannot be repeated/],
    ['x'.repeat(2_001), 'words', 2_000, /2,000 characters at most/],
    ['x'.repeat(1_001), 'pattern', 1_000, /1,000 characters at most/],
    ['x '.repeat(65), 'words', 128, /64 keywords at most/],
    ['(a{1000}){1000}', 'pattern', 0, /too large/],
  ];
  for (const [text, reading, start, message] of problems) {
    it(`says what is wrong with ${text.slice(0, 12)} as ${reading}, and where`, () => {
      const { problem } = search(text, {}, reading);
      expect(problem?.notice.message).toMatch(message);
      expect(problem?.notice.start).toBe(start);
    });
  }

  it('never fails, whatever is typed, and keeps keywords inside the text', () => {
    const sign = fc.constantFrom(
      'a',
      ' ',
      '"',
      '(',
      ')',
      '|',
      '-',
      '~',
      '=',
      '/',
      '\\',
      ':',
      '<',
      '>',
      '.',
      '..',
      '*',
      '?',
      'colour',
      'value',
      '<blank>',
      '“',
      '–',
      '\n',
      '😀',
    );
    fc.assert(
      fc.property(
        fc.array(sign, { maxLength: 14 }),
        fc.constantFrom<TextReading>('words', 'plain text', 'wildcards', 'pattern'),
        (parts, reading) => {
          const text = parts.join('');
          const parsed = parse(text, DEFAULT_SETTINGS, COLUMNS, reading);
          for (const { start, end } of [
            ...parsed.keywords,
            ...parsed.notices,
            ...(parsed.problem ? [parsed.problem] : []),
          ]) {
            expect(start).toBeLessThanOrEqual(end);
            expect(end).toBeLessThanOrEqual(text.length);
          }
          if (!parsed.problem) search(text, {}, reading);
        },
      ),
      { numRuns: 3_000 },
    );
  });

  it('lets a scope name only what the reader may see', () => {
    expect(ids(search('colour:red', {}, 'words', { visible: [0, 3] }))).toEqual([]);
    expect(ids(search('colour:red', {}, 'words', { visible: [0, 1], threaded: [0] }))).toEqual([2, 6]);
  });
});

describe('effects, flip and nothing typed', () => {
  const cases: [string, Partial<Question>, number[], number][] = [
    ['umbr', {}, [1, 2], 2],
    ['umbr', { flip: true }, [3, 4, 5, 6], 2],
    ['umbr', { effect: 'mark in place' }, [1, 2, 3, 4, 5, 6], 2],
    ['umbr', { effect: 'leave matches out' }, [3, 4, 5, 6], 2],
    ['umbr', { effect: 'leave matches out', flip: true }, [1, 2], 2],
    ['', {}, [1, 2, 3, 4, 5, 6], 6],
    ['', { nothingTyped: 'no row' }, [], 0],
    ['', { nothingTyped: 'no row', flip: true }, [1, 2, 3, 4, 5, 6], 0],
    ['', { nothingTyped: 'no row', effect: 'mark in place' }, [], 0],
    ['', { nothingTyped: 'no row', effect: 'leave matches out' }, [], 0],
    ['umbr', { nothingTyped: 'no row', effect: 'leave matches out' }, [3, 4, 5, 6], 2],
    [' \u00a0', { effect: 'mark in place' }, [1, 2, 3, 4, 5, 6], 0],
    [' ', { effect: 'leave matches out' }, [1, 2, 3, 4, 5, 6], 0],
  ];
  for (const [text, more, expected, matched] of cases) {
    it(`shows ${expected.length} rows for “${text}” with ${JSON.stringify(more)}`, () => {
      const one = search(text, {}, 'words', more);
      expect(ids(one)).toEqual(expected);
      expect(one.matched).toBe(matched);
    });
  }
});

describe('pickers', () => {
  it('narrow, and a blank one is no condition', () => {
    const picked = (picker: Question['pickers'][0], text = ''): number[] =>
      ids(search(text, {}, 'words', { pickers: [picker] }));
    expect(picked({ type: 'values', column: 1, values: ['Red', 'green'] })).toEqual([2, 3, 6]);
    expect(picked({ type: 'values', column: 1, values: [''] })).toEqual([5]);
    expect(picked({ type: 'values', column: 1, values: [] })).toEqual([1, 2, 3, 4, 5, 6]);
    expect(picked({ type: 'interval', column: 4, interval: { low: 0, high: 12 } })).toEqual([2, 5, 6]);
    expect(picked({ type: 'letters', column: 0, letters: ['s', 't'], position: 'starts' })).toEqual([4, 5]);
    expect(picked({ type: 'letters', column: 0, letters: ['('], position: 'contains' })).toEqual([3]);
    expect(picked({ type: 'values', column: 1, values: ['red'] }, 'umbr')).toEqual([2]);
    const narrowed = search('umbr', {}, 'words', { pickers: [{ type: 'values', column: 1, values: ['red'] }] });
    expect([narrowed.narrowed, narrowed.matched]).toEqual([2, 1]);
  });

  it('count each value under all other conditions', () => {
    const question = search('umbr', {}, 'words', {
      pickers: [{ type: 'values', column: 1, values: ['red'] }],
    }).question;
    expect(valueCounts(offering(table, question, 1).run(), 1).values).toEqual([
      { value: 'red', rows: 1 },
      { value: 'green', rows: 0 },
      { value: 'black', rows: 1 },
      { value: '', rows: 0 },
    ]);
    expect(letterCounts(offering(table, blankQuestion(ALL), 0).run(), 0, 'starts').map(({ value }) => value)).toEqual([
      'f',
      'o',
      's',
      't',
      'u',
      'w',
    ]);
  });
});

describe('order', () => {
  const sorted = (...sort: Question['sort']): number[] => ids(search('', {}, 'words', { sort }));
  it('goes by language, by value, by custom order and by count, blanks last both ways, ties as the table has them', () => {
    expect(sorted({ column: 4, direction: 'up', by: 'value' })).toEqual([4, 5, 6, 2, 1, 3]);
    expect(sorted({ column: 4, direction: 'down', by: 'value' })).toEqual([1, 2, 6, 5, 4, 3]);
    expect(sorted({ column: 2, direction: 'down', by: 'value' })).toEqual([1, 2, 3, 6, 4, 5]);
    expect(sorted({ column: 1, direction: 'up', by: 'value' })).toEqual([2, 6, 3, 1, 4, 5]);
    expect(sorted({ column: 1, direction: 'down', by: 'count' })).toEqual([2, 6, 1, 4, 3, 5]);
    expect(sorted({ column: 1, direction: 'up', by: 'value' }, { column: 4, direction: 'up', by: 'value' })).toEqual([
      6, 2, 3, 4, 1, 5,
    ]);
  });

  it('sorts texts as the platform’s collation does, with numbers by value', () => {
    const collator = new Intl.Collator('en', { numeric: true });
    const word = fc
      .array(fc.constantFrom('a', 'B', 'b', 'é', 'ø', '1', '01', '9', '10', '-', '_', ' ', '.', 'z', '$', 'ß'), {
        minLength: 1,
        maxLength: 5,
      })
      .map((parts) => parts.join('').trim())
      .filter((text) => text !== '');
    fc.assert(
      fc.property(fc.array(word, { maxLength: 20 }), (texts) => {
        const one = new Table(
          [{ name: 'A', kind: 'text' }],
          texts.map((text, i) => ({ id: i, cells: [text] })),
        );
        const found = windowRows(
          new Search(one, { ...blankQuestion([0]), sort: [{ column: 0, direction: 'up', by: 'value' }] }).run(),
          0,
          99,
          [0],
        );
        expect(found.map(({ cells }) => cells[0])).toEqual([...texts].sort(collator.compare));
      }),
      { numRuns: 800 },
    );
  });

  it('finds the next and the previous match, and where the hits lie', () => {
    for (const sort of [[], [{ column: 4, direction: 'up' as const, by: 'value' as const }]]) {
      const one = search('umbr', {}, 'words', { effect: 'mark in place', sort });
      const view = new View(one);
      const order = ids(one);
      const places = [order.indexOf(1), order.indexOf(2)].sort((a, b) => a - b);
      expect([view.nextMatch(-1), view.nextMatch(places[0]), view.nextMatch(places[1])]).toEqual([
        places[0],
        places[1],
        undefined,
      ]);
      expect([view.nextMatch(99, true), view.nextMatch(places[1], true), view.nextMatch(places[0], true)]).toEqual([
        places[1],
        places[0],
        undefined,
      ]);
      expect(traceOf(one, 6)).toEqual({
        hits: [0, 1, 2, 3, 4, 5].map((place) => (places.includes(place) ? 1 : 0)),
        starts: [0, 1, 2, 3, 4, 5],
      });
      expect(view.placeInList(one.table.slotOf(2)!)).toBe(order.indexOf(2));
    }
  });
});

describe('explaining that nothing was found', () => {
  const cases: [string, Partial<Question>, string][] = [
    ['umbrellla', {}, 'near spelling'],
    ['steps', { threaded: [0] }, 'other columns'],
    ['umbrella', { pickers: [{ type: 'values', column: 1, values: ['green'] }] }, 'picker'],
    ['umbrella tag', {}, 'any word'],
    ['umbrella tag', {}, 'one keyword'],
    ['UMBRELA', { settings: { ...DEFAULT_SETTINGS, case: 'respect' } }, 'case'],
    ['sondre', { settings: { ...DEFAULT_SETTINGS, accents: 'respect' } }, 'accents'],
    ['mbrella', { settings: { ...DEFAULT_SETTINGS, where: 'start of a word' } }, 'position'],
    ['value>abc', {}, 'unreadable'],
  ];
  for (const [text, more, kind] of cases) {
    it(`offers a way out of ${text}: ${kind}`, () => {
      const { question } = search(text, {}, 'words', more);
      const reasons = explain(table, question);
      expect(reasons.map((reason) => reason.kind)).toContain(kind as never);
      expect(reasons.length).toBeLessThanOrEqual(5);
      for (const { change, rows } of reasons)
        expect(new Search(table, changed(question, change)).run().shown).toBe(rows);
    });
  }

  it('names the strand that takes the last rows away', () => {
    const strands = [
      { verb: 'find' as const, text: 'umbr', reading: 'words' as const },
      { verb: 'minus' as const, text: 'um', reading: 'words' as const },
    ];
    const [reason] = explain(table, search('', {}, 'words', { strands }).question);
    expect([reason.kind, reason.strand, reason.rows]).toEqual(['strand', 1, 2]);
  });

  it('offers the word itself and how many rows hold it', () => {
    const [reason] = explain(table, search('umbrellla').question);
    expect([reason.text, reason.found, reason.rows]).toEqual(['umbrella', 1, 1]);
  });
});
