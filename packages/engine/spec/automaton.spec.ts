import fc from 'fast-check';
import {
  BLOCK,
  compilePattern,
  Dfa,
  letterBits,
  Marker,
  NearAutomaton,
  parsePattern,
  TimeIsUp,
  TooLarge,
  within,
} from '@usual-needle/engine';
import { standsIn, type Tree, written } from './derivatives.js';
import { oracleDistance } from './oracle.js';

const STRICT = { case: 'respect', accents: 'respect' } as const;
const LOOSE = { case: 'ignore', accents: 'ignore' } as const;

function machines(
  source: string,
  setting: { case: 'ignore' | 'respect'; accents: 'ignore' | 'respect' } = STRICT,
): { dfa: Dfa; marker: Marker } {
  const parsed = parsePattern(source);
  if ('problem' in parsed) throw new Error(`${source}: ${parsed.problem.message}`);
  const program = compilePattern(parsed.tree, setting);
  return { dfa: new Dfa(program), marker: new Marker(program) };
}

const atom = fc.constantFrom(
  'a',
  'b',
  '.',
  '[ab]',
  '[^a]',
  '\\w',
  '\\W',
  '\\d',
  '\\s',
  '\\b',
  '\\B',
  '^',
  '$',
  '\\n',
  '[a-c]',
  '\\p{L}',
  '\\P{Lu}',
  'é',
  '\\u{1F600}',
  '[\\d-]',
);
const { source } = fc.letrec<{ source: string; piece: string; group: string }>((tie) => ({
  group: tie('source').map((inner) => `(?:${inner})`),
  piece: fc
    .oneof({ maxDepth: 4 }, { weight: 3, arbitrary: atom }, { weight: 2, arbitrary: tie('group') })
    .chain((one) =>
      fc
        .constantFrom('', '', '*', '+', '?', '*?', '+?', '??', '{2}', '{0,2}', '{1,}', '{1,2}?')
        .map((repeat) => (/^(\\[bB]|[\^$])$/.test(one) ? one : one + repeat)),
    ),
  source: fc.oneof(
    { maxDepth: 4 },
    fc.array(tie('piece'), { maxLength: 3 }).map((parts) => parts.join('')),
    fc.array(tie('piece'), { minLength: 2, maxLength: 3 }).map((parts) => parts.join('|')),
  ),
}));
/** The platform tries every way in turn: of repeats within repeats within repeats it does not come to an end. */
const bounded = source.filter((pattern) => (pattern.match(/\)[*+{]/g) ?? []).length <= 2);
const text = fc
  .array(fc.constantFrom('a', 'b', 'c', 'A', '1', ' ', '\n', 'é', '😀', '-', '\ud800'), { maxLength: 10 })
  .map((parts) => parts.join(''));

const { tree } = fc.letrec<{ tree: Tree }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 5, withCrossShrink: true },
    fc.record({ is: fc.constant('letter' as const), of: fc.constantFrom('a', 'b', 'ab', 'c'), not: fc.boolean() }),
    fc.record({ is: fc.constant('then' as const), first: tie('tree'), rest: tie('tree') }),
    fc.record({ is: fc.constant('either' as const), one: tie('tree'), other: tie('tree') }),
    fc.record({ is: fc.constant('again' as const), of: tie('tree') }),
    fc.constant({ is: 'nothing' as const }),
  ),
}));

describe('patterns', () => {
  it('match what the platform’s own expressions match, and where', () => {
    fc.assert(
      fc.property(bounded, text, (pattern, typed) => {
        // V8 sees a `\\B` between the two halves of a character, where no character is.
        const cell = pattern.includes('\\B') ? typed.replaceAll('😀', '') : typed;
        const { dfa, marker } = machines(pattern);
        const expected = [...cell.matchAll(new RegExp(pattern, 'gu'))].map((match) => ({
          start: match.index,
          end: match.index + match[0].length,
        }));
        expect(dfa.test(cell))
          .withContext(pattern)
          .toBe(expected.length > 0);
        expect(marker.findAll(cell))
          .withContext(`${pattern} in ${JSON.stringify(cell)}`)
          .toEqual(expected);
      }),
      { numRuns: 4_000 },
    );
  });

  it('match what a second linear machine matches, which shares no code with them', () => {
    fc.assert(
      fc.property(tree, fc.stringMatching(/^[abc]{0,12}$/), (pattern, cell) => {
        const expected = standsIn(pattern, cell);
        const { dfa, marker } = machines(written(pattern));
        expect(dfa.test(cell)).withContext(written(pattern)).toBe(expected);
        expect(marker.findAll(cell).length > 0)
          .withContext(written(pattern))
          .toBe(expected);
      }),
      { numRuns: 3_000 },
    );
  });

  it('prefer what ECMAScript prefers in loops that can match nothing', () => {
    for (const pattern of [
      '(?:|a)+',
      '(?:a|b*)*',
      '(?:a*)*',
      '(?:a*)+?b',
      '(?:a?){3}',
      '(?:|a|ab)*',
      '(?:(?:a|)(?:b|))*c?',
      '(?:a??)*',
      '(?:\\b|a)*',
      '(?:(?:|a)*b?)*',
    ]) {
      for (const cell of ['', 'a', 'b', 'ab', 'aab', 'abab', 'bba', 'abcab', 'ba ab']) {
        const expected = [...cell.matchAll(new RegExp(pattern, 'gu'))].map((match) => [
          match.index,
          match.index + match[0].length,
        ]);
        expect(
          machines(pattern)
            .marker.findAll(cell)
            .map(({ start, end }) => [start, end]),
        )
          .withContext(`${pattern} in ${cell}`)
          .toEqual(expected);
      }
    }
  });

  it('ignore case in what is written and never in what an escape names', () => {
    const cases: [string, string, boolean][] = [
      ['straße', 'STRASSE', true],
      ['strasse', 'Straße', true],
      ['[ß]x', 'SSX', true],
      ['k', '\u212a', true],
      ['[a-z]+$', 'ABC', true],
      ['^[^a-z]$', 'B', false],
      ['^\\p{Lu}$', 'a', false],
      ['^\\p{Lu}$', 'A', true],
      ['^\\P{Lu}$', 'A', false],
      ['^\\W$', '\u212a', true],
      ['σ', 'ς', true],
      ['^.$', 'İ', true],
    ];
    for (const [pattern, cell, expected] of cases) {
      const folding = { case: 'ignore', accents: 'respect' } as const;
      expect(machines(pattern, folding).dfa.test(cell.normalize('NFC') === 'Straße' ? 'Strasse' : cell))
        .withContext(`${pattern} in ${cell}`)
        .toBe(expected);
    }
    expect(machines('bruckl', LOOSE).dfa.test('BRUCKL')).toBe(true);
    expect(machines('brückl', LOOSE).dfa.test('bruckl')).toBe(true);
    expect(machines('[ü]', LOOSE).dfa.test('u')).toBe(true);
  });

  const refused: [string, number, number, RegExp][] = [
    ['(a', 0, 1, /not closed/],
    ['a)', 1, 2, /closes nothing/],
    ['[a', 0, 1, /not closed/],
    ['*a', 0, 1, /nothing here to repeat/],
    ['a**', 2, 3, /cannot be repeated/],
    ['^*', 0, 2, /nothing here to repeat/],
    ['(?=a)', 0, 3, /ahead or behind/],
    ['(?<!a)', 0, 3, /ahead or behind/],
    ['(a)\\1', 3, 5, /Referring back/],
    ['\\k<n>', 0, 2, /Referring back/],
    ['a{1001}', 1, 7, /up to 1,000/],
    ['a{3,2}', 1, 6, /wrong way round/],
    ['[b-a]', 1, 4, /wrong way round/],
    ['\\p{Nope}', 0, 8, /no property/],
    ['a\\', 1, 2, /backslash/],
    ['\\y', 0, 2, /means nothing/],
  ];
  for (const [pattern, start, end, message] of refused) {
    it(`refuse ${pattern} and say where`, () => {
      const parsed = parsePattern(pattern);
      expect(parsed).toEqual({
        problem: { kind: jasmine.any(String) as never, message: jasmine.stringMatching(message) as never, start, end },
      });
    });
  }

  it('say so when they are too large', () => {
    const parsed = parsePattern('((a{1000}){1000}){1000}');
    expect(() => compilePattern((parsed as { tree: never }).tree, STRICT)).toThrowError(TooLarge);
  });

  it('never fail otherwise, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 20 }), (typed) => {
        const parsed = parsePattern(typed);
        if ('problem' in parsed) {
          expect(parsed.problem.start).toBeLessThanOrEqual(parsed.problem.end);
          expect(parsed.problem.end).toBeLessThanOrEqual(typed.length + 2);
        } else compilePattern(parsed.tree, LOOSE);
      }),
      { numRuns: 2_000 },
    );
  });

  const hostile = [
    '(a+)+$',
    '(a|a)*b',
    '(.*)*x',
    '(a*)*b',
    '((a{0,30}){0,30})*c',
    '(a|aa)+$',
    '(?:a?){50}a{50}',
    '([a-z]+)*=',
    '.*.*.*=.*',
  ];
  for (const pattern of hostile) {
    it(`take work linear in the text for ${pattern}`, () => {
      const { dfa, marker } = machines(pattern);
      /** Steps, each of which is of so many words of bits at most. */
      const work = (size: number): number => {
        const cell = `${'a'.repeat(size)}!`;
        let steps = 1;
        for (const run = marker.findSteps(cell); !run.next().done;) steps++;
        for (let isTold = false; !isTold; steps++)
          try {
            within(-1, () => dfa.test(cell));
            isTold = true;
          } catch (error) {
            if (!(error instanceof TimeIsUp)) throw error;
          }
        return steps;
      };
      // Eight times the text; a quadratic matcher would have sixty-four times as much to do.
      expect(work(16_000)).toBeLessThan(10 * work(2_000) + 10);
    });
  }
});

describe('near spelling', () => {
  const letters = fc.stringMatching(/^[abc]{0,7}$/);

  it('measures the distance that the whole table gives', () => {
    fc.assert(
      fc.property(letters, letters, fc.constantFrom(0, 1, 2), (word, other, most) => {
        const distance = oracleDistance(other, word);
        expect(new NearAutomaton(word, most).distanceOf(other)).toBe(distance <= most ? distance : Infinity);
      }),
      { numRuns: 3_000 },
    );
  });

  it('finds the same words in a list, passing over those that cannot be near', () => {
    fc.assert(
      fc.property(
        letters,
        fc.uniqueArray(
          letters.filter((one) => one !== ''),
          { maxLength: 60 },
        ),
        (word, list) => {
          const sorted = [...list].sort();
          const starts = new Uint32Array(sorted.length + 1);
          sorted.forEach((one, i) => (starts[i + 1] = starts[i] + one.length + 1));
          const automaton = new NearAutomaton(word, 1);
          const found: string[] = [];
          const bits = Uint32Array.from(sorted, letterBits);
          const joined = sorted.map((one) => `${one}\n`).join('');
          const blockBits = new Uint32Array(Math.ceil(sorted.length / BLOCK));
          bits.forEach((one, i) => (blockBits[Math.floor(i / BLOCK)] |= one));
          automaton.over({ joined, starts, bits, blockBits }, (number) => found.push(sorted[number]));
          expect(found).toEqual(sorted.filter((one) => oracleDistance(one, word) <= 1));
        },
      ),
      { numRuns: 1_000 },
    );
  });
});
