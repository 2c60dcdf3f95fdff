import fc from 'fast-check';
import { blankQuestion, Search, Table, windowRows, type ColumnSpec, type Question } from '@usual-needle/engine';
import { oracleFold, oracleRow, oracleSpans, type OracleNode, type OracleSettings, type OracleTerm } from './oracle.js';
import { cares, wheres } from './settings.js';

const COLUMNS: ColumnSpec[] = ['Alpha', 'Beta', 'Gamma'].map((name) => ({ name, kind: 'text' }));
const ALL = [0, 1, 2];

const settings: fc.Arbitrary<OracleSettings> = fc.record({
  need: fc.constantFrom('every word', 'any word'),
  where: wheres,
  case: cares,
  accents: cares,
});

/** Few letters, so that hits are common; accents, an odd space and punctuation among them. */
const letters = fc.constantFrom(
  'a',
  'b',
  'A',
  'ab',
  'é',
  'e\u0301',
  'e',
  'ß',
  's',
  '-',
  '–',
  '.',
  ' ',
  '  ',
  '\n',
  '1',
  'x\u030c',
);
const cellText = fc.oneof(
  { weight: 8, arbitrary: fc.array(letters, { maxLength: 8 }).map((parts) => parts.join('')) },
  { weight: 1, arbitrary: fc.constantFrom('', ' ', 'abab', 'a b a b', 'aab') },
);
const word = fc
  .array(fc.constantFrom('a', 'b', 'A', 'é', 'e', 'ß', 's', '1', 'x'), { minLength: 1, maxLength: 4 })
  .map((parts) => parts.join(''));
const wild = fc
  .array(fc.constantFrom('a', 'b', '?', '*', '1'), { minLength: 1, maxLength: 5 })
  .map((parts) => parts.join(''))
  .filter((text) => /[*?]/.test(text));
const phrase = fc.tuple(word, fc.constantFrom(' ', '-', '  ', '.'), word).map((parts) => parts.join(''));
const pattern = fc.constantFrom(
  'a+b',
  '^a',
  'b$',
  '(?:a|ab)(?:b|)',
  '[ab]{2}',
  'a.b',
  '\\ba',
  'a*?b',
  '\\d',
  '(a|b)*1',
);

const term: fc.Arbitrary<OracleTerm> = fc.oneof(
  word.map((text): OracleTerm => ({ type: 'word', text })),
  word.map((text): OracleTerm => ({ type: 'near', text })),
  word.map((text): OracleTerm => ({ type: 'equals', text })),
  phrase.map((text): OracleTerm => ({ type: 'phrase', text })),
  // What `?` takes of a letter that folds to two is told by table, not by the oracle.
  wild.map((text): OracleTerm => ({ type: 'wild', text: text.replaceAll('?', '*') })),
  fc.constantFrom<OracleTerm>({ type: 'blank' }, { type: 'filled' }),
);

const { tree } = fc.letrec<{ tree: OracleNode; item: OracleNode; leaf: OracleNode }>((tie) => ({
  leaf: fc.record({
    type: fc.constant('term' as const),
    term,
    column: fc.option(fc.constantFrom(0, 1, 2), { nil: undefined }),
  }),
  item: fc.oneof(
    { maxDepth: 3 },
    tie('leaf'),
    tie('tree'),
    fc.record({ type: fc.constant('not' as const), of: tie('leaf') }),
  ),
  tree: fc.oneof(
    { maxDepth: 3 },
    fc.record({ type: fc.constant('all' as const), of: fc.array(tie('item'), { minLength: 1, maxLength: 3 }) }),
    fc.record({ type: fc.constant('any' as const), of: fc.array(tie('item'), { minLength: 2, maxLength: 3 }) }),
  ),
}));

function typedTerm(one: OracleTerm): string {
  switch (one.type) {
    case 'blank':
    case 'filled':
      return `<${one.type}>`;
    case 'phrase':
      return `"${one.text}"`;
    case 'near':
      return `~${one.text}`;
    case 'equals':
      return `=${one.text}`;
    case 'pattern':
      return `/${one.text}/`;
    default:
      return one.text;
  }
}

/** A tree as a person would type it. */
function typed(node: OracleNode): string {
  switch (node.type) {
    case 'term':
      return (node.column === undefined ? '' : `${COLUMNS[node.column].name}:`) + typedTerm(node.term);
    case 'not':
      return `-${typed(node.of)}`;
    case 'any':
      return `(${node.of.map((part) => typed(part)).join(' | ')})`;
    case 'all':
      return `(${node.of.map((part) => typed(part)).join(' ')})`;
  }
}

function ask(
  table: Table,
  text: string,
  { need, where, case: letter, accents }: OracleSettings,
  threaded = ALL,
  more: Partial<Question> = {},
): Search {
  const question = { ...blankQuestion(threaded), settings: { need, where, case: letter, accents }, ...more };
  return new Search(table, { ...question, strands: more.strands ?? [{ verb: 'find', text, reading: 'words' }] }).run();
}

const ids = (search: Search): number[] => windowRows(search, 0, 1000, []).map(({ id }) => id);

function tableOf(rows: readonly (readonly string[])[]): Table {
  return new Table(
    COLUMNS,
    rows.map((cells, i) => ({ id: i + 1, cells })),
  );
}

const rowsOf = fc.array(fc.tuple(cellText, cellText, cellText), { minLength: 1, maxLength: 12 });
const threadedOf = fc.subarray(ALL, { minLength: 1 });

describe('the engine against the oracle', () => {
  it('finds the same rows for any tree, any setting, any columns', () => {
    fc.assert(
      fc.property(rowsOf, tree, settings, threadedOf, (rows, node, setting, threaded) => {
        const expected = rows.flatMap((row, i) => (oracleRow(row, node, threaded, setting) ? [i + 1] : []));
        expect(ids(ask(tableOf(rows), typed(node), setting, threaded)))
          .withContext(typed(node))
          .toEqual(expected);
      }),
      { numRuns: 1_500 },
    );
  });

  it('finds the same rows whether cells were there from the start or changed later', () => {
    fc.assert(
      fc.property(rowsOf, rowsOf, tree, settings, (before, after, node, setting) => {
        const table = tableOf(before);
        after.slice(0, before.length).forEach((cells, i) => table.change(i + 1, cells));
        const now = before.map((cells, i) => after[i] ?? cells);
        const expected = now.flatMap((row, i) => (oracleRow(row, node, ALL, setting) ? [i + 1] : []));
        expect(ids(ask(table, typed(node), setting)))
          .withContext(typed(node))
          .toEqual(expected);
      }),
      { numRuns: 400 },
    );
  });

  it('finds the same rows of a large segment, where the index is asked', () => {
    const many = fc.sample(fc.tuple(cellText, cellText, cellText), { numRuns: 3_000, seed: 7 });
    const table = tableOf(many);
    fc.assert(
      fc.property(tree, settings, (node, setting) => {
        const expected = many.reduce((count, row) => count + (oracleRow(row, node, ALL, setting) ? 1 : 0), 0);
        expect(ask(table, typed(node), setting).matched)
          .withContext(typed(node))
          .toBe(expected);
      }),
      { numRuns: 40 },
    );
  });

  it('draws the same marks', () => {
    // Texts whose folding keeps every letter in its place, so that folded offsets are shown offsets.
    const even = fc
      .array(fc.constantFrom('a', 'b', 'A', '1', '-', '.', ' x'), { minLength: 1, maxLength: 8 })
      .map((parts) => parts.join('').trim())
      .filter((text) => text !== '');
    const plain = fc.oneof(
      fc.stringMatching(/^[abA1]{1,3}$/).map((text): OracleTerm => ({ type: 'word', text })),
      fc.stringMatching(/^[ab1]{1,4}$/).map((text): OracleTerm => ({ type: 'near', text })),
      wild.map((text): OracleTerm => ({ type: 'wild', text })),
      pattern.map((text): OracleTerm => ({ type: 'pattern', text })),
    );
    fc.assert(
      fc.property(even, plain, settings, (cell, one, setting) => {
        const search = ask(tableOf([[cell, '', '']]), typedTerm(one), setting);
        const marks = windowRows(search, 0, 1, [0]).flatMap((row) => row.marks.map(({ start, end }) => [start, end]));
        const expected = (oracleSpans(cell, one, setting) ?? []).filter(([start, end]) => end > start);
        expect(marks)
          .withContext(`${typedTerm(one)} in ${JSON.stringify(cell)}, ${setting.where}`)
          .toEqual(expected);
      }),
      { numRuns: 1_500 },
    );
  });

  it('draws marks that fold to the keyword, in any text', () => {
    fc.assert(
      fc.property(cellText, word, settings, (cell, text, setting) => {
        const search = ask(tableOf([[cell, '', '']]), text, { ...setting, where: 'anywhere' });
        for (const { marks, cells } of windowRows(search, 0, 1, [0])) {
          expect(marks.length).toBeGreaterThan(0);
          for (const { start, end } of marks) {
            const marked = cells[0].slice(start, end);
            expect(oracleFold(marked, setting))
              .withContext(JSON.stringify([cell, text, marked]))
              .toContain(oracleFold(text, setting));
            expect(/^\p{M}/u.test(cells[0].slice(end))).toBe(false);
          }
        }
      }),
      { numRuns: 800 },
    );
  });

  it('combines strands as they are said to be', () => {
    const verb = fc.constantFrom('find' as const, 'plus' as const, 'minus' as const, 'within' as const);
    const strandsOf = fc
      .array(fc.tuple(verb, fc.oneof(word, fc.constant(' '))), { minLength: 1, maxLength: 5 })
      .map((list) => list.map(([one, text], i) => [i > 0 && one === 'find' ? 'plus' : one, text] as const));
    fc.assert(
      fc.property(rowsOf, strandsOf, (rows, strands) => {
        const setting: OracleSettings = { need: 'every word', where: 'anywhere', case: 'ignore', accents: 'ignore' };
        const asked = strands.filter(([, text]) => text.trim() !== '');
        const holds = (row: readonly string[], text: string): boolean =>
          oracleRow(row, { type: 'term', term: { type: 'word', text } }, ALL, setting);
        const expected = rows.flatMap((row, i) => {
          let on = !(asked[0]?.[0] === 'find' || asked[0]?.[0] === 'plus');
          for (const [one, text] of asked) {
            const hit = holds(row, text);
            on = one === 'find' ? hit : one === 'plus' ? on || hit : one === 'minus' ? on && !hit : on && hit;
          }
          return on ? [i + 1] : [];
        });
        const search = ask(tableOf(rows), '', setting, ALL, {
          strands: strands.map(([one, text]) => ({ verb: one, text, reading: 'words' as const })),
        });
        expect(ids(search)).toEqual(expected);
        search.strandTallies.forEach((tally, i) => expect(tally.asked).toBe(strands[i][1].trim() !== ''));
      }),
      { numRuns: 400 },
    );
  });
});
