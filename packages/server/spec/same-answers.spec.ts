import type { Change, ChangeList, SearchRequest, TableSummary } from '@usual-needle/contract';
import { WHOLE_SCOPE } from '@usual-needle/contract';
import { answerIn, Host } from '@usual-needle/host';
import fc from 'fast-check';
import { csvLines, foundItems } from '@usual-needle/demo';
import { Running } from './running.js';

const ROWS = 12_000;
const THREADED = ['Item no.', 'Description', 'Colour', 'Marks', 'Found on', 'Status', 'Finder’s note'];

const text = fc.oneof(
  fc.constantFrom(
    'umbr',
    'umbrella wood',
    'lp-4',
    'lp41',
    '"red ribbon"',
    'status:held',
    'um*la',
    '/umb.*wood/',
    '~umbrela',
  ),
  fc.constantFrom('brückl', '-e', 'hat | scarf', 'decl>100', 'found:2026-03', 'w?', '', '<blank>', 'zzgone', '('),
  fc
    .tuple(fc.constantFrom('key', 'phone', 'ring'), fc.constantFrom('red', '-old', '=held', '4'))
    .map((two) => two.join(' ')),
);
const sort = fc.constantFrom<NonNullable<SearchRequest['question']['sort']>>(
  [],
  [{ column: 'Found on', direction: 'down' }],
  [
    { column: 'Status', direction: 'up' },
    { column: 'Declared value', direction: 'down' },
  ],
  [{ column: 'Colour', direction: 'down', by: 'count' }],
);
const question = fc.record({
  threaded: fc.subarray(THREADED, { minLength: 1 }),
  strands: fc.array(fc.record({ verb: fc.constantFrom('find' as const, 'plus' as const, 'minus' as const), text }), {
    minLength: 1,
    maxLength: 2,
  }),
  pickers: fc.subarray([
    { column: 'Status', values: ['Held'] },
    { column: 'Shelf', values: ['U4', 'U5', ''] },
  ]),
  effect: fc.constantFrom('show only matches' as const, 'mark in place' as const, 'leave matches out' as const),
  flip: fc.boolean(),
  sort,
});
const request = fc.record({ question, offset: fc.constantFrom(0, 7, 5_000), limit: fc.constantFrom(5, 30) });
const edit = fc.record({
  row: fc.integer({ min: 1, max: ROWS }),
  now: fc.constantFrom('Umbrella, wood handle', 'LP-41', 'Brückl hat', ''),
});

/** The server, with its shared answers, its packs and its threads, beside a host that was filled from the rows and knows of neither. */
describe('the server’s answers', () => {
  let running: Running;
  /** The same rows twice, in two threads. */
  let ids: number[];
  let host: Host;
  let known = 1;
  let keys = 0;

  beforeAll(async () => {
    running = await Running.start(false, undefined, { searchThreads: 2 });
    const { columns, rows } = foundItems(ROWS);
    const cells = [...rows];
    const csv = [...csvLines(columns, cells)].join('');
    const broughtIn = async (name: string): Promise<TableSummary> =>
      (await running.ask('POST', `/api/tables?name=${name}`, csv)).body as unknown as TableSummary;
    const table = await broughtIn('Many');
    const { id } = table;
    ids = [id, (await broughtIn('Again')).id];
    expect(ids.map((one) => running.server.threads.threadsOf(one))).toEqual([[0], [1]]);
    host = new Host();
    host.begin(id, table.columns);
    await host.append(
      id,
      cells.map((one, i) => ({ id: i + 1, cells: one })),
    );
    await host.finish(id, 1);
  });
  afterAll(() => running.end());

  const followed = async (): Promise<void> => {
    const list = (await running.ask('GET', `/api/tables/${ids[0]}/changes?after=${known}`))
      .body as unknown as ChangeList;
    for (const change of list.changes as readonly Change[]) {
      expect(host.apply(change)).toBe('applied');
      known = change.number;
    }
  };
  const same = async (asked: SearchRequest): Promise<void> => {
    const expected = JSON.parse(answerIn(await host.search(WHOLE_SCOPE, ids[0], asked))) as object;
    // At once, one after the other, and by who waits less: whoever's answer it is, it is the same.
    const paths = ids.map((id) => `/api/tables/${id}/search`);
    const first = await Promise.all([...paths, ...paths].map((path) => running.ask('POST', path, asked)));
    const turn = ++keys;
    const last = await Promise.all(paths.map((path) => running.ask('POST', path, { ...asked, session: path, turn })));
    for (const { body } of [...first, ...last])
      expect({ ...(body as object), milliseconds: 0 }).toEqual({ ...expected, milliseconds: 0 });
  };
  const hold = (runs: number): Promise<void> =>
    fc.assert(
      fc.asyncProperty(request, fc.option(edit, { nil: undefined, freq: 3 }), async (asked, change) => {
        await same(asked);
        if (change === undefined) return;
        for (const id of ids)
          await running.ask('POST', `/api/tables/${id}/changes`, {
            key: `same-answers-${++keys}`,
            kind: 'edited',
            columns: ['Description'],
            changed: [{ id: change.row, was: [null], now: [change.now] }],
          });
        await followed();
        await same(asked);
      }),
      { numRuns: runs },
    );

  it('are those of a host that shares nothing, and after a start from the pack, too', async () => {
    await hold(60);
    await running.server.threads.pack();
    await hold(10);
    await running.stop();
    running = await Running.start(false, running.folder, { searchThreads: 2 });
    expect([...running.server.threads.takenFromPacks].sort()).toEqual(ids);
    expect(ids.map((one) => running.server.threads.threadsOf(one))).toEqual([[0], [1]]);
    await hold(60);
    expect(running.server.threads.shared.hits).toBeGreaterThan(60);
  });
});
