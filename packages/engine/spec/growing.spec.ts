/** A text that grows letter by letter: what its beginning was answered narrows what is asked next, and changes no answer. */
import fc from 'fast-check';
import { blankQuestion, DEFAULT_SETTINGS, Search, Table, type ColumnSpec, type Settings } from '@usual-needle/engine';
import { cares, wheres } from './settings.js';

const COLUMNS: ColumnSpec[] = [{ name: 'Text', kind: 'text' }];
// Letters that fold to more than one, that are put together of several units, and halves of pairs.
const PARTS = [
  'a',
  'b',
  'A',
  'é',
  'e',
  'e\u0301',
  'ﬁ',
  'f',
  'i',
  'ß',
  's',
  ' ',
  '-',
  '1',
  '😀',
  '\ud83d',
  '👩‍👧',
  '🇫🇷',
  '\u0301',
];
const text = fc.array(fc.constantFrom(...PARTS), { maxLength: 6 }).map((parts) => parts.join(''));
const typed = fc.array(fc.constantFrom(...PARTS, '?', '?', '*', '*', '"'), { minLength: 1, maxLength: 7 });
const settings: fc.Arbitrary<Partial<Settings>> = fc.record({
  where: wheres,
  case: cares,
  accents: cares,
});

function tableOf(cells: readonly string[]): Table {
  return new Table(
    COLUMNS,
    cells.map((cell, i) => ({ id: i + 1, cells: [cell] })),
  );
}

function searchOf(table: Table, text: string, some: Partial<Settings>): Search {
  return new Search(table, {
    ...blankQuestion([0]),
    settings: { ...DEFAULT_SETTINGS, ...some },
    strands: [{ verb: 'find', text, reading: 'words' }],
  });
}

function matches(table: Table, text: string, some: Partial<Settings>): number[] {
  const search = searchOf(table, text, some).run();
  return search.view.rows(0, search.shown).map(({ position }) => position);
}

describe('a text that grows', () => {
  it('finds at each letter what a table finds that was never asked before', () => {
    fc.assert(
      fc.property(
        fc.array(text, { minLength: 3, maxLength: 30 }),
        typed,
        settings,
        fc.tuple(fc.nat(6), fc.nat(29), text),
        (cells, keys, some, [when, which, changed]) => {
          const asked = tableOf(cells);
          const now = cells.slice();
          keys.forEach((_, i) => {
            if (i === when) {
              now[which % now.length] = changed;
              asked.change(1 + (which % now.length), [changed]);
            } else if (i === when + 1) {
              now[which % now.length] = cells[which % now.length];
              asked.change(1 + (which % now.length), [cells[which % now.length]]);
            }
            const sofar = keys.slice(0, i + 1).join('');
            expect(matches(asked, sofar, some))
              .withContext(JSON.stringify([sofar, some, now]))
              .toEqual(matches(tableOf(now), sofar, some));
          });
        },
      ),
      { numRuns: 1_500 },
    );
  });

  it('finds a row again that was changed and changed back between two letters', () => {
    const table = tableOf(['ab', 'b']);
    table.change(1, ['x']);
    expect(matches(table, 'a', { case: 'respect' })).toEqual([]);
    table.change(1, ['ab']);
    expect(matches(table, 'ab', { case: 'respect' })).toEqual([0]);
  });

  it('finds what half of a pair does not', () => {
    const table = tableOf(['a😀b', 'a\ud83db']);
    expect(matches(table, 'a\ud83d', { where: 'start of the cell' })).toEqual([1]);
    expect(matches(table, 'a\ud83d\ude00', { where: 'start of the cell' })).toEqual([0]);
    expect(matches(table, 'a😀b', { where: 'start of the cell' })).toEqual([0]);
  });

  it('comes to an end in stretches where cells have to be looked at one by one', () => {
    const cells = Array.from({ length: 6_000 }, (_, i) => `\u0301q${i}${'ü'.repeat(200)}`);
    const search = searchOf(tableOf(cells), '?', {});
    let steps = 0;
    while (search.step(1) && steps < 5_000) steps++;
    expect(steps).toBeGreaterThan(1);
    expect(search.complete).toBeTrue();
    expect(search.matched).toBe(cells.length);
  });

  it('remembers nothing of before a change, of a search that was stopped and goes on after it', () => {
    // A mark at their beginning, so that they are looked at one by one; few have what is asked for.
    const cells = Array.from({ length: 6_001 }, (_, i) => `\u0301${i % 5 === 0 ? 'ab' : 'q'}${i}${'ü'.repeat(200)}`);
    const table = tableOf(cells);
    const some: Partial<Settings> = { accents: 'respect' };
    const last = cells.length;
    table.change(last, ['x']);
    expect(searchOf(table, 'a', some).run().matched).toBe(1_200);
    const search = searchOf(table, 'ab', some);
    search.step(1);
    expect(search.complete).toBeFalse();
    table.change(last, [cells[last - 1]]);
    search.run();
    expect(searchOf(table, 'ab', some).run().matched).toBe(1_201);
  });

  it('does not take letters for signs', () => {
    const table = tableOf(['axb', 'a\ufdd0b']);
    expect(matches(table, 'a?b', {})).toEqual([0, 1]);
    expect(matches(table, 'a\ufdd0b', {})).toEqual([1]);
  });

  it('does not find half of a pair with a wildcard, as it does not without', () => {
    const table = tableOf(['😀', '\ud83d', 'a\ud83db']);
    for (const text of ['\ud83d', '\ud83d*', '*\ud83d', '*\ud83d*']) expect(matches(table, text, {})).toEqual([1, 2]);
  });
});
