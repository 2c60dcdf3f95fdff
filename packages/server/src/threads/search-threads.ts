/** The tables as the server searches them: held by a search thread, filled from the database and kept in step with the log. */
import type { Change, Column, Health, Scope, TableSummary } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { Principal } from '../access/principal.js';
import { scopeOf } from '../access/scopes.js';
import type { Tables } from '../data/tables.js';
import { identified } from '../data/records.js';
import { EarlierTables } from './earlier-tables.js';
import { inLoadingOrder, lendersOf } from './loading-order.js';
import { packPath, sweepPacks } from './pack-folder.js';
import { Packing } from './packing.js';
import { PacksKept } from './packs-kept.js';
import { Questions } from './questions.js';
import { SearchThread } from './search-thread.js';
import { SharedAnswers } from './shared-answers.js';

/** Rows read from the database at a time. */
const READ_BATCH = 5_000;

type Loadable = Pick<TableSummary, 'id' | 'columns' | 'change' | 'rows'>;

interface Loading {
  readonly rows: number;
  rowsRead: number;
  done: boolean;
}

export class SearchThreads {
  private readonly thread: SearchThread;
  readonly shared = new SharedAnswers();
  /** Tables that each table borrows from. */
  private readonly borrows = new Map<number, ReadonlySet<number>>();
  private readonly loading = new Map<number, Loading>();
  private readonly loads = new Map<number, Promise<void>>();
  private filled = false;

  /** Tables that were taken from their packs, and not built. */
  readonly takenFromPacks = new Set<number>();
  /** What is asked of the tables. */
  readonly questions: Questions;
  /** Tables as they were, which are looked at. */
  readonly earlier: EarlierTables;
  private readonly packing: Packing | undefined;

  private tables!: Tables;
  private ready: (() => Promise<void>) | undefined;

  /** @param packs folder of what was built, for the next start; without one every start builds */
  constructor(
    log: Logger,
    private readonly packs?: string,
  ) {
    this.thread = new SearchThread(log, {
      // Before it is known what the database has, which takes its time to open.
      began: (host) => void (this.packs && host.readPacks(this.packs).catch(() => undefined)),
      lost: () => {
        this.loading.clear();
        this.earlier.lost();
        this.filled = false;
      },
      again: async () => {
        await this.loadAll();
        this.started();
      },
    });
    this.earlier = new EarlierTables(
      {
        begin: (id, columns) => this.begin(id, columns),
        fill: (id, some) => this.of(this.host.append(id, identified(some))),
        end: (id, change) => this.of(this.host.finish(id, change)),
        forget: (id) => this.of(this.host.drop(id)),
      },
      log,
    );
    this.questions = new Questions(
      {
        reading: (id) => this.loading.get(id) ?? this.earlier.asked(id),
        filled: () => this.filled,
      },
      this.thread,
      this.shared,
    );
    if (packs === undefined) return;
    this.packing = new Packing(
      {
        whole: () => [...this.loading].flatMap(([id, { rows, done }]) => (done ? [{ id, rows }] : [])),
        changeOf: (id) => this.changeOf(id),
        timeOf: (id, change) => this.tables.timeOf(id, change),
        pack: (id, as) => this.of(this.host.pack(id, packPath(packs, id), as)),
      },
      log,
    );
  }

  private get host(): SearchThread['host'] {
    return this.thread.host;
  }

  private of<T>(answer: Promise<T>): Promise<T> {
    return this.thread.of(answer);
  }

  /**
   * Whose tables they are, once that is known; nothing is loaded before.
   * @param ready is done once, before the first table is read row by row
   */
  serve(tables: Tables, ready: () => Promise<void>): void {
    this.tables = tables;
    this.ready = ready;
  }

  private async readied(): Promise<void> {
    const { ready } = this;
    this.ready = undefined;
    await ready?.();
  }

  /** Reads a table and readies it for searching; until then it does not answer. Once at a time. */
  load(table: Loadable): Promise<void> {
    const under = this.loads.get(table.id);
    if (under) return under;
    const load = this.read(table).finally(() => this.loads.delete(table.id));
    this.loads.set(table.id, load);
    return load;
  }

  private async read(table: Loadable): Promise<void> {
    const state: Loading = { rows: table.rows, rowsRead: 0, done: false };
    this.loading.set(table.id, state);
    let now: Loadable | undefined = table;
    let change = (await this.unpacked(table)) ?? (await this.build(table, state));
    // What was committed while the rows were read is in some of them only.
    while (now && !(await this.followLog(table.id, change))) {
      now = await this.tables.find(table.id);
      if (now) change = await this.build(now, state);
    }
    state.done = true;
  }

  /** Takes a table from its pack. @returns the change that it is of then; undefined if there is none that fits */
  private async unpacked(table: Loadable): Promise<number | undefined> {
    if (!this.packs) return undefined;
    const as = await this.of(this.host.packedAs(table.id));
    if (!as || !PacksKept.isWorthReading(as.change, table.change)) return undefined;
    // A database that was put back to an earlier time has other changes of the same numbers.
    if ((await this.tables.timeOf(table.id, as.change)) !== as.at) return undefined;
    this.changing(table.id, as.columns);
    await this.of(this.host.trust(table.id));
    this.packing?.taken(table.id, as.change);
    this.takenFromPacks.add(table.id);
    return as.change;
  }

  /** Reads a table row by row. @returns the change that it is of at least */
  private async build(table: Loadable, state: Loading): Promise<number> {
    await this.readied();
    state.rowsRead = 0;
    await this.of(this.host.begin(table.id, table.columns));
    let read = await this.tables.rowsText(table.id, 0, READ_BATCH);
    while (read) {
      const { text, last, count } = read;
      // The next are read while these are taken in.
      const [next] = await Promise.all([
        this.tables.rowsText(table.id, last, READ_BATCH),
        this.of(this.host.append(table.id, text)),
      ]);
      state.rowsRead += count;
      read = next;
    }
    await this.of(this.host.finish(table.id, table.change));
    this.changing(table.id, table.columns);
    return table.change;
  }

  /** Packs what is to be packed, at once. */
  async pack(): Promise<void> {
    await this.packing?.now();
  }

  /** Begins to fill a table with what is being brought in. What it holds is no table to anybody yet. */
  async begin(id: number, columns: readonly Column[]): Promise<void> {
    await this.of(this.host.begin(id, columns));
  }

  async append(id: number, first: number, text: string): Promise<void> {
    await this.of(this.host.appendFrom(id, first, text));
  }

  /** Ends the filling: from now on it answers. */
  async finish(id: number, columns: readonly Column[], rows: number): Promise<void> {
    await this.of(this.host.finish(id, 1, columns));
    this.changing(id, columns);
    this.loading.set(id, { rows, rowsRead: rows, done: true });
    this.packing?.soon();
  }

  /** @returns how many there are */
  async loadAll(): Promise<number> {
    const tables = inLoadingOrder(await this.tables.list(), new Set(await this.of(this.host.packed())));
    if (this.packs) await sweepPacks(this.packs, new Set(tables.map(({ id }) => id)));
    for (const { id, rows } of tables) this.loading.set(id, { rows, rowsRead: 0, done: false });
    for (const { id } of tables) {
      // Another server may have spoken of it, and so it may have been read already.
      if (this.loading.get(id)?.done) continue;
      // As it is by now, if it is still there.
      const table = await this.tables.find(id);
      if (table) await this.load(table);
      else this.loading.delete(id);
    }
    await this.of(this.host.distrust());
    return tables.length;
  }

  /** Forgets a table. */
  async drop(id: number): Promise<void> {
    this.loading.delete(id);
    this.packing?.forget(id);
    this.earlier.gone(id);
    this.changing(id, []);
    await this.of(this.host.drop(id));
  }

  /** Follows the log: a change that was missed is read first; one that is not told row by row is read from the rows. */
  async apply(change: Change): Promise<void> {
    this.passing(change);
    const done = await this.of(this.host.apply(change));
    if (done !== 'gap') return;
    const { table: id } = change;
    if (await this.followLog(id, (await this.changeOf(id)) ?? 0)) return;
    const table = await this.tables.find(id);
    if (table) await this.load(table);
  }

  /** Applies what the log says after a change. @returns false where that has to be read from the rows instead */
  private async followLog(id: number, after: number): Promise<boolean> {
    for await (const change of this.tables.log(id, after)) {
      this.passing(change);
      if ((await this.of(this.host.apply(change))) === 'gap') return false;
    }
    return true;
  }

  /** To be said before a change is applied. */
  private passing(change: Change): void {
    this.changing(change.table, change.columns?.after);
    this.packing?.passed(change);
  }

  /** To be said before a table changes: nobody is told what was true before, of it or of one that borrows from it. */
  private changing(id: number, columns?: readonly Column[]): void {
    if (columns) this.borrows.set(id, lendersOf(columns));
    for (const one of [id, ...this.borrowersOf(id)]) this.shared.changed(one);
  }

  /** Number of the last change that a table knows of here; undefined if it is not whole, or not held. */
  changeOf(id: number): Promise<number | undefined> {
    return this.of(this.host.changeOf(id));
  }

  /** Tables that are held, or on their way. */
  held(): number[] {
    return [...this.loading.keys()];
  }

  /** Says that all that is there at the start has been read, or brought in. */
  started(): void {
    this.filled = true;
  }

  /** How far the reading of the tables is. */
  health(): Health {
    const all = [...this.loading.values()];
    return {
      status: this.filled && all.every(({ done }) => done) ? 'ready' : 'starting',
      tables: all.length,
      tablesRead: all.filter(({ done }) => done).length,
      rows: all.reduce((sum, { rows }) => sum + rows, 0),
      rowsRead: all.reduce((sum, { rowsRead }) => sum + rowsRead, 0),
      searches: { shared: this.shared.hits, worked: this.shared.misses },
    };
  }

  warmUp(): Promise<void> {
    return this.of(this.host.warmUp());
  }

  /** What a principal may see of a table; of one as it was, what of the table that it is now. */
  scopeFor(principal: Principal, id: number): Scope {
    return scopeOf(principal, this.earlier.asked(id)?.now ?? id);
  }

  /** Tables that borrow from a table. */
  borrowersOf(id: number): number[] {
    return [...this.borrows].flatMap(([borrower, lenders]) => (lenders.has(id) ? [borrower] : []));
  }

  /** For tests of what happens then. */
  endThread(): Promise<void> {
    return this.thread.end();
  }

  async close(): Promise<void> {
    this.packing?.close();
    await this.thread.close();
  }
}
