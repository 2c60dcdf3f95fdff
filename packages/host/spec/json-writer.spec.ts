import * as fc from 'fast-check';
import { JsonWriter } from '../dist/json-writer.js';

const read = (bytes: Uint8Array): string => new TextDecoder('utf-8', { fatal: true }).decode(bytes);

describe('the writer of JSON', () => {
  const writer = new JsonWriter();
  const written = (write: () => void): string => {
    write();
    return read(writer.taken());
  };
  /** Letters of every sort: signs that are escaped, halves of pairs, pairs, and what takes two and three bytes. */
  const units = fc.oneof(
    fc.constantFrom(
      '"',
      '\\',
      '\n',
      '\u0000',
      '\u001f',
      '\u007f',
      '\ud83d',
      '\udd11',
      '🔑',
      'é',
      '字',
      '\u2028',
      '/',
      'x',
    ),
    fc.string({ unit: 'binary', maxLength: 3 }),
  );
  const texts = fc.array(units, { maxLength: 12 }).map((some) => some.join(''));

  it('writes a string as the platform does', () => {
    fc.assert(
      fc.property(texts, (text) => {
        expect(written(() => writer.string(text))).toBe(JSON.stringify(text));
      }),
      { numRuns: 2_000 },
    );
  });

  it('writes a part of a text as that part, whatever stands beside it', () => {
    fc.assert(
      fc.property(texts, fc.nat(12), fc.nat(12), (text, a, b) => {
        const [from, to] = [Math.min(a, b, text.length), Math.min(Math.max(a, b), text.length)];
        expect(written(() => writer.string(text, from, to))).toBe(JSON.stringify(text.slice(from, to)));
      }),
      { numRuns: 2_000 },
    );
  });

  it('writes numbers and lists of them', () => {
    const numbers = fc.oneof(
      fc.nat(),
      fc.integer(),
      fc.double({ noNaN: true, noDefaultInfinity: true }),
      fc.nat(1_100),
    );
    fc.assert(
      fc.property(fc.array(numbers), (some) => {
        expect(written(() => writer.numbers(some))).toBe(JSON.stringify(some));
      }),
      { numRuns: 1_000 },
    );
    for (const edge of [0, 9, 10, 99, 100, 999_999_999, 1_000_000_000, -1, 0.5, -0])
      expect(written(() => writer.number(edge))).toBe(JSON.stringify(edge));
  });

  it('writes values, and what an object has besides', () => {
    const told = { name: 'Søndre 🔑', odd: ['\ud83d', '"'], none: undefined, deep: { a: [1, null] } };
    expect(written(() => writer.value(told))).toBe(JSON.stringify(told));
    const whole = written(() => {
      writer.signs('{"rows":[]');
      writer.rest(told);
    });
    expect(whole).toBe(JSON.stringify({ rows: [], ...told }));
  });

  it('makes room for what is long, and is empty once what it wrote was taken', () => {
    const long = '\u0001'.repeat(3_000_000);
    expect(written(() => writer.string(long))).toBe(JSON.stringify(long));
    expect(written(() => writer.signs(''))).toBe('');
  });
});
