/**
 * The tables as the server searches them: spread over search threads, filled from the database and kept in step with the log.
 *
 * ```
 * thread 1   Found items   Stops           Found items borrows from Stops: they are at home together
 * thread 2   Loans         Stops (lent)    Loans borrows from it, too, and is at home elsewhere: another copy
 * ```
 * What is asked of a table is asked of its home. Whatever happens to it happens to every copy.
 */
import { LARGEST_NUMBER, type Change, type Column, type Health, type Scope } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { Principal } from '../access/principal.js';
import { scopeOf } from '../access/scopes.js';
import type { Tables } from '../data/tables.js';
import { identified } from '../data/records.js';
import { LentCopies } from './copies.js';
import { EarlierTables } from './earlier-tables.js';
import { HeldTables, type Loadable } from './held-tables.js';
import { Loading } from './loading.js';
import { packPath } from './pack-folder.js';
import { MuchAsked } from './much-asked.js';
import { Packing } from './packing.js';
import { healthOf } from './progress.js';
import { Watch } from '../watching/watch.js';
import { Questions } from './questions.js';
import { Resting } from './resting.js';
import { SharedAnswers } from './shared-answers.js';
import { TableHomes } from './table-homes.js';

export class SearchThreads {
  private readonly homes: TableHomes;
  private readonly loading: Loading;
  readonly shared = new SharedAnswers();
  readonly watch: Watch;
  private readonly copies: LentCopies;
  /** All that is there at the start has been read, or brought in. */
  private hasStarted = false;
  /** The last change of tables that were not changed since it was asked for. */
  private readonly known = new Map<number, Promise<number | undefined>>();
  /** Threads whose tables are lost, and not all there again. */
  private readonly lost = new Set<HeldTables>();
  private isWarm = false;

  /** Tables that were taken from their packs, and not built. */
  readonly takenFromPacks = new Set<number>();
  /** The questions to the tables. */
  readonly questions: Questions;
  /** Tables that nobody has asked for long, or that there is no room for. */
  readonly resting: Resting;
  /** Tables as they were, which are looked at. */
  readonly earlier: EarlierTables;
  private readonly packing: Packing | undefined;

  private tables!: Tables;
  private ready: (() => Promise<void>) | undefined;
  private readying: Promise<void> | undefined;

  /**
   * @param threads how many there may be
   * @param packs folder of what was built, for the next start; without one every start builds
   * @param ceiling bytes that the process may have
   */
  constructor(
    private readonly log: Logger,
    threads: number,
    private readonly packs?: string,
    ceiling?: number,
  ) {
    this.homes = new TableHomes(threads, () => this.thread());
    // Before it is known what the database has, which takes its time to open.
    void this.homes.all[0].thread.host;
    this.copies = new LentCopies(this.homes, (id) => this.tables.find(id));
    const filled = {
      tables: () => this.tables,
      place: (id: number, rows: number) => this.place(id, rows),
      load: (table: Loadable) => this.load(table),
      forget: (id: number) => this.forget(id),
      rests: (id: number) => this.resting.rests(id),
    };
    this.resting = new Resting(
      {
        whole: () => this.whole(),
        isNeeded: (id) => id > LARGEST_NUMBER || this.lendersOf(id).length > 0 || this.borrowersOf(id).length > 0,
        putAway: async (id) => {
          await this.packing?.now();
          await this.forget(id);
        },
        take: (id) => this.takeBack(id),
      },
      log,
      ceiling,
    );
    this.loading = new Loading(this.homes, this.copies, filled, packs);
    this.earlier = new EarlierTables(
      {
        begin: (id, columns, rows) => this.begin(id, columns, rows),
        append: async (id, some) => this.homeOf(id).append(id, identified(some)),
        end: async (id, change) => this.homeOf(id).finish(id, change),
        forget: (id) => this.forget(id),
      },
      log,
    );
    this.watch = new Watch(log);
    const muchAsked = new MuchAsked(this.homes, this.copies);
    this.questions = new Questions(
      {
        reading: (id) => this.resting.ask(id) ?? this.homes.reading(id) ?? this.earlier.asked(id),
        asked: (id) => void this.resting.ask(id),
        filled: () => this.filled,
        threadOf: (id) => muchAsked.answering(id)?.thread,
        homeOf: (id) => this.homes.homeOf(id)?.thread,
        threads: () => this.homes.begun.map(({ thread }) => thread),
        beside: (other, id) => this.copies.beside(other, id),
      },
      this.shared,
      this.watch,
    );
    if (packs === undefined) return;
    this.packing = new Packing(
      {
        whole: () => this.whole(),
        changeOf: (id) => this.changeOf(id),
        timeOf: (id, change) => this.tables.timeOf(id, change),
        pack: async (id, as) => (await this.homes.homeOf(id)?.pack(id, packPath(packs, id), as)) ?? false,
      },
      log,
    );
  }

  private thread(): HeldTables {
    return new HeldTables(
      {
        packs: this.packs,
        tables: () => this.tables,
        readied: () => this.readied(),
        lending: (id, columns, at) => this.copies.lending(id, columns, at),
        changing: (id, columns) => this.changing(id, columns),
        passing: (change, by) => this.passing(change, by),
        passed: (change) => this.passed(change),
        taken: (id, change, by) => {
          if (by !== this.homes.homeOf(id)) return;
          this.packing?.taken(id, change);
          this.takenFromPacks.add(id);
        },
        began: (by) => {
          if (this.isWarm) by.warmUp().catch(() => undefined);
        },
        lost: (by) => {
          for (const id of this.earlier.lost(this.homes.homedIn(by))) this.homes.forget(id);
          this.lost.add(by);
          this.known.clear();
        },
        again: async (by) => {
          by.readPacks(this.homes.homedIn(by));
          await this.loadAll();
          this.lost.delete(by);
          // A start that it ended is over with that, too.
          this.started();
        },
      },
      this.log,
    );
  }

  private place(id: number, rows?: number): HeldTables {
    this.loading.known(id);
    return this.homes.place(id, rows, this.copies.related(id));
  }

  private homeOf(id: number): HeldTables {
    const home = this.homes.homeOf(id);
    if (!home) throw new Error(`table ${id} is not there`);
    return home;
  }

  /**
   * Tells whose tables they are, once that is known; nothing is loaded before.
   * @param ready is done once, before the first table is read row by row
   */
  serve(tables: Tables, ready: () => Promise<void>): void {
    this.tables = tables;
    this.ready = ready;
  }

  private async readied(): Promise<void> {
    await (this.readying ??= this.ready?.());
  }

  /** Reads a table and readies it for searching; until then it does not answer. Once at a time. */
  async load(table: Loadable): Promise<void> {
    await this.place(table.id, table.rows).load(table);
    await this.copies.lent(table.id);
  }

  /** Packs what is to be packed, at once. */
  async pack(): Promise<void> {
    await this.packing?.now();
  }

  /**
   * Begins to fill a table with what is being brought in. What it holds is no table to anybody yet.
   * @param rows how many there will be, where that is known
   */
  async begin(id: number, columns: readonly Column[], rows?: number): Promise<void> {
    await this.place(id, rows).begin(id, columns);
  }

  async appendFrom(id: number, first: number, text: string): Promise<void> {
    await this.homeOf(id).appendFrom(id, first, text);
  }

  /** Ends the filling: from now on it answers. */
  async finish(id: number, columns: readonly Column[], rows: number): Promise<void> {
    await this.homeOf(id).finish(id, 1, columns);
    this.changing(id, columns);
    this.place(id, rows).has(id, rows);
    this.packing?.soon();
  }

  private whole(): { readonly id: number; readonly rows: number }[] {
    return this.homes.readings().flatMap(([id, { rows, done }]) => (done ? [{ id, rows }] : []));
  }

  /** Takes a table back that rests, as it is by now. */
  private async takeBack(id: number): Promise<void> {
    const table = await this.tables.find(id);
    if (!table) return this.drop(id);
    const home = this.place(id, table.rows);
    home.readPacks([id]);
    await this.load(table);
  }

  /** @returns how many there are */
  loadAll(): Promise<number> {
    return this.loading.loadAll();
  }

  /** Forgets a table. */
  async drop(id: number): Promise<void> {
    this.packing?.forget(id);
    this.resting.forget(id);
    this.earlier.gone(id);
    await this.forget(id);
  }

  private async forget(id: number): Promise<void> {
    const holders = this.homes.holders(id);
    this.homes.forget(id);
    this.changing(id, []);
    await Promise.all(holders.map((one) => one.drop(id)));
  }

  /** Follows the log, wherever the table is held. */
  async apply(change: Change): Promise<void> {
    const { table: id, columns } = change;
    const home = this.homes.homeOf(id);
    if (columns && home) await this.copies.lending(id, columns.after, home);
    // From here to all of the holders in one go: a question is put before all of them know of it, or after.
    if (home) this.passing(change, home);
    try {
      await Promise.all(this.homes.holders(id).map((one) => one.apply(change)));
    } finally {
      this.passed(change);
    }
  }

  /** Does what is due before a change is applied. */
  private passing(change: Change, by: HeldTables): void {
    if (change.columns) this.changing(change.table, change.columns.after);
    else this.changed(change.table);
    if (by === this.homes.homeOf(change.table)) this.packing?.passed(change);
  }

  /** Does what is due once a change is applied: while it was, the table answered as of the one before. */
  private passed({ table }: Change): void {
    this.changed(table);
  }

  /** Does what is due before a table is another, or has other columns. */
  private changing(id: number, columns: readonly Column[]): void {
    this.copies.borrowing(id, columns);
    this.changed(id);
  }

  /** Nobody is told what was true before, of a table or of one that borrows from it. */
  private changed(id: number): void {
    for (const one of [id, ...this.borrowersOf(id)]) {
      this.shared.changed(one);
      this.known.delete(one);
    }
  }

  /** Number of the last change that a table knows of here; undefined if it is not whole, or not held. */
  async changeOf(id: number): Promise<number | undefined> {
    return this.homes.homeOf(id)?.changeOf(id);
  }

  /** Does what `changeOf` does, and remembers it until the table is changed: for what is asked again and again. */
  async knownChange(id: number): Promise<number | undefined> {
    const asked = this.known.get(id) ?? this.changeOf(id);
    this.known.set(id, asked);
    const change = await asked.catch(() => undefined);
    if (change === undefined) this.known.delete(id);
    return change;
  }

  /** Rises with whatever changes in a table's cells here, those that it borrows among them. */
  async versionOf(id: number): Promise<number | undefined> {
    return this.homes.homeOf(id)?.versionOf(id);
  }

  /** Questions that wait for their turn. */
  get waiting(): number {
    return this.homes.begun.reduce((sum, { thread }) => sum + thread.turns.waitingNow + thread.aside.waitingNow, 0);
  }

  /** Bytes of the heap of each thread, and of what it holds beside it. */
  memory(): Promise<{ heap: number; others: number }[]> {
    return Promise.all(this.homes.begun.map((one) => one.memory()));
  }

  /** Tables that are held, or on their way. */
  heldIds(): number[] {
    return this.homes.readings().map(([id]) => id);
  }

  /** Says that all that is there at the start has been read, or brought in. */
  started(): void {
    this.hasStarted = true;
  }

  private get filled(): boolean {
    return this.hasStarted && this.lost.size === 0;
  }

  /** Tells how far the reading of the tables is. */
  health(): Health {
    // One that rests is there, and so is one that is being taken back.
    const atRest = this.resting.ids.map((id) => this.resting.restingAs(id));
    const readings = this.homes.readings().flatMap(([id, reading]) => (this.resting.rests(id) ? [] : [reading]));
    return healthOf([...readings, ...atRest], this.filled, this.shared);
  }

  /** Readies the threads that there are, and those that are begun later. */
  async warmUp(): Promise<void> {
    this.isWarm = true;
    await Promise.all(this.homes.begun.map((one) => one.warmUp()));
  }

  /** Gives what a principal may see of a table; of one as it was, what of the table that it is now. */
  scopeFor(principal: Principal, id: number): Scope {
    return scopeOf(principal, this.earlier.asked(id)?.now ?? id);
  }

  /** Tables that borrow from a table. */
  borrowersOf(id: number): number[] {
    return this.copies.borrowersOf(id);
  }

  /** Tables that a table borrows from, by however many steps. */
  lendersOf(id: number): number[] {
    return this.copies.lendersOf(id);
  }

  /** Numbers of the threads that hold a table, its home first: for tests. */
  threadsOf(id: number): number[] {
    return this.homes.holders(id).map((one) => this.homes.all.indexOf(one));
  }

  /** Tells whether all of the threads that hold a table have it whole: for tests. */
  isWhole(id: number): boolean {
    return this.homes.holders(id).every((one) => one.reading(id)?.done);
  }

  /** Ends a thread, for tests of what happens then. @param of a table that is at home there */
  endThread(of?: number): Promise<void> {
    return ((of !== undefined && this.homes.homeOf(of)) || this.homes.all[0]).thread.end();
  }

  async close(): Promise<void> {
    this.packing?.close();
    this.resting.close();
    await Promise.all(this.homes.all.map((one) => one.thread.close()));
  }
}
