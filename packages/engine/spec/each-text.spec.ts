/** An automaton over many texts at once: held against one over each of them by itself. */
import fc from 'fast-check';
import { ChunkPool, compilePattern, Dfa, parsePattern, type Program } from '@usual-needle/engine';

const ASKED = 2;

function programOf(source: string): Program {
  const parsed = parsePattern(source);
  if ('problem' in parsed) throw new Error(`${source}: ${parsed.problem.message}`);
  return compilePattern(parsed.tree, { case: 'respect', accents: 'respect' });
}

/** Which of the texts that are asked match, with all of them read at once. */
function atOnce(dfa: Dfa, texts: readonly string[], asked: readonly boolean[]): boolean[] {
  const letters = dfa.lettersOf((unit) => unit);
  const which = Uint8Array.from(asked, (one) => (one ? ASKED : 1));
  expect(dfa.testEach(ChunkPool.of(texts, 0), letters, which, ASKED)).toBeTrue();
  return [...which].map((byte) => byte === ASKED);
}

function byThemselves(source: string, texts: readonly string[], asked: readonly boolean[]): boolean[] {
  const dfa = new Dfa(programOf(source));
  return texts.map((text, i) => asked[i] && dfa.test(text));
}

describe('an automaton over many texts', () => {
  const sources = fc.constantFrom(
    'a',
    'b$',
    '^a',
    'ab?',
    'a.b',
    'a..',
    '\\ba',
    'a\\b',
    'a.*b',
    '[ab]{3}',
    'b|^a+$',
    'ab.?$',
    '1|a2',
  );
  /** They begin as the one before them did, more often than not. */
  const texts = fc
    .array(fc.tuple(fc.nat(8), fc.stringMatching(/^[ab1 .-]{1,6}$/)), { minLength: 1, maxLength: 60 })
    .map((parts) => {
      const made: string[] = [];
      for (const [kept, more] of parts) made.push((made.at(-1) ?? '').slice(0, kept) + more);
      return made;
    });

  it('tells of each what it tells of it alone, whichever are asked', () => {
    fc.assert(
      fc.property(sources, texts, fc.infiniteStream(fc.nat(3)), (source, list, digits) => {
        const asked = list.map(() => digits.next().value !== 0);
        const found = atOnce(new Dfa(programOf(source)), list, asked);
        expect(found)
          .withContext(source)
          .toEqual(byThemselves(source, list, asked));
      }),
      { numRuns: 300 },
    );
  });

  it('comes to the same states from a state, also beside what is known from another', () => {
    fc.assert(
      fc.property(sources, texts, fc.constantFrom('a', 'b', 'ab', ' ', '1'), (source, list, before) => {
        const dfa = new Dfa(programOf(source));
        const letters = dfa.lettersOf((unit) => unit);
        const pool = ChunkPool.of(list, 0);
        const all = new Uint8Array(list.length).fill(ASKED);
        const other = dfa.runText(before, Dfa.START);
        fc.pre(other >= 0);
        const alone = (from: number): number[] =>
          list.map((_, i) => dfa.run(pool.units, pool.starts[i], pool.starts[i + 1] - 1, from, letters));
        const reached = new Int32Array(list.length);
        expect(dfa.runEach(pool, letters, Dfa.START, all, ASKED, reached)).toBeTrue();
        expect([...reached])
          .withContext(source)
          .toEqual(alone(Dfa.START));
        expect(dfa.runEach(pool, letters, other, all, ASKED, reached, Dfa.START)).toBeTrue();
        expect([...reached])
          .withContext(`${source} after ${before}`)
          .toEqual(alone(other));
        expect(dfa.runEach(pool, letters, other, all, ASKED, reached)).toBeTrue();
        expect([...reached])
          .withContext(`${source} after ${before}, by itself`)
          .toEqual(alone(other));
      }),
      { numRuns: 300 },
    );
  });

  it('reads texts that are longer than a block, and more than a block has, between others', () => {
    const long = `${'ab '.repeat(15_000)}aab`;
    const list = [
      'aab',
      long,
      `${long}x`,
      'aa',
      ...Array.from({ length: 3_000 }, (_, i) => `aa${i % 7}b`),
      long,
      'xaab',
    ];
    const asked = list.map((_, i) => i % 5 !== 3);
    for (const source of ['aab$', 'a.b', '^aa.b$'])
      expect(atOnce(new Dfa(programOf(source)), list, asked))
        .withContext(source)
        .toEqual(byThemselves(source, list, asked));
  });

  it('reads a letter but once, so that it is seen where states do not pay for themselves', () => {
    let seed = 7;
    const bit = (): number => (seed = (seed * 1_103_515_245 + 12_345) & 0x7fffffff) >>> 30;
    const text = Array.from({ length: 30_000 }, () => 'ab'[bit()]).join('');
    const pool = ChunkPool.of([text], 0);
    for (const other of [undefined, Dfa.START]) {
      const dfa = new Dfa(programOf('a.{9}b.{9}ac'));
      const letters = dfa.lettersOf((unit) => unit);
      const from = other === undefined ? Dfa.START : dfa.runText('a', Dfa.START);
      expect(dfa.runEach(pool, letters, from, Uint8Array.of(ASKED), ASKED, new Int32Array(1), other)).toBeFalse();
      expect(dfa.overgrown).toBeTrue();
    }
  });

  it('goes on where there come to be too many states to be handed over', () => {
    // A row of the table for each beginning of a word, as wide as there are letters.
    const letters = [...'abcdefghijklmnopqrstuvwxyz'];
    const words = letters.flatMap((a, i) =>
      letters.slice(0, 8).map((b, j) => a + b + letters[(i + j) % 26] + letters[j]),
    );
    const source = words.join('|');
    const list = words.flatMap((word, i) => [
      `${i}${'-'.repeat(300)}${word.slice(0, 3)}.`,
      `${i}${'-'.repeat(300)}${word}`,
    ]);
    const asked = list.map((_, i) => i % 5 !== 1);
    const dfa = new Dfa(programOf(source));
    expect(atOnce(dfa, list, asked)).toEqual(byThemselves(source, list, asked));
    expect(dfa.entries).toBeGreaterThan(1 << 15);
  });
});
