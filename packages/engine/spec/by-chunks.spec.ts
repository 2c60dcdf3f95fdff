/** Segments of many values that share their chunks: where the engine asks chunks first, and values only where it has to. */
import fc from 'fast-check';
import {
  blankQuestion,
  DEFAULT_SETTINGS,
  Search,
  Table,
  type ColumnSpec,
  type Question,
  type Settings,
} from '@usual-needle/engine';
import { oracleRow, type OracleSettings, type OracleTerm } from './oracle.js';
import { cares, wheres } from './settings.js';

const WORDS = [
  'ab',
  'Abba',
  'b',
  'a-b',
  'ba1',
  'éa',
  'e\u0301b',
  'x',
  'xab',
  'ß',
  'A',
  '1',
  '11',
  'a.',
  '\u0301x',
  'bab',
  'xx',
  'aé',
];
const GAPS = [' ', ' ', ' ', '  ', '\t', '\n', ' - '];

/** Values by counting: all differ, all are of a few words. */
function valueOf(at: number): string {
  const words: string[] = [];
  for (let rest = at; rest > 0 || words.length < 2; rest = Math.floor(rest / WORDS.length)) {
    words.push(WORDS[rest % WORDS.length]);
    if (rest > 0) words.push(GAPS[(at + words.length) % GAPS.length]);
  }
  const text = words.join('');
  return at % 13 === 0 ? ` ${text}` : at % 11 === 0 ? `${text} ` : text;
}
const ROWS = Array.from({ length: 3_500 }, (_, at) => [valueOf(at)]);
const table = new Table(
  [{ name: 'Text', kind: 'text' }],
  ROWS.map((cells, i) => ({ id: i + 1, cells })),
);

const setting: fc.Arbitrary<OracleSettings> = fc.record({
  need: fc.constant('every word'),
  where: wheres,
  case: cares,
  accents: cares,
});
const letters = fc.constantFrom('a', 'b', 'A', 'é', 'x', '1', 'ß', '-');
const word = fc
  .array(letters, { minLength: 1, maxLength: 3 })
  .map((parts) => parts.join(''))
  .filter((text) => !text.startsWith('-'));
const term: fc.Arbitrary<[OracleTerm, string]> = fc.oneof(
  word.map((text): [OracleTerm, string] => [{ type: 'word', text }, text]),
  fc.tuple(word, word).map(([a, b]): [OracleTerm, string] => [{ type: 'phrase', text: `${a} ${b}` }, `"${a} ${b}"`]),
  fc.tuple(word, word).map(([a, b]): [OracleTerm, string] => [{ type: 'wild', text: `${a}*${b}` }, `${a}*${b}`]),
);

function matched(text: string, settings: Partial<Settings>, more: Partial<Question> = {}): number {
  const question: Question = { ...blankQuestion([0]), settings: { ...DEFAULT_SETTINGS, ...settings }, ...more };
  return new Search(table, { ...question, strands: [{ verb: 'find', text, reading: 'words' }] }).run().matched;
}

describe('D8, D9: asking chunks before values', () => {
  it('finds what the oracle finds, whatever is asked', () => {
    fc.assert(
      fc.property(term, setting, ([one, text], settings) => {
        const node = { type: 'term' as const, term: one };
        const expected = ROWS.reduce((count, row) => count + (oracleRow(row, node, [0], settings) ? 1 : 0), 0);
        expect(matched(text, settings))
          .withContext(`${text} ${JSON.stringify(settings)}`)
          .toBe(expected);
      }),
      { numRuns: 60 },
    );
  });

  // `?` takes a character as shown, which the oracle does not tell; a single row has no chunks to be asked first.
  it('finds with a pattern what the pattern finds in each cell by itself', () => {
    const patterns = [
      'a+b',
      '^a',
      'b$',
      'a b',
      'b\\b',
      '\\Bb',
      'a.*b',
      '[ab]{2} x',
      '(?:^| )b',
      '\\s\\s',
      '^$',
      '1|xa',
      '\\bx',
      'x$',
      '[^a]{3}',
      'é',
      '\\W$',
    ];
    for (const pattern of patterns) {
      for (const care of ['ignore', 'respect'] as const) {
        const search = new Search(table, {
          ...blankQuestion([0]),
          settings: { ...DEFAULT_SETTINGS, case: care, accents: care },
          strands: [{ verb: 'find', text: `/${pattern}/`, reading: 'words' }],
        }).run();
        const { matcher } = search.leaves[0].plan;
        const column = table.segments[0].columns[0];
        const expected = ROWS.reduce((count, _, row) => count + (matcher.test(column.cell(row)) ? 1 : 0), 0);
        expect(search.matched).withContext(`${pattern} ${care}`).toBe(expected);
      }
    }
  });

  it('finds with ? what a table of that row alone finds', () => {
    const single = ROWS.filter((_, i) => i % 25 === 0).map(
      ([cell]) => new Table([{ name: 'Text', kind: 'text' }], [{ id: 1, cells: [cell] }]),
    );
    const few = new Table(
      [{ name: 'Text', kind: 'text' }],
      ROWS.map((cells, i) => ({ id: i + 1, cells })),
    );
    for (const [text, settings] of [
      ['?b', {}],
      ['b?', {}],
      ['a??', {}],
      ['?', {}],
      ['b?a', { accents: 'respect' }],
      ['x?', { where: 'start of a word' }],
      ['?x', { where: 'whole word' }],
      ['é?', { accents: 'respect', case: 'respect' }],
      ['1?', { where: 'end of the cell' }],
      ['a?b', { where: 'start of the cell' }],
    ] as [string, Partial<Settings>][]) {
      const question: Question = {
        ...blankQuestion([0]),
        settings: { ...DEFAULT_SETTINGS, ...settings },
        strands: [{ verb: 'find', text, reading: 'words' }],
      };
      const whole = new Search(few, question).run();
      const rows = new Set<number>();
      whole.matches.forEach((bits, s) => {
        for (let row = 0; row < few.segments[s].rowCount; row++)
          if ((bits[row >>> 5] >>> (row & 31)) & 1) rows.add(few.segments[s].ids[row]);
      });
      single.forEach((one, i) => {
        const alone = new Search(one, question).run().matched === 1;
        expect(rows.has(i * 25 + 1))
          .withContext(`${text} in ${JSON.stringify(ROWS[i * 25][0])}`)
          .toBe(alone);
      });
    }
  });

  /** Rows that hit, and those whose cell does so by itself. */
  function both(of: Table, text: string, settings: Partial<Settings>): [found: number, alone: number] {
    const search = new Search(of, {
      ...blankQuestion([0]),
      settings: { ...DEFAULT_SETTINGS, ...settings },
      strands: [{ verb: 'find', text: text.replaceAll(' ', '\\ '), reading: 'words' }],
    }).run();
    const { matcher } = search.leaves[0].plan;
    let alone = 0;
    for (const { columns, rowCount } of of.segments) {
      const tests = new Map<string, boolean>();
      for (let row = 0; row < rowCount; row++) {
        const raw = columns[0].rawText(row);
        if (!tests.has(raw)) tests.set(raw, matcher.test(columns[0].cell(row)));
        if (tests.get(raw)) alone++;
      }
    }
    return [search.matched, alone];
  }

  function tableOf(cells: readonly string[]): Table {
    return new Table(
      [{ name: 'Text', kind: 'text' }],
      cells.map((cell, i) => ({ id: i + 1, cells: [cell] })),
    );
  }

  it('finds in segments with words of their own what each cell says by itself', () => {
    // Of the second segment, which is short, values are read without its chunks being asked first.
    const two = tableOf(
      Array.from({ length: 17_300 }, (_, at) => {
        const own = at < 16_384 ? `n${at}` : at % 2 === 0 ? `q${at}b` : '';
        return `${valueOf((at * 31) % 6_000)} ${own}${at % 3 === 0 ? ' b' : ''}`;
      }),
    );
    expect(two.segments.length).toBe(2);
    const letter = fc.constantFrom('a', 'b', 'x', 'n', '1', '7', 'é');
    const gap = fc.constantFrom('?', '?', '*', '', ' ', '??');
    const wild = fc
      .tuple(gap, letter, gap, fc.oneof(letter, fc.constant('')), gap)
      .map((parts) => parts.join(''))
      .filter((text) => /[?*]/.test(text));
    fc.assert(
      fc.property(wild, setting, ([...text], settings) => {
        const [found, alone] = both(two, text.join(''), { ...settings, need: 'every word' });
        expect(found)
          .withContext(`${text.join('')} ${JSON.stringify(settings)}`)
          .toBe(alone);
      }),
      { numRuns: 24 },
    );
    for (const text of ['b?', '?b', '7b?', '?7b']) {
      const [found, alone] = both(two, text, {});
      expect(found).withContext(text).toBe(alone);
    }
  });

  it('minds which chunk of a value is the first, which only lead, and which cannot be told', () => {
    const firsts = ['b', ' b', 'x', '\u0301b', 'w', 'e', 'be'];
    const middles = ['a', 'e', 'we', 'c?', 'ed', 'b'];
    const lasts = (at: number): string[] => [`n${at}`, `\u0301b${at}`, `e${at}`, `“É${at}”`, ` ${at} `, 'b'];
    const cells = Array.from({ length: 2_600 }, (_, at) => {
      const last = lasts(at)[at % 6];
      return `${firsts[at % 7]} ${middles[(at >>> 3) % 6]} k${at % 40} ${last}`;
    });
    // With chunks of the segment that are few, and with ones of which there are too many for them to be asked by themselves.
    for (const of of [tableOf(cells), tableOf(cells.filter((_, at) => at % 3 !== 0))]) {
      for (const text of [
        '?b',
        'b?',
        '?b?',
        '??b',
        'b??',
        'e?e',
        'w?',
        'w??',
        'e?k',
        '?e?',
        '? b',
        'e*n',
        'b*e',
        '?É',
        '1?b',
        '?b k',
        'b a?',
      ]) {
        for (const settings of [
          {},
          { case: 'respect' },
          { accents: 'respect' },
          { where: 'start of a word' },
          { where: 'start of the cell' },
          { where: 'end of the cell' },
        ] as Partial<Settings>[]) {
          const [found, alone] = both(of, text, settings);
          expect(found)
            .withContext(`${text} ${JSON.stringify(settings)}`)
            .toBe(alone);
        }
      }
    }
  });

  it('finds the ends of serials, with case and without', () => {
    const serials = Array.from({ length: 3_000 }, (_, i) => `Ab-${String(i * 7).padStart(5, '0')}${'xY'[i % 2]}`);
    const one = new Table(
      [{ name: 'No', kind: 'text' }],
      serials.map((cell, i) => ({ id: i + 1, cells: [cell] })),
    );
    const ask = (text: string, settings: Partial<Settings>): number =>
      new Search(one, {
        ...blankQuestion([0]),
        settings: { ...DEFAULT_SETTINGS, ...settings },
        strands: [{ verb: 'find', text, reading: 'words' }],
      }).run().matched;
    const count = (test: (cell: string) => boolean): number => serials.filter(test).length;
    expect(ask('5Y', { where: 'end of the cell' })).toBe(count((cell) => cell.endsWith('5Y')));
    expect(ask('5y', { where: 'end of the cell', case: 'respect' })).toBe(0);
    expect(ask('5y', { where: 'end of the cell' })).toBe(count((cell) => cell.endsWith('5Y')));
    expect(ask('ab-0', { where: 'start of the cell' })).toBe(count((cell) => cell.startsWith('Ab-0')));
    expect(ask('ab-0', { where: 'start of the cell', case: 'respect' })).toBe(0);
    expect(ask('ab-00007y', { where: 'whole cell' })).toBe(1);
    expect(ask('b-00007y', { where: 'whole cell' })).toBe(0);
    expect(ask('ab-00007yy', { where: 'end of the cell' })).toBe(0);
    const weights = tableOf(Array.from({ length: 3_000 }, (_, i) => `0kg-${i}${'012'[i % 3]}kg`));
    for (const text of ['g', 'kg', '0kg', '10kg', 'k', 'z', 'zg']) {
      const [found, alone] = both(weights, text, { where: 'end of the cell' });
      expect(found).withContext(text).toBe(alone);
    }
  });

  it('finds how cells begin and end where most have a chunk of their own', () => {
    const marks = ['stamped ', 'ref ', '', ' S/N ', 'É ', 'name tape '];
    const ends = ['', ' ', '  ', 'x', '\u0301', '\t'];
    const NUMBERS: ColumnSpec = { name: 'Text', kind: 'number', shown: { number: { decimals: 2, grouping: true } } };
    const of = (kind: 'text' | 'number'): Table => {
      const cells = Array.from({ length: 4_000 }, (_, at) =>
        kind === 'text' ? `${marks[at % 6]}K${at * 7}${ends[(at >>> 3) % 6]}` : String((at * 13) % 9_000),
      );
      return new Table(
        [kind === 'number' ? NUMBERS : { name: 'Text', kind: 'text' }],
        [...cells.slice(0, 2), '', ...cells.slice(2), ' '].map((cell, i) => ({ id: i + 1, cells: [cell] })),
      );
    };
    for (const table of [of('text'), of('number')]) {
      for (const text of [
        '7',
        '77',
        '0',
        '.00',
        'x',
        'ref K7',
        'k',
        'k7',
        'stamped',
        'name tape k35',
        '1,0',
        '1,001.00',
        'é k28',
        '1001',
      ]) {
        for (const where of ['start of the cell', 'end of the cell', 'whole cell'] as const) {
          for (const care of [{}, { case: 'respect' }, { accents: 'respect' }] as Partial<Settings>[]) {
            const [found, alone] = both(table, text, { where, ...care });
            expect(found)
              .withContext(`${text} ${where} ${JSON.stringify(care)}`)
              .toBe(alone);
          }
        }
      }
    }
  });

  it('finds where few of the chunks that come once have a letter that matters', () => {
    // Of each 17 marks one has the letter in question, at its beginning, within, or at its end; some are beyond ASCII.
    const letters = ['q', 'Qu', 'v', 'm', 'n', 'tr', 'w', 'z', 'j', 'k', 'x', 'y', 'h', 'g', 'f', 'd', 'c'];
    const befores = ['', 'stamped ', 'es ', 'tin ', 's ', 't ', 'qt '];
    const cells = Array.from({ length: 9_000 }, (_, at) => {
      const [one, other] = [letters[at % 17], at % 60 === 0 ? 'É' : letters[(at * 5) % 13]];
      const mark = at % 3 === 0 ? `${one}${at}${other}` : at % 3 === 1 ? `${at}${one}${at}` : `${at}-${other}`;
      return `${befores[(at >>> 2) % 7]}${mark}${at % 5 === 0 ? ' end' : at % 7 === 0 ? ' ' : ''}${at % 11 === 0 ? ' s t' : ''}`;
    });
    const of = tableOf(['', ...cells, ...cells.slice(0, 700), ' ']);
    const settings: Partial<Settings>[] = [
      {},
      { case: 'respect' },
      { accents: 'respect' },
      { where: 'start of a word' },
      { where: 'start of the cell' },
      { where: 'end of the cell' },
    ];
    for (const text of [
      'q?',
      '?q',
      'q?u',
      's?t',
      't?q',
      'q*t',
      's*q',
      '?? q',
      'é?',
      '?é',
      'z??',
      'q',
      'v',
      's t',
      'd s t',
      '7q',
      '1é',
      'nd',
    ]) {
      for (const some of settings) {
        const [found, alone] = both(of, text, some);
        expect(found)
          .withContext(`${text} ${JSON.stringify(some)}`)
          .toBe(alone);
      }
    }
  });

  it('reads on from what a first chunk leads to that would hit if it came later', () => {
    const firsts = ['ab', 'b', 'cb', 'xab'];
    const lasts = ['b', 'c', 'bb', 'd', ' b'];
    const of = tableOf(
      Array.from({ length: 6_000 }, (_, at) => `${firsts[at % 4]}${(at >>> 2) % 300} ${lasts[Math.floor(at / 1_200)]}`),
    );
    for (const text of ['??b', '???b', '?b?b', '?b ?', '?b\u0301']) {
      const [found, alone] = both(of, text, {});
      expect(found).withContext(text).toBe(alone);
    }
  });
});
