/**
 * Several people edit one table at once, each knowing only what they have seen, with answers that come late or twice. However it
 * goes: every server ends with the same table, which is what the log says, and is searched as one that was built anew.
 */
import type {
  Change,
  ChangeList,
  Clash,
  EditRequest,
  RowList,
  SearchAnswer,
  TableSummary,
} from '@usual-needle/contract';
import { WHOLE_SCOPE } from '@usual-needle/contract';
import { csvLine } from '@usual-needle/formats';
import { answerIn, Host } from '@usual-needle/host';
import fc from 'fast-check';
import { Postgres } from './postgres.js';
import { Running } from './running.js';

const COLUMNS = ['No', 'Thing', 'Status'];
const ROWS = Array.from({ length: 12 }, (_, i) => [String(i), `thing ${i % 4}`, i % 2 ? 'Held' : 'Sold']);
const CSV = `${COLUMNS.join()}\n${ROWS.map((cells) => cells.join()).join('\n')}\n`;

/** One thing that somebody does: what, to which of the rows and columns they know of, and whether they send it twice. */
const step = fc.record({
  who: fc.nat(2),
  does: fc.constantFrom('edit', 'edit', 'edit', 'add', 'remove', 'undo', 'look'),
  row: fc.nat(30),
  column: fc.nat(2),
  value: fc.constantFrom('Held', 'Sold', 'umbrella', '', 'Łucja'),
  twice: fc.boolean(),
  waits: fc.boolean(),
});
type Step = typeof step extends fc.Arbitrary<infer T> ? T : never;

let keys = 0;

/** Somebody, and the table as they saw it last. */
class Keeper {
  private seen: { id: number; cells: readonly string[] }[] = [];
  private change = 1;
  private done: number[] = [];
  private late: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly running: Running,
    private readonly table: number,
    private readonly name: string,
  ) {}

  private path(rest: string): string {
    return `/api/tables/${this.table}/${rest}`;
  }

  async look(): Promise<void> {
    const changes = (await this.running.ask('GET', this.path('changes?brief=true&limit=1')))
      .body as unknown as ChangeList;
    const { rows } = (await this.running.ask('GET', this.path('rows?limit=1000'))).body as unknown as RowList;
    this.change = changes.changes[0].number;
    this.seen = rows.map(({ id, cells }) => ({ id, cells }));
  }

  async does({ does, row, column, value, twice, waits }: Step): Promise<void> {
    if (does === 'look') return this.look();
    const known = this.seen.at(row % Math.max(1, this.seen.length));
    if (does === 'undo') {
      const number = this.done.at(row % Math.max(1, this.done.length));
      if (number === undefined) return;
      const undo = { key: `converge-${++keys}`, part: value === 'Held', who: this.name };
      await this.send(`changes/${number}/undo`, undo, twice, waits);
      return;
    }
    const key = `converge-${++keys}`;
    const columns = [COLUMNS[column]];
    if (does === 'add') {
      await this.send('changes', { key, kind: 'added', who: this.name, columns, added: [[value]] }, twice, waits);
    } else if (known && does === 'remove') {
      await this.send(
        'changes',
        { key, kind: 'removed', columns: [], removed: [{ id: known.id, seen: this.change }] },
        twice,
        waits,
      );
    } else if (known) {
      const changed = [{ id: known.id, was: [known.cells[column]], now: [value] }];
      await this.send('changes', { key, kind: 'edited', who: this.name, columns, changed }, twice, waits);
    }
  }

  /** @param waits the answer is not waited for before the next thing is done */
  private async send(rest: string, body: object, twice: boolean, waits: boolean): Promise<void> {
    const ask = () => this.running.ask('POST', this.path(rest), body);
    const sent = (async () => {
      const [{ status, body: told }] = await Promise.all(twice ? [ask(), ask()] : [ask()]);
      expect([200, 404, 409]).withContext(JSON.stringify(told)).toContain(status);
      if (status === 200 && rest === 'changes') this.done.push(told['change']);
      // Shown what the others wrote, they write theirs over it.
      const [clash] = (told['clashes'] ?? []) as Clash[];
      const { changed, columns } = body as EditRequest;
      if (clash?.theirs && changed) {
        const again = {
          ...body,
          key: `converge-${++keys}`,
          columns,
          changed: [{ ...changed[0], was: [clash.theirs] }],
        };
        await this.running.ask('POST', this.path(rest), again);
      }
    })();
    this.late = Promise.all([this.late, sent]);
    if (!waits) await sent;
  }

  end(): Promise<unknown> {
    return this.late;
  }
}

/** The log, done to the rows as they were brought in. */
function replayed(changes: readonly Change[]): Map<number, readonly string[]> {
  const rows = new Map<number, readonly string[]>(ROWS.map((cells, i) => [i + 1, cells]));
  for (const { rowChanges } of changes)
    for (const { id, before, after } of rowChanges ?? []) {
      expect(rows.get(id) ?? null)
        .withContext(`row ${id} before`)
        .toEqual(before as string[]);
      if (after === null) rows.delete(id);
      else rows.set(id, after);
    }
  return rows;
}

async function searchedBy(running: Running, table: number): Promise<SearchAnswer> {
  const question = { threaded: COLUMNS, strands: [{ verb: 'find', text: 'e' }], effect: 'mark in place' };
  return (await running.ask('POST', `/api/tables/${table}/search`, { question, limit: 200 }))
    .body as unknown as SearchAnswer;
}

async function converges(servers: readonly Running[], steps: readonly Step[]): Promise<void> {
  const { body } = await servers[0].ask('POST', '/api/tables?name=Converging', CSV);
  const { id, columns } = body as unknown as TableSummary;
  for (const server of servers)
    for (let i = 0; i < 400 && (await server.ask('GET', `/api/tables/${id}`)).status !== 200; i++)
      await new Promise((wait) => setTimeout(wait, 5));
  const keepers = ['A', 'B', 'C'].map((name, i) => new Keeper(servers[i % servers.length], id, name));
  await Promise.all(keepers.map((keeper) => keeper.look()));
  const lanes = keepers.map(async (keeper, i) => {
    for (const one of steps) if (one.who === i) await keeper.does(one);
    await keeper.end();
  });
  await Promise.all(lanes);
  const log = ((await servers[0].ask('GET', `/api/tables/${id}/changes?limit=1000`)).body as unknown as ChangeList)
    .changes;
  expect(log.map(({ number }) => number)).toEqual(log.map((_, i) => i + 1));
  const asked = log.flatMap(({ key }) => key ?? []);
  expect(new Set(asked).size).withContext('each thing is done once').toBe(asked.length);
  const wanted = [...replayed(log)].sort(([a], [b]) => a - b);
  const host = new Host();
  host.begin(id, columns);
  await host.append(
    id,
    wanted.map(([row, cells]) => ({ id: row, cells })),
  );
  await host.finish(id, log.length);
  const question = {
    threaded: COLUMNS,
    strands: [{ verb: 'find' as const, text: 'e' }],
    effect: 'mark in place' as const,
  };
  const anew = JSON.parse(answerIn(await host.search(WHOLE_SCOPE, id, { question, limit: 200 }))) as SearchAnswer;
  // The log can be walked back, too: the table as it was after any of its changes.
  for (const at of [1, Math.ceil(log.length / 2), log.length]) {
    const { body: copy } = await servers[0].ask('GET', `/api/tables/${id}/copy?at=${at}`);
    const then = [...replayed(log.slice(0, at))].sort(([a], [b]) => a - b).map(([, cells]) => csvLine(cells));
    expect(copy['text'] as string)
      .withContext(`as it was after change ${at}`)
      .toBe(csvLine(COLUMNS) + then.join(''));
  }
  for (const server of servers) {
    const { rows } = (await server.ask('GET', `/api/tables/${id}/rows?limit=1000`)).body as unknown as RowList;
    expect(rows.map((row) => [row.id, row.cells]) as unknown).toEqual(wanted);
    let found = await searchedBy(server, id);
    // Another server hears of it a moment later.
    for (let i = 0; i < 400 && found.change < log.length; i++) {
      await new Promise((wait) => setTimeout(wait, 10));
      found = await searchedBy(server, id);
    }
    expect(found as unknown).toEqual(
      jasmine.objectContaining({ rows: anew.rows, matched: anew.matched, total: anew.total, change: log.length }),
    );
  }
  await servers[0].ask('DELETE', `/api/tables/${id}`);
}

describe('three keepers at once', () => {
  const steps = fc.array(step, { minLength: 20, maxLength: 50 });

  it('on one server: one table, as its log says', async () => {
    const running = await Running.start(false);
    try {
      await fc.assert(
        fc.asyncProperty(steps, (some) => converges([running], some)),
        { numRuns: 6 },
      );
    } finally {
      await running.end();
    }
  });

  it('on two servers over one PostgreSQL: the same, on both', async () => {
    const postgres = await Postgres.find();
    if (!postgres) return pending('Debian’s postgresql is not here, and may not be installed');
    const start = () => Running.start(false, undefined, { databaseUrl: postgres.url });
    const servers = [await start(), await start()];
    try {
      await fc.assert(
        fc.asyncProperty(steps, (some) => converges(servers, some)),
        { numRuns: 6 },
      );
    } finally {
      for (const server of servers) await server.end();
      await postgres.end();
    }
  });

  it('a server that was cut off from the others catches up by number', async () => {
    const postgres = await Postgres.find();
    if (!postgres) return pending('Debian’s postgresql is not here, and may not be installed');
    const start = () => Running.start(false, undefined, { databaseUrl: postgres.url });
    const [one, other] = [await start(), await start()];
    try {
      const { body } = await one.ask('POST', '/api/tables?name=Cut', CSV);
      const id = body['id'] as number;
      const told = async (matched: number): Promise<void> => {
        for (let i = 0; i < 600; i++) {
          const { body: found } = await other.find(id, 'cut', ['Thing']);
          if (found['matched'] === (matched as never)) return;
          await new Promise((wait) => setTimeout(wait, 20));
        }
        fail(`${matched} rows were not found by the other server`);
      };
      const add = (value: string) =>
        one.ask('POST', `/api/tables/${id}/changes`, {
          key: `cut-${value.replace(' ', '-')}-key`,
          kind: 'added',
          columns: ['Thing'],
          added: [[value]],
        });
      await add('cut 1');
      await told(1);
      // Every connection that listens is broken off, and a change is made before they are back.
      postgres.breakListeners();
      await add('cut 2');
      await told(2);
      await one.ask('DELETE', `/api/tables/${id}`);
      for (let i = 0; i < 300 && (await other.find(id, 'cut', ['Thing'])).status !== 404; i++)
        await new Promise((wait) => setTimeout(wait, 20));
      expect((await other.find(id, 'cut', ['Thing'])).status).toBe(404);
    } finally {
      await one.end();
      await other.end();
      await postgres.end();
    }
  });
});
