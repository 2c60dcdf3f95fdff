/** Large changes are made beside a table: it answers as it was until all is taken over, and then as one that was changed at once. */
import fc from 'fast-check';
import {
  blankQuestion,
  Search,
  Table,
  windowRows,
  type ColumnSpec,
  type Row,
  type RowEdit,
} from '@usual-needle/engine';

const COLUMNS: ColumnSpec[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Worth', kind: 'number' },
];
const WORDS = ['umbrella', 'hat', 'Brückl', 'glove box', 'LP-405', ''];
/** Every second id is taken, so that rows can come between. */
const rowsOf = (count: number): Row[] =>
  Array.from({ length: count }, (_, i) => ({ id: 2 * i + 2, cells: [`${WORDS[i % 6]} ${i % 40}`, String(i)] }));

function answers(table: Table): unknown[] {
  return ['', 'umb', 'brückl', 'lp405', '12', 'worth>500', '-hat', 'changed'].map((text) => {
    const question = {
      ...blankQuestion([0, 1]),
      strands: [{ verb: 'find' as const, text, reading: 'words' as const }],
      sort: [{ column: 0, direction: 'up' as const, by: 'value' as const }],
    };
    const search = new Search(table, question).run();
    return [
      search.matched,
      search.columnTallies,
      windowRows(search, 0, 30, [0, 1]).map(({ id, cells }) => [id, cells]),
    ];
  });
}

describe('a large change', () => {
  const edit = fc.record({
    id: fc.integer({ min: 1, max: 2_600 }),
    after: fc.option(
      fc.tuple(fc.constantFrom('changed', 'umbrella 7', 'Brückl', ''), fc.constantFrom('12', '700', '')),
      { nil: null, freq: 3 },
    ),
  });
  const change = fc.uniqueArray(edit, { minLength: 257, maxLength: 400, selector: ({ id }) => id });

  it('is made as at once, and seen by nobody before all of it is', () => {
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 3 }), (changes) => {
        const [table, other] = [new Table(COLUMNS, rowsOf(1_000)), new Table(COLUMNS, rowsOf(1_000))];
        for (const edits of changes as RowEdit[][]) {
          const before = answers(table);
          const { version } = table;
          let steps = 0;
          for (const run = table.applySteps(edits); !run.next().done; steps++)
            if (steps % 5 === 0) expect(answers(table)).toEqual(before);
          expect(table.version).toBeGreaterThan(version);
          other.apply(edits);
          expect(answers(table)).toEqual(answers(other));
        }
      }),
      { numRuns: 15 },
    );
  });

  it('leaves a column with many changed cells to be built anew, which changes no answer, whatever changes meanwhile', () => {
    const [table, other] = [new Table(COLUMNS, rowsOf(6_000)), new Table(COLUMNS, rowsOf(6_000))];
    for (let at = 0; at < 3_000; at += 200) {
      const edits = Array.from({ length: 200 }, (_, i) => ({
        id: 2 * (at + i) + 2,
        after: [`changed ${i}`, String(i)],
      }));
      for (const one of [table, other]) one.apply(edits);
    }
    expect(table.isUnsettled).toBeTrue();
    let meanwhile = 0;
    for (const run = table.settleSteps(); !run.next().done;)
      if (meanwhile < 300) {
        const edits = [{ id: 2 * meanwhile++ + 2, after: ['umbrella once more', '1'] }];
        for (const one of [table, other]) one.apply(edits);
      }
    expect(meanwhile).toBeGreaterThan(0);
    expect(table.isUnsettled).toBeFalse();
    expect(answers(table)).toEqual(answers(other));
  });

  it('goes in small steps: 20,000 rows of a large table, and one row among the others', () => {
    const table = new Table(COLUMNS, rowsOf(66_000));
    answers(table);
    const steps = (edits: RowEdit[]): number => {
      let count = 0;
      for (const run = table.applySteps(edits); !run.next().done; count++);
      return count;
    };
    const many = Array.from({ length: 20_000 }, (_, i) => ({ id: 2 * i + 2, after: [`changed ${i % 900}`, '5'] }));
    expect(steps(many)).toBeGreaterThan(150);
    expect(steps([{ id: 1_001, after: ['between', '1'] }])).toBeGreaterThan(50);
    expect(table.row(1_001)?.cells).toEqual(['between', '1']);
  });

  const shownOtherwise: ColumnSpec[] = [
    { name: 'Thing', kind: 'choice' },
    { name: 'Worth', kind: 'number', decimal: 'comma' },
  ];
  /** What another table says for a thing; `text` is what it says of hats. */
  const finds = (text: string) => ({
    key: 0,
    find: (cell: string) => (cell.startsWith('hat') ? text : cell.slice(0, 3)),
  });
  const hats = new Set(Array.from({ length: 40 }, (_, i) => `hat ${i}`));
  let said = 'felt';
  const lent = { key: 0, find: (cell: string) => (cell.startsWith('hat') ? said : cell.slice(0, 3)) };
  const pair = (): [Table, Table] => {
    said = 'felt';
    const [one, other] = [new Table(COLUMNS, rowsOf(3_000)), new Table(COLUMNS, rowsOf(3_000))];
    for (const table of [one, other]) table.borrow(1, lent);
    return [one, other];
  };
  const kinds: [what: string, steps: (table: Table) => Generator<void>, atOnce: (table: Table) => void][] = [
    [
      'of how columns are shown',
      (table) => table.respecifySteps(shownOtherwise),
      (table) => table.respecify(shownOtherwise),
    ],
    ['of what is borrowed', (table) => table.borrowSteps(1, finds('12')), (table) => table.borrow(1, finds('12'))],
    ['of some cells of what is borrowed', (table) => table.lookUpSteps(1, hats), (table) => table.lookUp(1, hats)],
  ];
  for (const [what, inSteps, atOnce] of kinds)
    it(`${what} is made in steps as at once, seen by nobody before, and right though rows change meanwhile`, () => {
      for (const meanwhile of [false, true]) {
        const [table, other] = pair();
        said = 'changed';
        const steps = inSteps(table);
        const before = answers(table);
        atOnce(other);
        let count = 0;
        for (; !steps.next().done; count++)
          if (count === 3 && meanwhile) for (const one of [table, other]) one.apply([{ id: 8, after: ['hat 3', '7'] }]);
          else if (count < 3) expect(answers(table)).toEqual(before);
        expect(count).withContext('steps').toBeGreaterThan(3);
        expect(answers(table)).withContext(`rows change meanwhile: ${meanwhile}`).toEqual(answers(other));
      }
    });

  it('of what very many rows borrow, and of how they are shown, goes in small steps', () => {
    const table = new Table(COLUMNS, rowsOf(66_000));
    said = 'felt';
    table.borrow(1, lent);
    answers(table);
    const count = (steps: Generator<void>): number => {
      let done = 0;
      for (; !steps.next().done; done++);
      return done;
    };
    said = 'straw';
    expect(count(table.lookUpSteps(1, hats))).toBeGreaterThan(50);
    expect(table.row(4)?.cells).toEqual(['hat 1', 'straw']);
    expect(count(table.borrowSteps(1, finds('felt')))).toBeGreaterThan(50);
    expect(table.row(4)?.cells).toEqual(['hat 1', 'felt']);
    expect(count(table.respecifySteps(shownOtherwise))).toBeGreaterThan(50);
  });
});
