import { type Change, type Column, type RowChange, type Scope, WHOLE_SCOPE } from '@usual-needle/contract';
import { blankQuestion } from '@usual-needle/engine';
import { answered, answerIn, bestOf, Host } from '@usual-needle/host';

const [STOPS, ITEMS] = [1, 2];
const isOfQuestion = jasmine.objectContaining({ is: 'refused', why: 'question' });
const STOP_COLUMNS: Column[] = [
  { name: 'Name', kind: 'text' },
  { name: 'Town', kind: 'text' },
];
const town = (more: Partial<Column> = {}, column = 'Town'): Column => ({
  name: 'Town',
  kind: 'text',
  borrows: { table: STOPS, key: 'Found at', matches: 'Name', column, several: 'first' },
  ...more,
});
const ITEM_COLUMNS: Column[] = [{ name: 'Thing', kind: 'text' }, { name: 'Found at', kind: 'text' }, town()];

const STOP_CELLS = ['Quay', 'Mill Lane', 'Halt', 'Pier', 'Gate', 'Bridge'].map((name) => [name, `Town of ${name}`]);
const ITEM_CELLS = ['quay', 'pier', 'gate', 'halt', 'nowhere', 'mill lane'].map((at, i) => [`hat ${i}`, at, 'stored']);

async function filled(host: Host, id: number, columns: readonly Column[], cells: readonly string[][]): Promise<void> {
  host.begin(id, columns);
  await host.append(
    id,
    cells.map((one, i) => ({ id: i + 1, cells: one })),
  );
  await host.finish(id, 1);
}

function change(table: number, number: number, rowChanges: readonly RowChange[], columns?: Change['columns']): Change {
  const told = { at: '2026-11-26T10:00:00Z', who: null, key: null, undoes: null, counts: null };
  return { ...told, table, number, kind: 'edited', rows: rowChanges.length, rowChanges, columns: columns ?? null };
}

async function towns(host: Host, text = ''): Promise<string[]> {
  const { flip, nothingTyped } = blankQuestion([]);
  const asked = await host.search(WHOLE_SCOPE, ITEMS, {
    question: { threaded: ['Town'], strands: [{ verb: 'find', text, reading: 'words' }], flip, nothingTyped },
    columns: ['Town'],
  });
  const { rows } = JSON.parse(answerIn(asked)) as { rows: { cells: string[] }[] };
  return rows.map(({ cells }) => cells[0]);
}

const EXPECTED = ['Town of Quay', 'Town of Pier', 'Town of Gate', 'Town of Halt', '', 'Town of Mill Lane'];

describe('tables that borrow', () => {
  for (const [order, ids] of [
    ['the lender first', [STOPS, ITEMS]],
    ['the lender last', [ITEMS, STOPS]],
  ] as const)
    it(`find the same, whichever is read first: ${order}`, async () => {
      const host = new Host();
      for (const id of ids)
        await (id === STOPS
          ? filled(host, STOPS, STOP_COLUMNS, STOP_CELLS)
          : filled(host, ITEMS, ITEM_COLUMNS, ITEM_CELLS));
      expect(await towns(host)).toEqual(EXPECTED);
      expect(await towns(host, 'mill')).toEqual(['Town of Mill Lane']);
      const cells = [['hat', 'GATE', 'stored']];
      expect(await host.filled(WHOLE_SCOPE, ITEMS, cells)).toEqual(answered([['hat', 'GATE', 'Town of Gate']]));
      const narrow = { ...WHOLE_SCOPE, visible: ['Thing', 'Town'] };
      expect(await host.filled(narrow, ITEMS, cells)).toEqual(answered([['hat', '', 'Town of Gate']]));
    });

  async function both(): Promise<Host> {
    const host = new Host();
    await filled(host, STOPS, STOP_COLUMNS, STOP_CELLS);
    await filled(host, ITEMS, ITEM_COLUMNS, ITEM_CELLS);
    return host;
  }

  it('follow the changes of both', async () => {
    const host = await both();
    host.apply(change(STOPS, 2, [{ id: 1, before: ['Quay', 'Town of Quay'], after: ['Quay', 'Oakham'] }]));
    host.apply(change(ITEMS, 2, [{ id: 2, before: null, after: ['hat 1', 'bridge', ''] }]));
    expect((await towns(host)).slice(0, 2)).toEqual(['Oakham', 'Town of Bridge']);
    host.apply(change(STOPS, 3, [{ id: 1, before: ['Quay', 'Oakham'], after: null }]));
    host.apply(change(STOPS, 4, [{ id: 9, before: null, after: ['nowhere', 'Aspby'] }]));
    expect(await towns(host)).toEqual(['', 'Town of Bridge', 'Town of Gate', 'Town of Halt', 'Aspby', EXPECTED[5]]);
  });

  it('follow a change of very many rows at once', async () => {
    const host = new Host();
    const names = Array.from({ length: 3_000 }, (_, i) => [`stop ${i}`, `town ${i}`]);
    await filled(host, STOPS, STOP_COLUMNS, names);
    await filled(
      host,
      ITEMS,
      ITEM_COLUMNS,
      names.map(([name]) => ['hat', name]),
    );
    host.apply(
      change(
        STOPS,
        2,
        names.map(([name], i) => ({ id: i + 1, before: null, after: [name, `place ${i}`] })),
      ),
    );
    expect(await towns(host, '"place 2999"')).toEqual(['place 2999']);
    expect(await towns(host, '"town 2999"')).toEqual([]);
  });

  it('find columns by the names that they had, and go blank with a column that is removed', async () => {
    const host = await both();
    const after: Column[] = [
      { name: 'Stop', formerly: ['Name'], kind: 'text' },
      { name: 'Place', formerly: ['Town'], kind: 'text' },
    ];
    host.apply(change(STOPS, 2, [], { before: STOP_COLUMNS, after }));
    expect(await towns(host)).toEqual(EXPECTED);
    host.apply(change(STOPS, 3, [], { before: after, after: [after[0], { ...after[1], removed: true }] }));
    expect(await towns(host)).toEqual(Array(6).fill(''));
    host.apply(change(STOPS, 4, [], { before: after, after }));
    expect(await towns(host)).toEqual(EXPECTED);
  });

  it('go blank with a lender that goes, and are filled when it is back', async () => {
    const host = await both();
    host.drop(STOPS);
    expect(await towns(host)).toEqual(Array(6).fill(''));
    host.begin(STOPS, STOP_COLUMNS);
    expect(await towns(host)).toEqual(Array(6).fill(''));
    await host.append(
      STOPS,
      STOP_CELLS.map((cells, i) => ({ id: i + 1, cells })),
    );
    await host.finish(STOPS, 1);
    expect(await towns(host)).toEqual(EXPECTED);
  });

  it('keep what was lent while the lender is read anew', async () => {
    const host = await both();
    host.begin(STOPS, STOP_COLUMNS);
    expect(await towns(host)).toEqual(EXPECTED);
    await host.append(STOPS, [{ id: 1, cells: ['quay', 'Elsewhere'] }]);
    await host.finish(STOPS, 2);
    expect(await towns(host)).toEqual(['Elsewhere', '', '', '', '', '']);
  });

  it('are filled when they come to borrow', async () => {
    const host = new Host();
    await filled(host, STOPS, STOP_COLUMNS, STOP_CELLS);
    const before = ITEM_COLUMNS.slice(0, 2);
    await filled(
      host,
      ITEMS,
      before,
      ITEM_CELLS.map((cells) => cells.slice(0, 2)),
    );
    host.apply(change(ITEMS, 2, [], { before, after: ITEM_COLUMNS }));
    expect(await towns(host)).toEqual(EXPECTED);
  });

  it('lend only what is theirs: nothing leads in a circle', async () => {
    const host = new Host();
    const circle: Column = town({}, 'Back');
    const back: Column = {
      name: 'Back',
      kind: 'text',
      borrows: { table: ITEMS, key: 'Name', matches: 'Found at', column: 'Town', several: 'first' },
    };
    await filled(host, STOPS, [...STOP_COLUMNS, back], STOP_CELLS);
    await filled(host, ITEMS, [...ITEM_COLUMNS.slice(0, 2), circle], ITEM_CELLS);
    expect(await towns(host)).toEqual(Array(6).fill(''));
    const pairing = { table: STOPS, key: 'Town', matches: 'Name' };
    expect(await host.pairing(WHOLE_SCOPE, ITEMS, pairing, WHOLE_SCOPE)).toEqual(isOfQuestion);
  });

  it('are told what a pairing comes to, and which suggest themselves', async () => {
    const host = await both();
    const pairing = { table: STOPS, key: 'Found at', matches: 'Name' };
    const counts = answered({ rows: 6, found: 5, twice: 0 });
    expect(await host.pairing(WHOLE_SCOPE, ITEMS, pairing, WHOLE_SCOPE)).toEqual(counts);
    const suggested = async (scope: Scope): Promise<unknown> => {
      const keys = answerIn(await host.keys(WHOLE_SCOPE, ITEMS));
      const others = [STOPS, 99].map((id) => ({ id, scope }));
      return bestOf(await host.pairings(keys, others));
    };
    expect(await suggested(WHOLE_SCOPE)).toEqual([{ ...pairing, share: 5 / 6 }]);
    const narrow = { ...WHOLE_SCOPE, visible: ['Town'] };
    expect(await suggested(narrow)).toEqual([]);
    expect(await host.pairing(WHOLE_SCOPE, ITEMS, pairing, narrow)).toEqual(isOfQuestion);
  });

  it('answer right at every moment while their indexes are built anew', async () => {
    const host = new Host();
    const many = Array.from({ length: 20_000 }, (_, i) => [`stop ${i}`, `town ${i % 4_000}`]);
    await filled(host, STOPS, STOP_COLUMNS, many);
    const before = ITEM_COLUMNS.slice(0, 2);
    await filled(
      host,
      ITEMS,
      before,
      many.map(([name]) => ['hat', name]),
    );
    host.apply(change(ITEMS, 2, [], { before, after: ITEM_COLUMNS }));
    for (let i = 0; i < 12; i++) {
      expect((await towns(host, `"town ${i * 331}"`)).length).toBeGreaterThanOrEqual(5);
      expect(await towns(host, '"town 3999"')).toEqual(Array(5).fill('town 3999'));
      await new Promise((done) => setTimeout(done, 5));
    }
  });

  it('follow a lender’s change while they are changed themselves, and others are answered', async () => {
    const host = new Host();
    await filled(host, STOPS, STOP_COLUMNS, STOP_CELLS);
    const at = ['quay', 'pier', 'gate', 'halt'];
    const items = Array.from({ length: 70_000 }, (_, i) => [`hat ${i}`, at[i % 4], '']);
    await filled(host, ITEMS, ITEM_COLUMNS, items);
    const moved = Array.from({ length: 2_000 }, (_, i) => ({
      id: 4 * i + 1,
      before: null,
      after: ['hat', 'Mill Lane', ''],
    }));
    const renamed = STOP_CELLS.map(([name], i) => ({ id: i + 1, before: null, after: [name, `Place of ${name}`] }));
    const changes = [host.applied(change(STOPS, 2, renamed)), host.applied(change(ITEMS, 2, moved))];
    let done = false;
    void Promise.all(changes).then(() => (done = true));
    let asked = 0;
    for (; !done; asked++) {
      const now = await towns(host);
      // Never blank, nor of another stop: as it was, or as it is.
      expect(now[1]).toMatch(/^(?:Town|Place) of Pier$/);
      expect(now[0]).toMatch(/^(?:Town of Quay|(?:Town|Place) of (?:Quay|Mill Lane))$/);
      await new Promise((next) => setTimeout(next, 1));
    }
    expect(asked).toBeGreaterThan(1);
    expect(await Promise.all(changes)).toEqual(['applied', 'applied']);
    const after = await towns(host);
    expect(after.slice(0, 4)).toEqual(['Mill Lane', 'Pier', 'Gate', 'Halt'].map((name) => `Place of ${name}`));
    expect((await towns(host, '"Town of"')).length).toBe(0);
  });

  it('have another version whenever what they show is another, also while a change of the lender is being looked up', async () => {
    const host = new Host();
    await filled(host, STOPS, STOP_COLUMNS, STOP_CELLS);
    const many = Array.from({ length: 70_000 }, (_, i) => [`hat ${i}`, ITEM_CELLS[i % ITEM_CELLS.length][1], '']);
    await filled(host, ITEMS, ITEM_COLUMNS, many);
    const seen = new Map<number | undefined, string>();
    const look = async (): Promise<void> => {
      const version = host.versionOf(ITEMS);
      const shown = (await towns(host))[0];
      // What is read in the end is of that version only if it is the version still.
      if (host.versionOf(ITEMS) !== version) return;
      expect(seen.get(version) ?? shown).toBe(shown);
      seen.set(version, shown);
    };
    await look();
    let isDone = false;
    const after = ['Quay', 'Aspby'];
    const applied = host
      .applied(change(STOPS, 2, [{ id: 1, before: STOP_CELLS[0], after }]))
      .then(() => (isDone = true));
    while (!isDone) {
      await look();
      // A search that is short enough waits for nothing; the change goes on where others get their turn.
      await new Promise((done) => setTimeout(done, 0));
    }
    await applied;
    await look();
    expect([...seen.values()].at(-1)).toBe('Aspby');
    expect(seen.size).toBeGreaterThan(1);
  });
});
