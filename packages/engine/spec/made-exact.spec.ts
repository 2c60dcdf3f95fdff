/** The lines of the notation that were made exact, and what was wrong of them. */
import fc from 'fast-check';
import {
  blankQuestion,
  changed,
  DEFAULT_SETTINGS,
  explain,
  letterCounts,
  Search,
  Table,
  traceOf,
  offering,
  valueCounts,
  windowRows,
  type RemedyChange,
  type ColumnSpec,
  type Question,
  type TextReading,
  type Settings,
} from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Description', kind: 'text' },
  { name: 'Status', kind: 'choice' },
  { name: 'Found on', kind: 'date' },
  { name: 'Value', kind: 'number' },
  { name: 'Item no.', kind: 'text' },
];
const ROWS = [
  ['Umbrella, black', 'Held', '2026-03-31', '12', 'LP-40518'],
  ['foo bar', 'Returned', '2026-04-01', '-3', 'LP-40519'],
  ['foobar ref:a b', 'Held', '', '', 'LP-1'],
  ['Kelvin K, e\u0301te', 'Police', '2025-12-01', '1e3', '02041188'],
  ['a\u{1f9f5}b', '', '2026-03-01', '12.0', '0204-1188'],
];
const table = new Table(
  COLUMNS,
  ROWS.map((cells, i) => ({ id: i + 1, cells })),
);
const ALL = [0, 1, 2, 3, 4];

function question(
  text: string,
  settings: Partial<Settings> = {},
  reading: TextReading = 'words',
  more: Partial<Question> = {},
): Question {
  return {
    ...blankQuestion(ALL),
    settings: { ...DEFAULT_SETTINGS, ...settings },
    strands: [{ verb: 'find', text, reading }],
    ...more,
  };
}
const idsOf = (asked: Question, of = table): number[] =>
  windowRows(new Search(of, asked).run(), 0, 99, []).map(({ id }) => id);
const ids = (...asked: Parameters<typeof question>): number[] => idsOf(question(...asked));

describe('D: the notation made exact', () => {
  const words: [text: string, rows: number[], settings?: Partial<Settings>, reading?: TextReading][] = [
    // `=` and its negation.
    ['value=12', [1, 5]],
    ['value = 12', []],
    ['value: = 12', [1, 5]],
    ['value<>12', [2, 3, 4]],
    ['value!=12', [2, 3, 4]],
    ['value <> 12', [2, 3, 4]],
    ['status=held', [1, 3]],
    ['status<>held', [2, 4, 5]],
    ['found on=2026-03', []],
    ['"found on"=2026-03', [1, 5]],
    ['found=2026-03', [1, 5]],
    ['found<>2026-03', [2, 3, 4]],
    ['"found on" >= 2026-03', [1, 2, 5]],
    ['value > 11 status:held', [1]],
    // A name that is no column's takes what follows it along.
    ['ref:"a b"', [3]],
    ['ref:a', [3]],
    // Scope before brackets.
    ['status:(held | police)', [1, 3, 4]],
    ['description:(foo bar)', [2, 3]],
    ['-status:(held | police)', [2, 5]],
    // D1: a space beside a run has to be there.
    ['foo *', [2], {}, 'wildcards'],
    ['foo *', [2], { case: 'respect' }, 'wildcards'],
    ['* bar', [2], {}, 'wildcards'],
    ['foo*', [2, 3], {}, 'wildcards'],
    // Characters, surrogates and marks.
    ['a?b', [3, 5], {}, 'wildcards'],
    ['\ud83e', []],
    ['\u{1f9f5}', [5]],
    ['e', [1, 2, 3, 4], { accents: 'respect' }],
    ['ete', [], { accents: 'respect' }],
    ['éte', [4], { accents: 'respect' }],
    // Plain text has no signs.
    ['value=12', [], {}, 'plain text'],
    ['ref:a b', [3], {}, 'plain text'],
  ];
  for (const [text, rows, settings, reading] of words) {
    it(`${JSON.stringify(text)} as ${reading ?? 'words'} ${JSON.stringify(settings ?? {})} finds ${rows.join(', ') || 'nothing'}`, () => {
      expect(ids(text, settings, reading)).toEqual(rows);
    });
  }

  it('D2: nothing typed throws', () => {
    for (const text of [
      '('.repeat(1_400),
      '-('.repeat(700),
      'a:('.repeat(400),
      '/[a-\u212a]/',
      '/(?<e\u0301>a)/',
      `/${'('.repeat(500)}/`,
      '~\u0301',
      '=\ud800',
      '"\udc00',
      '\\',
    ])
      for (const accents of ['ignore', 'respect'] as const)
        for (const reading of ['words', 'plain text', 'wildcards', 'pattern'] as const)
          expect(() => ids(text, { accents }, reading)).not.toThrow();
  });

  it('D2: a repeat of what folding takes away comes to an end', () => {
    for (const text of [
      '\u0301*',
      '\u0301*|a',
      '(?:\u0301)+b',
      '(?:\u0301|a)*b',
      '(?:\u0301{2}){1,3}b',
      '(\u0301?\u0301)*?b',
    ])
      for (const accents of ['ignore', 'respect'] as const) {
        const search = new Search(table, question(text, { accents }, 'pattern')).run();
        expect(search.complete).toBeTrue();
        expect(windowRows(search, 0, 9, ALL).length)
          .withContext(text)
          .toBe(search.shown);
      }
    // A mark that is ignored asks nothing of what it follows.
    expect(ids('b\u0301*l', {}, 'pattern')).toEqual(ids('bl', {}, 'pattern'));
  });

  it('D2: nothing made of signs throws, and answers are by linear work', () => {
    const sign = fc.constantFrom(
      ...'()[]{}|-~=:"/\\*?+.^$<>!a1 éß\u0301\ud83e\udd75\u212a',
      'value',
      '..',
      '\\p{L}',
      '(?:',
      '{1,3}',
    );
    const typed = fc.array(sign, { maxLength: 24 }).map((parts) => parts.join(''));
    const reading = fc.constantFrom<TextReading>('words', 'plain text', 'wildcards', 'pattern');
    fc.assert(
      fc.property(typed, reading, fc.constantFrom('ignore' as const, 'respect' as const), (text, read, accents) => {
        const search = new Search(table, question(text, { accents, case: accents }, read)).run();
        expect(search.problem !== undefined || search.complete).toBeTrue();
        windowRows(search, 0, 9, ALL);
      }),
      { numRuns: 2_000 },
    );
  });

  it('D3: counted repeats that an automaton would outgrow are answered by another machine', () => {
    const prose = Array.from({ length: 300 }, (_, i) => `${'ab'.repeat(40 + (i % 7))}${'x'.repeat(i % 80)}b ${i}`);
    const many = new Table(
      [{ name: 'T', kind: 'text' }],
      prose.map((cell, i) => ({ id: i + 1, cells: [cell] })),
    );
    for (const [text, test] of [
      ['/a.{60}b/', /a.{60}b/],
      ['/[ab]{100}x/', /[ab]{100}x/],
      [`/a${'.'.repeat(59)}b$/`, new RegExp(`a${'.'.repeat(59)}b$`)],
      ['/(?:ab){50,}x{70}/', /(?:ab){50,}x{70}/],
      ['/^.{0,90}b \\d/', /^.{0,90}b \d/],
    ] as [string, RegExp][]) {
      const found = idsOf({ ...blankQuestion([0]), strands: [{ verb: 'find', text, reading: 'words' }] }, many);
      const expected = prose.flatMap((cell, i) => (test.test(cell) ? [i + 1] : []));
      expect(found).withContext(text).toEqual(expected.slice(0, 99));
    }
  });

  it('D3: sixty-four large patterns are refused at once, in words', () => {
    const text = Array.from({ length: 64 }, () => '/(.{999}){11}N/').join(' ');
    const { problem } = new Search(table, question(text.slice(0, 2_000))).run();
    expect(problem?.notice.message).toMatch(/too large/);
  });

  it('D3: a search stops within a segment when its time is up, and goes on where it stopped', () => {
    let seed = 1;
    const next = (): number => (seed = (seed * 48_271) % 2_147_483_647);
    const letters = (): string => Array.from({ length: 600 }, () => 'aabé'[next() % 4]).join('');
    const cells = Array.from({ length: 1_500 }, (_, i) => `${letters()}${i}`);
    const many = new Table(
      [{ name: 'T', kind: 'text' }],
      cells.map((cell, i) => ({ id: i + 1, cells: [cell] })),
    );
    const asked: Question = {
      ...blankQuestion([0]),
      strands: [{ verb: 'find', text: '/a.{90}b.{80}[abe]{4}1/', reading: 'words' }],
    };
    const stepped = new Search(many, asked);
    let steps = 0;
    while (stepped.step(1)) steps++;
    expect(steps).toBeGreaterThan(1);
    expect(stepped.complete).toBeTrue();
    expect(stepped.matched).toBe(new Search(many, asked).run().matched);
    expect(stepped.matched).toBe(cells.filter((cell) => /a.{90}b.{80}[abé]{4}1/u.test(cell)).length);
  });

  it('D4: two questions are never taken for one', () => {
    const pairs: [string, string][] = [
      [`value>=${'9'.repeat(400)}`, `value>=-${'9'.repeat(400)}`],
      ['~a\\ b', '~a b'],
      ['value>1', 'value>=1'],
      ['=a', 'a'],
      ['"a b"', 'a b'],
    ];
    for (const [one, other] of pairs) {
      const fresh = (): Table =>
        new Table(
          COLUMNS,
          ROWS.map((cells, i) => ({ id: i + 1, cells })),
        );
      const [alone, after] = [fresh(), fresh()];
      idsOf(question(one), after);
      expect(idsOf(question(other), after))
        .withContext(`${other} after ${one}`)
        .toEqual(idsOf(question(other), alone));
    }
    expect(ids(`value>=${'9'.repeat(400)}`)).toEqual([]);
    expect(ids(`value>=-${'9'.repeat(400)}`)).toEqual([1, 2, 5]);
  });

  it('D7: numbers are shown without loss, or as their own text', () => {
    const spec: ColumnSpec[] = [{ name: 'N', kind: 'number', shown: { number: { decimals: 2, grouping: true } } }];
    const shown = (cell: string): string => {
      const one = new Table(spec, [{ id: 1, cells: [cell] }]);
      return windowRows(new Search(one, blankQuestion([0])).run(), 0, 1, [0])[0].cells[0];
    };
    expect(shown('12345678901234567890')).toBe('12,345,678,901,234,567,890.00');
    expect(shown('1234.5')).toBe('1,234.50');
    expect(shown('-0.001')).not.toBe('-0.00');
    expect(shown('1e25').replace(/[,.]/g, '')).toMatch(/^1e25$|^10{25,27}$/);
    expect(shown('')).toBe('');
  });
});

/** A little table with everything in it that a picker, an effect or a flip can be asked about. */
const cell = fc.constantFrom('', 'a', 'b', 'ab', 'é', ' ', 'a b');
const small = fc.array(fc.tuple(cell, cell, cell), { minLength: 1, maxLength: 14 });
const SMALL: ColumnSpec[] = ['One', 'Two', 'Three'].map((name) => ({ name, kind: 'text' }));
const smallTable = (rows: readonly (readonly string[])[]): Table =>
  new Table(
    SMALL,
    rows.map((cells, i) => ({ id: i + 1, cells })),
  );
const fold = (text: string): string => text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase().trim();

describe('D9: flip, pickers, effects and offers, row by row', () => {
  const pickers = fc.array(fc.tuple(fc.constantFrom(1, 2), fc.uniqueArray(cell, { maxLength: 3 })), { maxLength: 2 });
  const effect = fc.constantFrom('show only matches' as const, 'mark in place' as const, 'leave matches out' as const);
  const asked = fc.record({
    rows: small,
    pickers,
    effect,
    flip: fc.boolean(),
    text: fc.constantFrom('', ' ', 'a', 'b', 'zz'),
    nothingTyped: fc.constantFrom('every row' as const, 'no row' as const),
  });

  it('a row on show is in every picker, and what is on show is what the effect says', () => {
    fc.assert(
      fc.property(asked, ({ rows, pickers: picked, effect: does, flip, text, nothingTyped }) => {
        const inPickers = (row: readonly string[]): boolean =>
          picked.every(
            ([column, values]) => values.length === 0 || values.some((value) => fold(value) === fold(row[column])),
          );
        const asks = text.trim() !== '';
        const hits = (row: readonly string[]): boolean =>
          asks ? fold(row[0]).includes(text) : does === 'show only matches' && nothingTyped === 'every row';
        const expected = rows.flatMap((row, i) => {
          if (!inPickers(row)) return [];
          const shown = does === 'mark in place' ? true : does === 'leave matches out' ? !hits(row) : hits(row);
          const on = asks || nothingTyped === 'every row' ? shown : false;
          return on !== flip ? [i + 1] : [];
        });
        const found = idsOf(
          {
            ...blankQuestion([0]),
            strands: [{ verb: 'find', text, reading: 'words' }],
            pickers: picked.map(([column, values]) => ({ type: 'values', column, values })),
            effect: does,
            flip,
            nothingTyped,
          },
          smallTable(rows),
        );
        expect(found).toEqual(expected);
      }),
      { numRuns: 1_500 },
    );
  });

  it('D6: an offered value gives the rows it says, no row holds none of them, and asking on gives the rest', () => {
    fc.assert(
      fc.property(
        small,
        fc.boolean(),
        fc.constantFrom('', 'a'),
        fc.array(fc.nat(13), { maxLength: 4 }),
        (rows, flip, text, removed) => {
          const one = smallTable(rows);
          for (const at of removed) one.remove(at + 1);
          const base: Question = { ...blankQuestion([0]), strands: [{ verb: 'find', text, reading: 'words' }], flip };
          const { values, count } = valueCounts(offering(one, base, 1).run(), 1);
          expect(values.length).toBe(count);
          const held = new Set(rows.flatMap((row, i) => (removed.includes(i) ? [] : [fold(row[1])])));
          expect(new Set(values.map(({ value }) => fold(value)))).toEqual(held);
          for (const { value, rows: said } of values) {
            const picked: Question = { ...base, pickers: [{ type: 'values', column: 1, values: [value] }] };
            // A picker narrows first, and a flip stays within it: counted alike.
            expect(new Search(one, picked).run().shown).withContext(value).toBe(said);
          }
          const second = valueCounts(offering(one, base, 1).run(), 1, { offset: 1 });
          expect(second.values).toEqual(values.slice(1));
          const holding = valueCounts(offering(one, base, 1).run(), 1, { holding: 'É' });
          expect(holding.values).toEqual(values.filter(({ value }) => fold(value).includes('e')));
        },
      ),
      { numRuns: 500 },
    );
  });

  it('letters are offered with the rows that they give', () => {
    fc.assert(
      fc.property(small, fc.constantFrom('starts' as const, 'contains' as const), (rows, position) => {
        const one = smallTable(rows);
        for (const { value, rows: said } of letterCounts(offering(one, blankQuestion([0]), 1).run(), 1, position)) {
          const picked: Question = {
            ...blankQuestion([0]),
            pickers: [{ type: 'letters', column: 1, letters: [value], position }],
          };
          expect(new Search(one, picked).run().shown).withContext(value).toBe(said);
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe('D5: explaining, each offer applied and counted', () => {
  const offersOf = (one: Table, asked: Question): void => {
    const reasons = explain(one, asked);
    const seen = new Set<string>();
    for (const { change, rows } of reasons) {
      expect(rows).toBeGreaterThan(0);
      expect(new Search(one, changed(asked, change)).run().shown)
        .withContext(JSON.stringify([asked, change]))
        .toBe(rows);
      seen.add(JSON.stringify(change));
    }
    expect(seen.size).withContext('none is offered twice').toBe(reasons.length);
  };

  it('whatever was asked, with several pickers, settings and strands', () => {
    const text = fc.constantFrom(
      'zz',
      'a zz',
      'ab é',
      '"a b" zz',
      '=a',
      'one:b two:a',
      '-a',
      'aab',
      'A',
      '/b$/',
      'a* zz',
    );
    const picked = fc.array(fc.tuple(fc.constantFrom(1, 2), cell), { maxLength: 3 });
    const settings = fc.record({
      need: fc.constantFrom('every word' as const, 'any word' as const),
      where: fc.constantFrom('anywhere' as const, 'whole cell' as const, 'start of a word' as const),
      case: fc.constantFrom('ignore' as const, 'respect' as const),
      accents: fc.constantFrom('ignore' as const, 'respect' as const),
    });
    const verb = fc.constantFrom('minus' as const, 'within' as const);
    fc.assert(
      fc.property(
        small,
        text,
        picked,
        settings,
        fc.array(fc.tuple(verb, cell), { maxLength: 2 }),
        (rows, typed, narrow, setting, strands) => {
          const asked: Question = {
            ...blankQuestion([0]),
            settings: setting,
            strands: [
              { verb: 'find', text: typed, reading: 'words' },
              ...strands.map(([one, more]) => ({ verb: one, text: more, reading: 'words' as const })),
            ],
            pickers: narrow.map(([column, value]) => ({ type: 'values' as const, column, values: [value] })),
          };
          const one = smallTable(rows);
          if (new Search(one, asked).run().shown === 0) offersOf(one, asked);
        },
      ),
      { numRuns: 600 },
    );
  });

  const kinds = (asked: Question): string[] =>
    explain(table, asked).map(({ kind, text }) => `${kind}${text === undefined ? '' : ` ${text}`}`);
  const cases: [
    what: string,
    text: string,
    kinds: string[],
    more?: Partial<Question>,
    settings?: Partial<Settings>,
    reading?: TextReading,
  ][] = [
    ['A12: the same letters without its signs', 'LP40518', ['signs lp-40518']],
    ['A12: a number that is typed with spaces', '0204 1188', ['signs 0204-1188']],
    ['A12: of plain text, too', 'LP40518', ['signs lp-40518'], {}, {}, 'plain text'],
    ['A12: of a quoted text', '"umbrela"', ['near spelling umbrella']],
    ['A12: of a whole cell', '=foobr', []],
    ['a scoped misspelling', 'description:umbrela', ['near spelling umbrella']],
    ['a near spelling under respected case', 'Umbrela', ['near spelling Umbrella'], {}, { case: 'respect' }],
    ['a text with spaces before it', '   umbrela', ['near spelling umbrella']],
    ['an unreadable value', 'value>soon', ['unreadable']],
  ];
  for (const [what, text, expected, more, settings, reading] of cases) {
    it(`${what}: ${text}`, () => {
      const asked = question(text, settings, reading, more);
      offersOf(table, asked);
      const found = kinds(asked).map((kind) => (kind.startsWith('unreadable') ? 'unreadable' : kind));
      for (const kind of expected) expect(found.map((one) => one.toLowerCase())).toContain(kind.toLowerCase());
    });
  }

  it('two pickers, and case and place, that hide a match only together', () => {
    const both = question('umbrella', {}, 'words', {
      pickers: [
        { type: 'values', column: 1, values: ['Police'] },
        { type: 'values', column: 4, values: ['LP-1'] },
      ],
    });
    offersOf(table, both);
    expect(kinds(both).some((kind) => kind.startsWith('together'))).toBeTrue();
    const settings = question('black', { case: 'respect', where: 'start of the cell' }, 'words', { threaded: [0] });
    offersOf(table, { ...settings, strands: [{ verb: 'find', text: 'BLACK', reading: 'words' }] });
    expect(
      kinds({ ...settings, strands: [{ verb: 'find', text: 'BLACK', reading: 'words' }] }).some((kind) =>
        kind.startsWith('together'),
      ),
    ).toBeTrue();
  });

  it('says “not in one row” only of words that are each in some row', () => {
    const apart = explain(table, question('umbrella police'));
    expect(apart.some(({ kind, found }) => kind === 'one keyword' && found === undefined)).toBeTrue();
    const gone = explain(table, question('umbrella qqqq'));
    for (const { kind, found } of gone) if (kind === 'one keyword') expect(found).toBe(0);
  });

  it('says nothing of a column that may not be seen', () => {
    const hidden = question('held', {}, 'words', { threaded: [0], visible: [0, 2, 3] });
    const all: RemedyChange[] = explain(table, hidden).map(({ change }) => change);
    expect(JSON.stringify(all)).not.toContain('"columns":[1');
    expect(explain(table, { ...hidden, visible: undefined }).some(({ kind }) => kind === 'other columns')).toBeTrue();
  });
});

describe('D8: orders are mended, not made anew', () => {
  const word = fc.constantFrom('', 'a', 'b', 'tag 9', 'tag 10', 'é', 'Z', '-1', '2026-01-02');
  const edits = fc.array(
    fc.record({ id: fc.integer({ min: 1, max: 24 }), cells: fc.option(fc.tuple(word, word), { nil: null }) }),
    { maxLength: 30 },
  );
  const levels = fc.array(
    fc.record({
      column: fc.constantFrom(0, 1),
      direction: fc.constantFrom('up' as const, 'down' as const),
      by: fc.constantFrom('value' as const, 'count' as const),
    }),
    { minLength: 1, maxLength: 2 },
  );
  const SPECS: ColumnSpec[] = [
    { name: 'Text', kind: 'text' },
    { name: 'Number', kind: 'number' },
  ];

  it('after each edit as a table that was built anew, with the same trace and the same next match', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(word, word), { minLength: 1, maxLength: 20 }),
        edits,
        levels,
        fc.constantFrom('', 'a', '1'),
        (rows, steps, sort, text) => {
          const live = new Map(rows.map((cells, i) => [i + 1, cells as readonly string[]]));
          const mended = new Table(
            SPECS,
            rows.map((cells, i) => ({ id: i + 1, cells })),
          );
          const asked: Question = {
            ...blankQuestion([0, 1]),
            sort,
            strands: [{ verb: 'find', text, reading: 'words' }],
            effect: 'mark in place',
          };
          for (const { id, cells } of steps) {
            mended.apply([{ id, after: cells }]);
            if (cells) live.set(id, cells);
            else live.delete(id);
            const fresh = new Table(
              SPECS,
              [...live].sort(([a], [b]) => a - b).map(([one, all]) => ({ id: one, cells: all })),
            );
            const [kept, anew] = [new Search(mended, asked).run(), new Search(fresh, asked).run()];
            const seen = (search: Search): unknown[] =>
              windowRows(search, 0, 99, [0, 1]).map(({ id: one, position, match, cells: shown }) => [
                one,
                position,
                match,
                shown,
              ]);
            expect(seen(kept)).toEqual(seen(anew));
            expect(traceOf(kept, 7)).toEqual(traceOf(anew, 7));
            for (const from of [-1, 0, 3])
              expect(kept.view.nextMatch(from, false)).toBe(anew.view.nextMatch(from, false));
          }
        },
      ),
      { numRuns: 250 },
    );
  });

  it('a trace tells of every match and leads to the first row on show in each part, sorted or not', () => {
    fc.assert(
      fc.property(small, fc.boolean(), fc.boolean(), fc.integer({ min: 1, max: 9 }), (rows, sorted, marks, bins) => {
        const asked: Question = {
          ...blankQuestion([0]),
          strands: [{ verb: 'find', text: 'a', reading: 'words' }],
          effect: marks ? 'mark in place' : 'show only matches',
          sort: sorted ? [{ column: 0, direction: 'down', by: 'value' }] : [],
        };
        const search = new Search(smallTable(rows), asked).run();
        const { hits, starts } = traceOf(search, bins);
        expect(hits.reduce((sum, one) => sum + one, 0)).toBe(search.matched);
        const shown = windowRows(search, 0, 99, []);
        starts.forEach((start, bin) => {
          const first = shown.findIndex(({ position }) => Math.floor((position * bins) / rows.length) >= bin);
          expect(start)
            .withContext(`part ${bin}`)
            .toBe(first < 0 ? shown.length : first);
        });
      }),
      { numRuns: 500 },
    );
  });
});
