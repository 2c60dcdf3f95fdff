/** The tables of one search thread: filled from the database or from their packs, and kept in step with the log. */
import type { Change, Column, TableSummary } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { Tables } from '../data/tables.js';
import type { PackedAs } from './pack-file.js';
import { PacksKept } from './packs-kept.js';
import { SearchThread } from './search-thread.js';

/** Rows read from the database at a time. */
const READ_BATCH = 5_000;

export type Loadable = Pick<TableSummary, 'id' | 'columns' | 'change' | 'rows'>;

export interface LoadProgress {
  readonly rows: number;
  rowsRead: number;
  done: boolean;
}

/** Where tables come from, and who is told of them. */
interface Around {
  /** Folder of the packs; without one every table is built. */
  readonly packs: string | undefined;
  tables(): Tables;
  /** Called before a table is read row by row. */
  readied(): Promise<void>;
  /** Called before a table has such columns: those that it borrows from are to be there. */
  lending(id: number, columns: readonly Column[], to: HeldTables): Promise<void>;
  /** Called before a table is another than it was. */
  changing(id: number, columns: readonly Column[]): void;
  /** Called before a change is applied. */
  passing(change: Change, by: HeldTables): void;
  /** Called once a change is applied. */
  passed(change: Change): void;
  /** A table was taken from its pack, which was of a change. */
  taken(id: number, change: number, by: HeldTables): void;
  /** A thread has been started, which holds nothing yet. */
  began(by: HeldTables): void;
  /** Called where what was held is lost with the thread. */
  lost(by: HeldTables): void;
  /** There is another thread, to be filled. */
  again(by: HeldTables): Promise<void>;
}

export class HeldTables {
  readonly thread: SearchThread;
  private readonly readings = new Map<number, LoadProgress>();
  private readonly loads = new Map<number, { readonly reading: LoadProgress; readonly work: Promise<void> }>();

  constructor(
    private readonly around: Around,
    private readonly log: Logger,
  ) {
    this.thread = new SearchThread(log, {
      began: () => around.began(this),
      lost: () => {
        this.readings.clear();
        around.lost(this);
      },
      again: () => around.again(this),
    });
  }

  private get host(): SearchThread['host'] {
    return this.thread.host;
  }

  private of<T>(answer: Promise<T>): Promise<T> {
    return this.thread.of(answer);
  }

  /** Tells how far a table is; undefined if it is not held. */
  reading(id: number): LoadProgress | undefined {
    return this.readings.get(id);
  }

  /** The tables that are held, or on their way. */
  get ids(): number[] {
    return [...this.readings.keys()];
  }

  /** A table is on its way. */
  expect(id: number, rows: number): LoadProgress {
    const reading = { rows, rowsRead: 0, done: false };
    this.readings.set(id, reading);
    return reading;
  }

  /** Begins to read packs, one after the other, before it is known whether they fit what the database has. */
  readPacks(ids: readonly number[]): void {
    const { packs } = this.around;
    if (packs && ids.length > 0) void this.host.readPacks(packs, ids).catch(() => undefined);
  }

  /** Tables whose packs were read, once all have been. */
  async packed(): Promise<number[]> {
    return this.thread.isBegun ? this.of(this.host.packed()) : [];
  }

  /** Forgets the packs that nobody has asked for. */
  async distrust(): Promise<void> {
    if (this.thread.isBegun) await this.of(this.host.distrust());
  }

  /**
   * Reads a table and readies it for searching; until then it does not answer. Once at a time. One that is dropped meanwhile, or
   * lost with its thread, is not there then.
   */
  load(table: Loadable): Promise<void> {
    const { id, rows } = table;
    const under = this.loads.get(id);
    if (under && this.readings.get(id) === under.reading) return under.work;
    const reading = this.expect(id, rows);
    const work = this.loadAfter(under?.work, table, reading);
    this.loads.set(id, { reading, work });
    return work;
  }

  /** @param before a load of what was dropped: its rows are not to be taken for this one's */
  private async loadAfter(before: Promise<void> | undefined, table: Loadable, reading: LoadProgress): Promise<void> {
    const isWanted = (): boolean => this.readings.get(table.id) === reading;
    await before?.catch(() => undefined);
    try {
      await this.read(table, reading, isWanted);
    } catch (error) {
      if (isWanted()) throw error;
    } finally {
      if (this.loads.get(table.id)?.reading === reading) this.loads.delete(table.id);
    }
  }

  private async read(table: Loadable, reading: LoadProgress, isWanted: () => boolean): Promise<void> {
    const { id } = table;
    let now: Loadable | undefined = table;
    const packed = await this.unpacked(table, isWanted);
    let change = packed ?? (await this.build(table, reading, isWanted));
    let doubted = packed !== undefined;
    // What was committed while the rows were read is in some of them only.
    while (now && isWanted() && !((await this.followLog(id, change)) && (!doubted || (await this.isWhole(id))))) {
      doubted = false;
      now = await this.around.tables().find(id);
      if (now) change = await this.build(now, reading, isWanted);
    }
    reading.done = true;
  }

  /** Takes a table from its pack. @returns the change that it is of then; undefined if there is none that fits */
  private async unpacked(table: Loadable, isWanted: () => boolean): Promise<number | undefined> {
    const { packs } = this.around;
    if (!packs) return undefined;
    const as = await this.of(this.host.packedAs(packs, table.id));
    if (!as || !PacksKept.isWorthReading(as.change, table.change)) return undefined;
    // A database that was put back to an earlier time has other changes of the same numbers.
    if ((await this.around.tables().timeOf(table.id, as.change)) !== as.at) return undefined;
    if (!(await this.isAsStored(table.id, as))) {
      this.log.warn({ table: table.id }, 'a pack does not hold what the database does, and is made anew');
      await this.of(this.host.drop(table.id));
      return undefined;
    }
    await this.around.lending(table.id, as.columns, this);
    if (!isWanted()) return as.change;
    this.around.changing(table.id, as.columns);
    await this.of(this.host.trust(table.id));
    this.around.taken(table.id, as.change, this);
    return as.change;
  }

  /** Tells whether rows of a pack are those of the database, as far as these have not changed since. */
  private async isAsStored(id: number, { change, columns }: PackedAs): Promise<boolean> {
    const sample = await this.of(this.host.sample(id));
    if (!sample) return false;
    const stored = await this.around.tables().rowsOf(
      id,
      sample.map((row) => row.id),
    );
    const cells = new Map(sample.map((row) => [row.id, row.cells]));
    return stored.every(
      (row) =>
        row.version > change ||
        columns.every(({ borrows }, i) => borrows !== undefined || cells.get(row.id)![i] === (row.cells[i] ?? '')),
    );
  }

  /** Tells whether a table has as many rows as the database says, where both are at the same change. */
  private async isWhole(id: number): Promise<boolean> {
    const stored = await this.around.tables().find(id);
    const [change, rows] = [await this.changeOf(id), await this.of(this.host.rowCount(id))];
    return stored?.change !== change || stored?.rows === rows;
  }

  /** Reads a table row by row. @returns the change that it is of at least */
  private async build(table: Loadable, reading: LoadProgress, isWanted: () => boolean): Promise<number> {
    await this.around.readied();
    await this.around.lending(table.id, table.columns, this);
    const tables = this.around.tables();
    reading.rowsRead = 0;
    if (isWanted()) await this.begin(table.id, table.columns);
    let read = await tables.rowsText(table.id, 0, READ_BATCH);
    while (read && isWanted()) {
      const { text, last, count } = read;
      // The next are read while these are taken in.
      const [next] = await Promise.all([
        tables.rowsText(table.id, last, READ_BATCH),
        this.of(this.host.append(table.id, text)),
      ]);
      reading.rowsRead += count;
      read = next;
    }
    if (!isWanted()) return table.change;
    await this.of(this.host.finish(table.id, table.change));
    this.around.changing(table.id, table.columns);
    return table.change;
  }

  /** Begins to fill a table. What it holds is no table to anybody yet. */
  begin(id: number, columns: readonly Column[]): Promise<void> {
    return this.of(this.host.begin(id, columns));
  }

  /** Rows as text, see `recordsText`, numbered one by one. */
  appendFrom(id: number, first: number, text: string): Promise<void> {
    return this.of(this.host.appendFrom(id, first, text));
  }

  /** Rows as text, see `Tables.rowsText`. */
  append(id: number, text: string): Promise<void> {
    return this.of(this.host.append(id, text));
  }

  /** Ends the filling of a table by hand: it answers from now on. */
  async finish(id: number, change: number, columns?: readonly Column[]): Promise<void> {
    await this.of(this.host.finish(id, change, columns));
  }

  /** A table that was filled by hand is one of those that are held. */
  has(id: number, rows: number): void {
    this.readings.set(id, { rows, rowsRead: rows, done: true });
  }

  /** Packs a table into a file. @returns false if that could not be */
  pack(id: number, path: string, as: Pick<PackedAs, 'change' | 'at'>): Promise<boolean> {
    return this.of(this.host.pack(id, path, as));
  }

  /** Bytes of the thread's own heap, and of what it holds beside it. */
  memory(): Promise<{ heap: number; others: number }> {
    return this.of(this.host.memory());
  }

  warmUp(): Promise<void> {
    return this.of(this.host.warmUp());
  }

  async drop(id: number): Promise<void> {
    const under = this.loads.get(id);
    this.readings.delete(id);
    await this.of(this.host.drop(id));
    if (!under) return;
    // What was on its way then may have come since.
    await under.work.catch(() => undefined);
    if (!this.readings.has(id)) await this.of(this.host.drop(id));
  }

  /** Follows the log: a change that was missed is read first; one that is not told row by row is read from the rows. */
  async apply(change: Change): Promise<void> {
    const done = await this.of(this.host.apply(change));
    if (done !== 'gap') return;
    const { table: id } = change;
    if (await this.followLog(id, (await this.changeOf(id)) ?? 0)) return;
    const table = await this.around.tables().find(id);
    if (table) await this.load(table);
  }

  /** Applies what the log says after a change. @returns false where that has to be read from the rows instead */
  private async followLog(id: number, after: number): Promise<boolean> {
    for await (const change of this.around.tables().log(id, after)) {
      if (change.columns) await this.around.lending(id, change.columns.after, this);
      this.around.passing(change, this);
      const outcome = await this.of(this.host.apply(change));
      this.around.passed(change);
      if (outcome === 'gap') return false;
    }
    return true;
  }

  /** Number of the last change that a table knows of here; undefined if it is not whole, or not held. */
  changeOf(id: number): Promise<number | undefined> {
    return this.of(this.host.changeOf(id));
  }

  /** Rises with whatever changes in a table's cells here, see `Holding.versionOf`. */
  versionOf(id: number): Promise<number | undefined> {
    return this.of(this.host.versionOf(id));
  }
}
