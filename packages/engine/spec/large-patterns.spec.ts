/** Patterns whose counts make them large: followed by words of bits, they find what small ones find, and can be stopped at any letter. */
import {
  blankQuestion,
  compilePattern,
  DEFAULT_SETTINGS,
  fold,
  foldForPattern,
  Marker,
  mostFolded,
  parsePattern,
  type Program,
  Search,
  Table,
  TimeIsUp,
  within,
} from '@usual-needle/engine';
import fc from 'fast-check';
import { Alphabet } from '../dist/automaton/alphabet.js';
import { leastLetters } from '../dist/automaton/least-letters.js';
import { Simulation } from '../dist/automaton/simulation.js';
import { Threads } from '../dist/automaton/threads.js';
import { standsIn, type Tree, written } from './derivatives.js';

/** More than a small program has, whatever else is in the pattern; no text here has it. */
const LARGE = 'q{300}z';

function programOf(source: string): Program {
  const parsed = parsePattern(source);
  if ('problem' in parsed) throw new Error(`${source}: ${parsed.problem.message}`);
  return compilePattern(parsed.tree, { case: 'respect', accents: 'respect' });
}
const simulationOf = (program: Program): Simulation => new Simulation(program, new Alphabet(program));

/** Asked again and again, each time for no time at all, until it answers. */
function piecewise(simulation: Simulation, text: string): { answer: boolean; steps: number } {
  for (let steps = 1; ; steps++)
    try {
      return { answer: within(-1, () => simulation.test(text)), steps };
    } catch (error) {
      if (!(error instanceof TimeIsUp)) throw error;
    }
}

const atom = fc.constantFrom('a', 'b', '.', '[^a]', '\\w', '\\b', '^', '$', 'é', '\\u{1F600}', '(?:)');
const count = fc.constantFrom('', '', '*', '+?', '?', '??', '{2}', '{0,3}', '{1,}');
const piece = fc.tuple(atom, count).map(([one, repeat]) => (/^(\\b|[\^$])$/.test(one) ? one : one + repeat));
const group = fc
  .tuple(fc.array(piece, { maxLength: 3 }), fc.array(piece, { maxLength: 2 }), count)
  .map(([one, other, repeat]) => `(?:${one.join('')}|${other.join('')})${repeat}`);
const source = fc.array(fc.oneof(piece, group), { maxLength: 3 }).map((parts) => parts.join(''));
const text = fc
  .array(fc.constantFrom('a', 'b', 'q', ' ', '\n', 'é', '😀'), { maxLength: 10 })
  .map((parts) => parts.join(''));

describe('large patterns', () => {
  it('match what the platform’s own expressions match, and where', () => {
    fc.assert(
      fc.property(source, text, (pattern, cell) => {
        const large = `(?:${pattern}|${LARGE})`;
        const expected = [...cell.matchAll(new RegExp(large, 'gu'))].map(({ index, 0: hit }) => ({
          start: index,
          end: index + hit.length,
        }));
        const program = programOf(large);
        expect(simulationOf(program).test(cell))
          .withContext(`${pattern} in ${cell}`)
          .toBe(expected.length > 0);
        expect(new Marker(program).findAll(cell)).withContext(`${pattern} in ${cell}`).toEqual(expected);
      }),
      { numRuns: 1_500 },
    );
  });

  it('match the same in texts that are read part by part, and one after the other', () => {
    const parts = fc.array(fc.array(fc.constantFrom('a', 'b', 'q', ' ', '\n', 'é'), { maxLength: 40 }), {
      maxLength: 4,
    });
    const counted = fc.constantFrom('a.{30}b', '[ab].{25}q$', '^.{20,40}b', 'a?{40}b', '(?:ab?){12}q', '(?:q.){16}');
    fc.assert(
      fc.property(fc.oneof(source, counted, counted), fc.array(parts, { maxLength: 3 }), (pattern, texts) => {
        const program = programOf(pattern.replace('?{', '{0,'));
        const alphabet = new Alphabet(program);
        const threads = Threads.of(program, alphabet);
        expect(threads === undefined)
          .withContext(pattern)
          .toBe(alphabet.bits.some((bits) => bits !== 0));
        if (!threads) return;
        const letters = Uint16Array.from({ length: 128 }, (_, unit) => alphabet.letter(unit));
        for (const cut of texts.map((text) => text.map((part) => part.join('')))) {
          threads.begin();
          const found = cut.some((part) =>
            part.includes('é')
              ? threads.readText(part)
              : threads.read(
                  Uint8Array.from(part, (letter) => letter.charCodeAt(0)),
                  0,
                  part.length,
                  letters,
                ),
          );
          expect(found || threads.matchesAtEnd())
            .withContext(`${pattern} in ${cut.join('·')}`)
            .toBe(new RegExp(pattern.replace('?{', '{0,'), 'u').test(cut.join('')));
        }
      }),
      { numRuns: 2_000 },
    );
  });

  it('find in a table, whose cells are of many words and forms, what the platform finds', () => {
    let random = 7;
    const next = (below: number): number => (random = (random * 48_271) % 0x7fffffff) % below;
    const word = (): string => Array.from({ length: 1 + next(9) }, () => 'aeibéq-x'[next(8)]).join('');
    const cells = Array.from({ length: 3_000 }, () =>
      Array.from({ length: next(24) }, word).join(' '.repeat(1 + next(2))),
    );
    const table = new Table(
      [{ name: 'A', kind: 'text' }],
      cells.map((cell, i) => ({ id: i + 1, cells: [cell] })),
    );
    for (const pattern of ['a.{60}b', '[aei].{50}[aei]$', 'q.{30,60}x', '[aeé].{40}b.{20}q'])
      for (const accents of ['ignore', 'respect'] as const) {
        const strands = [{ verb: 'find' as const, text: `/${pattern}/`, reading: 'words' as const }];
        const settings = { ...DEFAULT_SETTINGS, accents };
        const search = new Search(table, { ...blankQuestion([0]), settings, strands }).run();
        const plain = (cell: string): string => (accents === 'ignore' ? cell.replaceAll('é', 'e') : cell);
        const expected = cells.filter((cell) => new RegExp(plain(pattern), 'u').test(plain(cell))).length;
        expect(search.matched).withContext(`${pattern}, accents: ${accents}`).toBe(expected);
      }
    // A wildcard, whose signs stand for characters as they are shown.
    const strands = [{ verb: 'find' as const, text: `e${'?'.repeat(40)}q`, reading: 'words' as const }];
    const evened = cells.map((cell) => cell.replaceAll('é', 'e').replace(/ +/g, ' ').trim());
    expect(new Search(table, { ...blankQuestion([0]), strands }).run().matched).toBe(
      evened.filter((cell) => /e.{40}q/u.test(cell)).length,
    );
  });

  it('count as a second machine counts, which knows no counts', () => {
    const letter = fc.record({
      is: fc.constant('letter' as const),
      of: fc.constantFrom('a', 'b', 'ab'),
      not: fc.boolean(),
    });
    const part = fc.record({ of: letter, times: fc.nat(12), may: fc.boolean() });
    fc.assert(
      fc.property(fc.array(part, { maxLength: 3 }), fc.stringMatching(/^[abc]{0,30}$/), (parts, cell) => {
        const trees = parts.flatMap(({ of, times, may }): Tree[] =>
          Array.from({ length: times }, () => (may ? { is: 'either', one: of, other: { is: 'nothing' } } : of)),
        );
        const tree = trees.reduceRight<Tree>((rest, first) => ({ is: 'then', first, rest }), { is: 'nothing' });
        const pattern = parts.map(({ of, times, may }) => `(?:${written(of)}${may ? '?' : ''}){${times}}`).join('');
        const program = programOf(`(?:${pattern}|${LARGE})`);
        const expected = standsIn(tree, cell);
        expect(simulationOf(program).test(cell)).withContext(`${pattern} in ${cell}`).toBe(expected);
        expect(new Marker(program).findAll(cell).length > 0).toBe(expected);
      }),
      { numRuns: 500 },
    );
  });

  const slow: [string, string, boolean][] = [
    ['(?:.?){1000}.{1000}$', 'x'.repeat(2_000), true],
    ['(?:.?){1000}.{1000}z$', 'x'.repeat(2_000), false],
    ['(?:a?){1000}a{1000}', 'a'.repeat(9_000), true],
    ['(?:a?){1000}a{1000}b', 'a'.repeat(9_000), false],
  ];
  for (const [pattern, cell, expected] of slow)
    it(`can be stopped within a cell, and go on: ${pattern} on ${cell.length} letters`, () => {
      const simulation = simulationOf(programOf(pattern));
      const { answer, steps } = piecewise(simulation, cell);
      expect(answer).toBe(expected);
      if (!expected) expect(steps).toBeGreaterThan(1);
      // Nothing of the one is left over in the next.
      expect(piecewise(simulation, '').answer).toBe(false);
      expect(simulation.test(cell)).toBe(expected);
    });

  it('come to an end, a little at a time, over long cells that were edited, asked before the edits or not', () => {
    const long = 'a'.repeat(60_000);
    const strands = [{ verb: 'find' as const, text: '/(?:a?){600}a{600}b/', reading: 'words' as const }];
    const question = { ...blankQuestion([0]), strands };
    const table = new Table(
      [{ name: 'A', kind: 'text' }],
      Array.from({ length: 40 }, (_, i) => ({ id: i + 1, cells: [`a${i}`] })),
    );
    for (const from of [1, 11]) {
      table.apply([0, 1, 2].map((i) => ({ id: from + i, after: [`${long}${i === 1 ? 'b' : 'c'}${from}`] })));
      const search = new Search(table, question);
      let steps = 1;
      while (search.step(1) && steps < 20_000) steps++;
      expect(search.complete).withContext(`${steps} steps`).toBeTrue();
      expect(steps).toBeGreaterThan(3);
      expect(search.matched).toBe(from === 1 ? 1 : 2);
    }
  });

  it('are marked in steps within a cell, as at once', () => {
    for (const [pattern, cell] of [
      ['(?:.?){1000}.{1000}$', 'x'.repeat(2_000)],
      ['a.{300}b', 'ab'.repeat(5_000)],
    ]) {
      const program = programOf(pattern);
      const steps = new Marker(program).findSteps(cell);
      let rests = 0;
      let step = steps.next();
      for (; !step.done; step = steps.next()) rests++;
      expect(rests).withContext(pattern).toBeGreaterThan(2);
      expect(step.value).withContext(pattern).toEqual(new Marker(program).findAll(cell));
      expect(step.value.length).withContext(pattern).toBeGreaterThan(0);
    }
  });

  it('are not asked of texts that are too short for them, and of all others', () => {
    const setting = { case: 'ignore', accents: 'ignore' } as const;
    for (const [pattern, least] of [
      ['a.{60}b', 62],
      ['(?:a?){30}b{2,}|c{9}', 2],
      ['(?:)', 0],
      ['^\\b$', 0],
    ] as const)
      expect(leastLetters(programOf(pattern)))
        .withContext(pattern)
        .toBe(least);
    // Letters that become several when they are folded: ﷺ is eighteen.
    for (const cell of ['ﷺ', 'ǆǆǆ', '½', 'straße ﬃ'])
      for (const pattern of ['a.{6}b', '.{5}', '.{18}', '\\d.\\d']) {
        const table = new Table([{ name: 'A', kind: 'text' }], [{ id: 1, cells: [cell] }]);
        const strands = [{ verb: 'find' as const, text: `/${pattern}/`, reading: 'words' as const }];
        const program = compilePattern((parsePattern(pattern) as { tree: never }).tree, setting);
        expect(new Search(table, { ...blankQuestion([0]), strands }).run().matched > 0)
          .withContext(`${pattern} in ${cell}`)
          .toBe(simulationOf(program).test(foldForPattern(cell, setting)));
      }
  });

  it('find no letter that folds to more than is reckoned with', () => {
    const settings = (['ignore', 'respect'] as const).flatMap((care) =>
      (['ignore', 'respect'] as const).map((accents) => ({ case: care, accents })),
    );
    for (let codePoint = 0; codePoint <= 0x2ffff; codePoint++) {
      const letter = String.fromCodePoint(codePoint);
      const most = mostFolded(letter);
      for (const setting of settings)
        if (Math.max(fold(letter, setting).length, foldForPattern(letter, setting).length) > most)
          fail(`${letter} (${codePoint.toString(16)})`);
    }
  });
});
