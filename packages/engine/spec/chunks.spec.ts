import fc from 'fast-check';
import {
  ColumnSegment,
  DEFAULT_SETTINGS,
  FACE_BREAK_CHUNK,
  Judging,
  matcherOf,
  ONE_CHARACTER,
  ANY_RUN,
  parsePattern,
  ownBits,
  pickBits,
  SHARED_CHUNKS,
  SharedChunks,
  Table,
  wholeBytes,
  type Chunks,
  type ColumnSpec,
  type Settings,
  type Term,
} from '@usual-needle/engine';
import { cares, wheres } from './settings.js';

const TEXT: ColumnSpec = { name: 'Marks', kind: 'text' };
const DATE: ColumnSpec = { name: 'Found on', kind: 'date', shown: { date: 'd MMM yyyy' } };
const NUMBER: ColumnSpec = { name: 'Value', kind: 'number', shown: { number: { decimals: 2, grouping: true } } };

/** All that folding treats in a way of its own, and what joins with its neighbours. */
const letters = fc.constantFrom(
  'a',
  'b',
  'A',
  'ab',
  'é',
  'e\u0301',
  'ß',
  's',
  'ss',
  'ﬁ',
  'İ',
  '’',
  '“',
  '–',
  '-',
  '.',
  ' ',
  ' ',
  '  ',
  '\n',
  '\r\n',
  '\t',
  '\u00a0',
  '\u0301',
  '´',
  '\u200d',
  '👩\u200d🔧',
  '👍🏽',
  '\u{1f3fd}',
  '\ud800',
  '\u0600',
  'ᄀ',
  'ᅡ',
  '1',
  'の',
);
const cell = fc.array(letters, { maxLength: 9 }).map((parts) => parts.join(''));
const cells = fc.array(cell, { maxLength: 12 });
/** Few texts put together in many ways, so that chunks come again and again. */
const repeated = fc
  .tuple(fc.uniqueArray(cell, { minLength: 3, maxLength: 5 }), fc.constantFrom(' ', '\n', '  '))
  .map(([some, space]) => some.flatMap((a) => some.flatMap((b) => [[a, b].join(space), [a, b, a].join(space)])));
const settings: fc.Arbitrary<Settings> = fc.record({
  need: fc.constant('every word' as const),
  where: fc.constant('anywhere' as const),
  case: cares,
  accents: cares,
});
const wildcard: fc.Arbitrary<Term> = fc.record({
  type: fc.constant('wildcard' as const),
  template: fc
    .array(fc.constantFrom('a', 'b', 's', 'é', ' ', '1', ANY_RUN, ONE_CHARACTER, ONE_CHARACTER), {
      minLength: 1,
      maxLength: 5,
    })
    .map((parts) => parts.join('')),
  where: wheres,
});
const pattern: fc.Arbitrary<Term> = fc
  .array(
    fc.constantFrom(
      'a',
      'b',
      's',
      'é',
      '.',
      ' ',
      '\\s',
      '\\n',
      '\\b',
      '^',
      '$',
      '[^a]',
      'a+',
      '(?:ab|b)*',
      '.?',
      '\\p{L}',
    ),
    { minLength: 1, maxLength: 5 },
  )
  .map((parts) => parts.join(''))
  .filter((source) => !('problem' in parsePattern(source)))
  .map((source) => ({ type: 'pattern', source }));

const text: fc.Arbitrary<Term> = fc.record({ type: fc.constant('text' as const), text: cell, where: wheres });
const near: fc.Arbitrary<Term> = fc.record({
  type: fc.constant('near' as const),
  word: fc
    .array(fc.constantFrom('a', 'b', 'A', 'é', 'ß', 's', '1', '-'), { minLength: 1, maxLength: 6 })
    .map((parts) => parts.join('')),
});

/** Holds what a matcher says of a column's values at once against what it says of each cell. */
function expectSame(term: Term, setting: Settings, segments: readonly ColumnSegment[]): void {
  const matcher = matcherOf(term, setting);
  if (!matcher) return;
  for (const column of segments) {
    const asked = wholeBytes(column.valueCount);
    asked.forEach((_, value) => (asked[value] = value % 5 === 4 ? 0 : 1));
    const expected = Array.from(asked, (one, value) => (one === 1 && matcher.test(column.valueCell(value)) ? 1 : 0));
    matcher.judge!(column, asked);
    expect(Array.from(asked))
      .withContext(JSON.stringify([term, Array.from(asked, (_, value) => column.raw.at(value))]))
      .toEqual(expected);
  }
}

function segmentsOf(spec: ColumnSpec, parts: readonly (readonly string[])[]): ColumnSegment[] {
  const shared = new SharedChunks();
  return parts.map((part) => ColumnSegment.of(spec, part, shared));
}

describe('chunks', () => {
  it('put together are the value, unit for unit, in the first segment and in those that share its chunks', () => {
    fc.assert(
      fc.property(cells, cells, (some, others) => {
        for (const column of segmentsOf(TEXT, [some, others])) {
          const { chunks } = column;
          const { starts, sequence } = chunks;
          for (let value = 0; value < column.valueCount; value++) {
            const texts = Array.from(sequence.subarray(starts[value], starts[value + 1]), (chunk) => chunks.at(chunk));
            const raw = column.raw.at(value);
            expect(texts.join('')).toBe(column.valueCell(value).blank ? '' : raw);
          }
        }
      }),
      { numRuns: 1_000 },
    );
  });

  it('of a date stand for both its faces', () => {
    const { chunks } = ColumnSegment.of(DATE, ['2026-11-18']);
    const texts = Array.from(chunks.sequence, (chunk) => (chunk === FACE_BREAK_CHUNK ? '|' : chunks.at(chunk)));
    expect(texts).toEqual(['18 ', 'Nov ', '2026', '|', '2026-11-18']);
  });

  it('that come more than once are known to all segments by the same numbers', () => {
    const [{ chunks: first }, { chunks: second }] = segmentsOf(TEXT, [
      ['red cap', 'red scarf', 'blue cap'],
      ['green cap', 'red hat', 'green hat', 'blue tie'],
    ]);
    const own = ({ own: pool }: Chunks): string[] =>
      Array.from({ length: pool.size }, (_, i) => pool.at(pool.first + i));
    expect(own(first)).toEqual(['scarf', 'blue ']);
    expect(own(second)).toEqual(['blue ', 'tie']);
    expect(first.shared.numberOf('red ')).toBeLessThan(SHARED_CHUNKS);
    expect(second.shared).toBe(first.shared);
    expect(second.sequence[2]).toBe(first.sequence[0]);
  });

  it('are shared up to a limit', () => {
    const values = Array.from({ length: SHARED_CHUNKS + 100 }, (_, i) => `${i} ${i}`);
    const twice = values.map((value) => `${value} ${value}`);
    const [{ chunks }] = segmentsOf(TEXT, [twice]);
    expect(chunks.own.size).toBeGreaterThan(0);
    expect(chunks.shared.numberOf(`${SHARED_CHUNKS} `)).toBeUndefined();
    expect(
      Array.from(chunks.sequence.subarray(chunks.starts[SHARED_CHUNKS]), (chunk) => chunks.at(chunk)).join(''),
    ).toBe(twice.slice(SHARED_CHUNKS).join(''));
    expectSame({ type: 'pattern', source: '1638[3-5]$' }, DEFAULT_SETTINGS, segmentsOf(TEXT, [twice]));
  });
});

describe('values asked chunk by chunk', () => {
  for (const [name, term] of Object.entries({ text, near, wildcard, pattern })) {
    it(`hit where their cells do, by a ${name}`, () => {
      fc.assert(
        fc.property(
          term,
          settings,
          fc.oneof(cells, repeated),
          fc.oneof(cells, repeated),
          (one, setting, some, others) => {
            expectSame(one, setting, segmentsOf(TEXT, [some, others]));
          },
        ),
        { numRuns: 1_500 },
      );
    });
  }

  for (const name of ['wildcard', 'pattern']) {
    it(`hit where their cells do, by a ${name} over numbers and dates`, () => {
      const numbers = fc.array(fc.constantFrom('1', '1234.5', '1,234.50', '-12', '0', '', 'none', '12 '), {
        maxLength: 8,
      });
      const dates = fc.array(fc.constantFrom('2026-11-18', '18 Nov 2026', '2026-01-01', ' ', 'soon'), { maxLength: 6 });
      const digits =
        name === 'pattern'
          ? ['1', '\\d+$', '^1', ',2', '26-1', 'nov 2']
          : ['1', `${ONE_CHARACTER}2`, `1${ANY_RUN}5`, `v${ONE_CHARACTER}2`, '26-1'];
      const terms = fc
        .constantFrom(...digits)
        .chain((text) =>
          wheres.map((place): Term =>
            name === 'pattern' ? { type: 'pattern', source: text } : { type: 'wildcard', template: text, where: place },
          ),
        );
      fc.assert(
        fc.property(terms, settings, numbers, dates, (one, setting, some, others) => {
          expectSame(one, setting, segmentsOf(NUMBER, [some, some]));
          expectSame(one, setting, segmentsOf(DATE, [others, others]));
        }),
        { numRuns: 1_000 },
      );
    });
  }

  it('are the rows of near words, told apart by case or accents, too', () => {
    fc.assert(
      fc.property(near, settings, fc.oneof(cells, repeated), (one, setting, some) => {
        const matcher = matcherOf(one, setting);
        if (!matcher) return;
        const column = ColumnSegment.of(TEXT, some);
        const rows = matcher.indexedRows!(column, new Judging());
        const hits = some.flatMap((_, row) => (matcher.test(column.cell(row)) ? [row] : []));
        expect(rows ? pickBits(ownBits(rows, column.rowCount), 0, some.length) : [])
          .withContext(JSON.stringify([one, setting, some]))
          .toEqual(hits);
      }),
      { numRuns: 1_500 },
    );
  });

  it('hit where their cells do where there are more states than can be remembered', () => {
    const words = Array.from({ length: 64 }, (_, i) =>
      i.toString(2).padStart(6, '0').replaceAll('0', 'a').replaceAll('1', 'b'),
    );
    const values = Array.from({ length: 3_000 }, (_, i) =>
      [7, 11, 13, 17].map((step) => words[(i * step + (i >>> 4)) % 64]).join(' '),
    );
    const segments = segmentsOf(TEXT, [values.slice(0, 1_500), values.slice(1_500)]);
    for (const source of ['a[ab ]{18}b', 'b[ab ]{11}a[ab ]{3}b', 'a[ab ]{26}$', '(?:a|b|ab| )*a[ab ]{14}a'])
      expectSame({ type: 'pattern', source }, DEFAULT_SETTINGS, segments);
  });

  it('hit where their cells do where hardly a chunk comes twice', () => {
    const serials = Array.from({ length: 500 }, (_, i) => `LP-${40_000 + i * 7}`);
    for (const more of [[], ['zwei  Worte', 'Straße']]) {
      const segments = segmentsOf(TEXT, [[...serials, ...more]]);
      expectSame({ type: 'pattern', source: '\\d{3}5$' }, DEFAULT_SETTINGS, segments);
      expectSame({ type: 'wildcard', template: `4${ONE_CHARACTER}5`, where: 'anywhere' }, DEFAULT_SETTINGS, segments);
    }
  });
});

describe('indexes of a table', () => {
  it('are built once each, and again only where a column is read in another way', () => {
    const rows = Array.from({ length: 20_000 }, (_, i) => ({ id: i + 1, cells: [`lp ${i}`, '2026-11-18'] }));
    const table = new Table([TEXT, { name: 'Found on', kind: 'text' }], rows);
    const columns = (): ColumnSegment[] => table.segments.flatMap((segment) => segment.columns);
    const unbuilt = (): number => columns().filter(({ isBuilt }) => !isBuilt).length;
    expect(table.segments.length).toBe(2);
    // Left in the middle of the first, and begun again: it goes on with the rest.
    table.buildIndexes().next();
    expect(unbuilt()).toBe(4);
    expect([...table.buildIndexes()].length).toBeGreaterThan(4);
    expect([unbuilt(), [...table.buildIndexes()].length]).toEqual([0, 0]);
    table.respecify([TEXT, DATE]);
    expect(unbuilt()).toBe(2);
    for (const _ of table.buildIndexes()) void _;
    expect([unbuilt(), [...table.buildIndexes()].length]).toEqual([0, 0]);
  });
});
