import {
  type Change,
  type Column,
  type RowChange,
  type Scope,
  WHOLE_SCOPE,
  type WireQuestion,
} from '@usual-needle/contract';
import { blankQuestion, Search, Table, windowRows } from '@usual-needle/engine';
import { answerIn, Host, MISSING, NoAnswer, type Outcome } from '@usual-needle/host';
import fc from 'fast-check';

const COLUMNS: Column[] = [
  { name: 'Item', kind: 'text' },
  { name: 'Status', kind: 'choice' },
  { name: 'Secret', kind: 'text' },
] as Column[];
const WORDS = ['umbrella', 'key', 'hat', 'ring', 'scarf'];

function rowsOf(count: number): { id: number; version: number; cells: string[] }[] {
  return Array.from({ length: count }, (_, i) => ({
    id: i + 1,
    version: 1,
    cells: [`${WORDS[i % 5]} ${i}`, i % 2 ? 'Held' : 'Returned', `hush ${i % 7}`],
  }));
}

async function hostOf(count: number): Promise<Host> {
  const host = new Host();
  host.begin(1, COLUMNS);
  await host.append(1, rowsOf(count));
  await host.finish(1, 1);
  return host;
}

function change(number: number, rowChanges: readonly RowChange[] | null, more: Partial<Change> = {}): Change {
  return {
    table: 1,
    number,
    at: '2026-11-25T10:00:00Z',
    who: null,
    kind: 'edited',
    key: null,
    undoes: null,
    counts: null,
    rows: 1,
    rowChanges,
    columns: null,
    ...more,
  };
}
const edit = (id: number, ...cells: string[]): RowChange => ({
  id,
  before: null,
  after: cells.length > 0 ? cells : null,
});

interface Answer {
  matched: number;
  shown: number;
  total: number;
  change: number;
  overtaken: boolean;
  rows: { id: number; cells: string[]; marks: unknown[] }[];
}
async function ask(
  host: Host,
  text: string,
  scope: Scope = WHOLE_SCOPE,
  more: object = {},
  asked: object = {},
): Promise<Answer> {
  const question = { threaded: ['Item'], strands: [{ verb: 'find' as const, text }], ...more };
  const outcome = await host.search(scope, 1, { question, ...asked });
  return outcome.is === 'overtaken' ? ({ overtaken: true } as Answer) : (JSON.parse(answerIn(outcome)) as Answer);
}

const isOfQuestion = jasmine.objectContaining({ is: 'refused', why: 'question' });

describe('a host', () => {
  it('tells counts and rows alone where no more is asked, the same as otherwise', async () => {
    const host = await hostOf(20_000);
    interface Whole extends Answer {
      trace: number[];
      keywords: unknown[];
      columnTallies: number[];
    }
    const [brief, whole] = (await Promise.all([
      ask(host, 'umb', WHOLE_SCOPE, {}, { limit: 3, brief: true }),
      ask(host, 'umb', WHOLE_SCOPE, {}, { limit: 3 }),
    ])) as [Whole, Whole];
    expect([brief.matched, brief.rows]).toEqual([4_000, whole.rows]);
    expect([brief.trace, brief.keywords, brief.columnTallies]).toEqual([[], [], []]);
    expect([whole.trace.length, whole.keywords.length, whole.columnTallies[0]]).toEqual([250, 1, 4_000]);
  });

  it('answers only once a table is whole, and says how far it is', async () => {
    const host = new Host();
    expect(await host.search(WHOLE_SCOPE, 1, { question: { threaded: [] } })).toEqual(MISSING);
    host.begin(1, COLUMNS);
    await host.append(1, rowsOf(10));
    expect(await host.search(WHOLE_SCOPE, 1, { question: { threaded: [] } })).toEqual({ is: 'loading', rowsRead: 10 });
    expect([host.changeOf(1), host.rowsRead(1)]).toEqual([undefined, 10]);
    await host.append(1, rowsOf(20).slice(10));
    await host.finish(1, 4);
    expect(host.changeOf(1)).toBe(4);
    expect((await ask(host, 'key')).total).toBe(20);
    host.drop(1);
    expect(await host.search(WHOLE_SCOPE, 1, { question: { threaded: [] } })).toEqual(MISSING);
  });

  it('refuses rows for a table that is not being filled', async () => {
    await expectAsync(new Host().append(7, [])).toBeRejectedWithError(/not being filled/);
  });
});

describe('E1: the log is applied once, and in order', () => {
  it('an edit, an added and a removed row, each seen by the next search', async () => {
    const host = await hostOf(10);
    expect(host.apply(change(2, [edit(1, 'lantern', 'Held', '')]))).toBe('applied');
    expect((await ask(host, 'lantern')).rows.map(({ id }) => id)).toEqual([1]);
    expect(host.apply(change(3, [edit(11, 'lantern again', 'Held', '')], { kind: 'added' }))).toBe('applied');
    expect((await ask(host, 'lantern')).rows.map(({ id }) => id)).toEqual([1, 11]);
    expect(host.apply(change(4, [edit(1)], { kind: 'removed' }))).toBe('applied');
    const answer = await ask(host, 'lantern');
    expect([answer.rows.map(({ id }) => id), answer.total, answer.change]).toEqual([[11], 10, 4]);
  });

  it('a change that comes twice changes nothing the second time', async () => {
    const host = await hostOf(10);
    const first = change(2, [edit(1, 'lantern', 'Held', '')]);
    expect(host.apply(first)).toBe('applied');
    expect(host.apply(change(3, [edit(1, 'lamp', 'Held', '')]))).toBe('applied');
    expect(host.apply(first)).toBe('seen');
    expect((await ask(host, 'lamp')).matched).toBe(1);
    expect((await ask(host, 'lantern')).matched).toBe(0);
  });

  it('a gap is said, and nothing is applied', async () => {
    const host = await hostOf(10);
    expect(host.apply(change(3, [edit(1, 'lantern', '', '')]))).toBe('gap');
    expect(host.apply(change(2, null)))
      .withContext('a change without its rows')
      .toBe('gap');
    expect([host.changeOf(1), (await ask(host, 'lantern')).matched]).toEqual([1, 0]);
    expect(host.apply({ ...change(2, []), table: 9 })).toBe('unknown');
  });

  it('columns that change their names answer by the new and by the former one', async () => {
    const host = await hostOf(10);
    const after = COLUMNS.map((column, i) => (i === 0 ? { ...column, name: 'Thing', formerly: ['Item'] } : column));
    const columns = { before: COLUMNS, after };
    expect(host.apply(change(2, null, { kind: 'columns', columns }))).toBe('applied');
    expect((await ask(host, 'key')).matched).toBe(2);
    expect((await ask(host, 'key', WHOLE_SCOPE, { threaded: ['Thing'] })).matched).toBe(2);
  });

  it('after any edits it answers as an engine that was built anew', async () => {
    const step = fc.record({
      id: fc.integer({ min: 1, max: 40 }),
      word: fc.option(fc.constantFrom(...WORDS, '', 'über alles'), { nil: null }),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 30 }), async (steps) => {
        const host = await hostOf(30);
        const truth = new Map(rowsOf(30).map(({ id, cells }) => [id, cells]));
        steps.forEach(({ id, word }, i) => {
          const cells = word === null ? null : [word, 'Held', 'x'];
          if (cells) truth.set(id, cells);
          else truth.delete(id);
          expect(host.apply(change(i + 2, [{ id, before: null, after: cells }]))).toBe('applied');
        });
        const fresh = new Table(
          COLUMNS,
          [...truth].sort(([a], [b]) => a - b).map(([id, cells]) => ({ id, cells })),
        );
        for (const text of ['key', 'umbr', 'über', '<blank>']) {
          for (const sort of [[], [{ column: 'Item', direction: 'up' as const }]]) {
            const answer = await ask(host, text, WHOLE_SCOPE, { sort });
            const search = new Search(fresh, {
              ...blankQuestion([0]),
              strands: [{ verb: 'find', text, reading: 'words' }],
              sort: sort.map(({ direction }) => ({ column: 0, direction, by: 'value' as const })),
            }).run();
            expect([answer.matched, answer.total]).toEqual([search.matched, fresh.rowCount]);
            expect(answer.rows.map(({ id }) => id)).toEqual(windowRows(search, 0, 100, []).map(({ id }) => id));
          }
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe('E1: a scope is kept by every call', () => {
  const narrow: Scope = {
    visible: ['Item', 'Status'],
    searchable: ['Item', 'Status'],
    narrowable: ['Status'],
    sortable: ['Item'],
    editable: [],
    actions: [],
  };
  let host: Host;
  beforeAll(async () => (host = await hostOf(20)));

  it('a column outside of it is not there: not by name, not by scope in the text, not in the cells', async () => {
    await expectAsync(ask(host, 'hush', narrow, { threaded: ['Secret'] })).toBeRejectedWithError(NoAnswer);
    expect((await ask(host, 'secret:hush', narrow)).matched).toBe(0);
    const { rows } = await ask(host, 'key', narrow);
    expect(rows[0].cells.length).toBe(2);
    await expectAsync(ask(host, 'key', narrow, {}, { columns: ['Secret'] })).toBeRejectedWithError(NoAnswer);
  });

  it('tells the same of a column that may not be seen as of one that never was', async () => {
    const message = async (name: string): Promise<string> => {
      try {
        await ask(host, 'x', narrow, { threaded: [name] });
      } catch (error) {
        return (error as Error).message.replace(name, 'NAME');
      }
      return 'answered';
    };
    expect(await message('Secret')).toBe(await message('Nowhere'));
  });

  const refused: [string, object][] = [
    ['a picker on it', { pickers: [{ column: 'Secret', values: ['hush 1'] }] }],
    ['a picker on a column that is not to be narrowed by', { pickers: [{ column: 'Item', values: ['key 1'] }] }],
    ['sorting by it', { sort: [{ column: 'Secret', direction: 'up' }] }],
    ['sorting by a column that is not to be sorted by', { sort: [{ column: 'Status', direction: 'up' }] }],
  ];
  for (const [what, more] of refused) {
    it(`refuses ${what}, in search, explain, next and offers`, async () => {
      const question = { threaded: ['Item'], strands: [{ verb: 'find' as const, text: 'zzz' }], ...more };
      const outcomes: Outcome<unknown>[] = [
        await host.search(narrow, 1, { question }),
        await host.explain(narrow, 1, { question }),
        await host.next(narrow, 1, { question, from: -1 }),
        await host.offers(narrow, 1, { question, column: 'Status' }),
      ];
      expect(outcomes).toEqual(Array(4).fill(isOfQuestion));
    });
  }

  it('offers nothing of a column that is not to be narrowed by', async () => {
    const question = { threaded: ['Item'] };
    for (const of of ['values', 'range', 'starts'] as const)
      expect(await host.offers(narrow, 1, { question, column: 'Secret', of })).toEqual(isOfQuestion);
    expect(answerIn(await host.offers(narrow, 1, { question, column: 'Status' })).values.length).toBe(2);
  });

  it('explains nothing by it', async () => {
    const question = { threaded: ['Item'], strands: [{ verb: 'find' as const, text: 'hush' }] };
    const whole = await host.explain(WHOLE_SCOPE, 1, { question });
    expect(JSON.stringify(whole)).toContain('Secret');
    expect(JSON.stringify(await host.explain(narrow, 1, { question }))).not.toContain('Secret');
  });

  it('flips only where that is an action of it', async () => {
    const question = { threaded: ['Item'], flip: true };
    expect(await host.search(narrow, 1, { question })).toEqual(
      jasmine.objectContaining({ is: 'refused', why: 'scope' }),
    );
    await expectAsync(ask(host, 'key', narrow, { flip: true })).toBeRejectedWithError(NoAnswer);
    expect((await ask(host, 'key', { ...narrow, actions: ['flip'] }, { flip: true })).shown).toBe(16);
  });
});

describe('a scope that is locked', () => {
  const base: Scope = { ...WHOLE_SCOPE, narrowable: ['Item', 'Secret'] };
  const strands = [{ verb: 'within' as const, text: 'held' }];
  const byPicker: Scope = { ...base, locked: { pickers: [{ column: 'Status', values: ['Held'] }] } };
  const byStrand: Scope = { ...base, locked: { pickers: [], strands: { threaded: ['Status'], strands } } };
  const byBoth: Scope = { ...base, locked: { ...byStrand.locked!, ...byPicker.locked! } };

  for (const [name, locked] of Object.entries({ byPicker, byStrand, byBoth }))
    it(`${name}: has the rows that a table of those rows alone has, whatever is asked`, async () => {
      const rows = rowsOf(40);
      const [host, alone] = [await hostOf(40), new Host()];
      alone.begin(1, COLUMNS);
      await alone.append(
        1,
        rows.filter(({ cells }) => cells[1] === 'Held'),
      );
      await alone.finish(1, 1);
      const words = fc.constantFrom('key', 'u', 'hat 1', 'hush 3', '-ring', '', 'zzz');
      await fc.assert(
        fc.asyncProperty(
          fc.array(words, { minLength: 1, maxLength: 2 }),
          fc.constantFrom('show only matches', 'mark in place', 'leave matches out'),
          fc.boolean(),
          fc.constantFrom('every row', 'no row'),
          async (texts, effect, flip, nothingTyped) => {
            const strands = texts.map((text, i) => ({ verb: i === 0 ? ('find' as const) : ('within' as const), text }));
            const question: WireQuestion = { threaded: ['Item', 'Secret'], strands, effect, flip, nothingTyped };
            const told = async (one: Host, scope: Scope): Promise<object> => {
              const answer = JSON.parse(answerIn(await one.search(scope, 1, { question }))) as Answer &
                Record<string, unknown>;
              const { total, matched, narrowed, shown, searched, columnTallies, keywords } = answer as never;
              const cells = answer.rows.map((row) => [row.id, row.cells, row.marks]);
              return { total, matched, narrowed, shown, searched, columnTallies, keywords, cells };
            };
            expect(await told(host, locked)).toEqual(await told(alone, WHOLE_SCOPE));
            for (const of of ['values', 'starts', 'range'] as const) {
              const asked = { question, column: 'Item', of } as const;
              expect(answerIn(await host.offers(locked, 1, asked))).toEqual(
                answerIn(await alone.offers(WHOLE_SCOPE, 1, asked)),
              );
            }
          },
        ),
        { numRuns: 60 },
      );
    });

  it('has no row where a strand that is locked cannot be read, and every row where it asks nothing', async () => {
    const host = await hostOf(20);
    const counts = async (text: string, reading: 'words' | 'pattern'): Promise<number[]> => {
      const strand = { verb: 'within' as const, text, reading };
      const scope: Scope = { ...base, locked: { pickers: [], strands: { threaded: ['Status'], strands: [strand] } } };
      const { total, shown } = JSON.parse(
        answerIn(await host.search(scope, 1, { question: { threaded: ['Item'] } })),
      ) as {
        total: number;
        shown: number;
      };
      return [total, shown];
    };
    expect(await counts('(', 'pattern')).toEqual([0, 0]);
    expect(await counts('""', 'words')).toEqual([20, 20]);
    expect(await counts('zzz', 'words')).toEqual([0, 0]);
    expect(await counts('-gone:held', 'words')).toEqual([0, 0]);
    const scope: Scope = { ...base, locked: { pickers: [], noRow: true } };
    for (const question of [{}, { flip: true }, { effect: 'mark in place' as const }])
      expect(
        JSON.parse(answerIn(await host.search(scope, 1, { question: { threaded: ['Item'], ...question } }))),
      ).toEqual(jasmine.objectContaining({ total: 0, shown: 0, narrowed: 0 }));
  });

  it('explains nothing, and lets nobody narrow by the column that is locked', async () => {
    const host = await hostOf(20);
    const question = { threaded: ['Item'], strands: [{ verb: 'find' as const, text: 'umbrela' }] };
    expect(answerIn(await host.explain(byPicker, 1, { question })).reasons).toEqual([]);
    expect(await host.offers(byPicker, 1, { question, column: 'Status' })).toEqual(isOfQuestion);
    const pickers = [{ column: 'Status', values: ['Returned'] }];
    expect(await host.search(byPicker, 1, { question: { ...question, pickers } })).toEqual(isOfQuestion);
  });
});

describe('C4: turns of a session', () => {
  it('an older turn is not answered once a newer one was asked', async () => {
    const host = await hostOf(20);
    expect((await ask(host, 'key', WHOLE_SCOPE, {}, { session: 's', turn: 5 })).overtaken).toBe(false);
    expect((await ask(host, 'key', WHOLE_SCOPE, {}, { session: 's', turn: 4 })).overtaken).toBe(true);
    expect((await ask(host, 'key', WHOLE_SCOPE, {}, { session: 'other', turn: 1 })).overtaken).toBe(false);
    host.leave('s');
    expect((await ask(host, 'key', WHOLE_SCOPE, {}, { session: 's', turn: 9 })).overtaken).toBe(true);
  });

  it('a search that is kept goes stale with an edit', async () => {
    const host = await hostOf(20);
    expect((await ask(host, 'lantern')).matched).toBe(0);
    host.apply(change(2, [edit(3, 'lantern', '', '')]));
    expect((await ask(host, 'lantern')).matched).toBe(1);
  });

  it('the next match is found from any place, and none beyond the last', async () => {
    const host = await hostOf(20);
    const question = {
      threaded: ['Item'],
      strands: [{ verb: 'find' as const, text: 'key' }],
      effect: 'mark in place' as const,
    };
    const next = async (from: number, backwards = false): Promise<number | null> =>
      answerIn(await host.next(WHOLE_SCOPE, 1, { question, from, backwards })).index;
    expect([await next(-1), await next(1), await next(16)]).toEqual([1, 6, null]);
    expect([await next(20, true), await next(16, true), await next(1, true)]).toEqual([16, 11, null]);
  });
});
