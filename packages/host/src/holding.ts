/**
 * Tables as they are held: filled, or taken from bytes, and from then on following their logs. A table answers only once it is
 * whole; a change is applied once, and in order. All that takes its time rests while somebody waits for an answer.
 */
import type { Change, Column, StoredRow } from '@usual-needle/contract';
import {
  finished,
  type PackReader,
  type PackWriter,
  type RowEdit,
  sampleRows,
  soundSteps,
  type Steps,
  Table,
} from '@usual-needle/engine';
import { TableLinks } from './borrowings.js';
import { columnsOf, type Held } from './held.js';
import { MISSING, outcomeOf, StillLoading, type Outcome } from './outcome.js';
import { inStretches, rest, turnOfTheLoop } from './stretches.js';

/** Rows of a table taken from bytes that are held against the database. */
const SAMPLED = 200;

/** A change of a table's rows, made at once as the one step that there is. */
function* atOnce({ table }: Held, edits: readonly RowEdit[]): Steps<void> {
  yield;
  table.apply(edits);
}

export class Holding {
  protected readonly tables = new Map<number, Held>();
  protected readonly borrowings = new TableLinks(this.tables);
  /** Questions that are being answered. */
  private asking = 0;
  /** Changes that are being applied, by table. */
  private readonly applying = new Map<number, Promise<void>>();
  /** The end of what is being done to each table. */
  private readonly working = new WeakMap<Held, Promise<unknown>>();
  /** Tables of which something is built anew after changes. */
  private readonly settling = new WeakSet<Table>();

  /** Begins to fill a table, which does not answer before `finish`. */
  begin(id: number, columns: readonly Column[]): void {
    this.tables.set(id, { table: new Table(columns), change: -1, rowsRead: 0 });
    this.borrowings.link(id);
  }

  /** Takes rows in and builds the indexes of what is whole, answering others meanwhile. */
  async append(id: number, rows: readonly Pick<StoredRow, 'id' | 'cells'>[]): Promise<void> {
    const held = this.tables.get(id);
    if (!held) throw new Error(`table ${id} is not being filled`);
    const dropped = (): boolean => this.tables.get(id) !== held;
    await this.inTheBackground(held.table.appendSteps(rows, true), dropped);
    held.rowsRead += rows.length;
    // So most are there by the time the last of the rows are.
    await this.inTheBackground(held.table.buildIndexes(), dropped);
  }

  /**
   * Ends the filling of a table, and builds its indexes, answering others meanwhile.
   * @param change the last one in the rows @param columns if they are others than at the beginning
   */
  async finish(id: number, change: number, columns?: readonly Column[]): Promise<void> {
    const held = this.tables.get(id);
    if (!held) throw new Error(`table ${id} is not being filled`);
    const dropped = (): boolean => this.tables.get(id) !== held;
    await this.inTheBackground(held.table.appendSteps([]), dropped);
    if (columns) held.table.respecify(columns);
    this.borrowings.link(id);
    await this.inTheBackground(held.table.buildIndexes(), dropped);
    held.change = change;
    this.lend(id);
  }

  /** Lets those who borrow from a table look up what it lends now. */
  private lend(id: number): void {
    for (const table of this.borrowings.linkBorrowers(id)) this.indexLater(table);
  }

  /** Builds what has to be built anew while others are answered, so that the next search does not have to. */
  private indexLater(table: Table): void {
    const dropped = (): boolean => ![...this.tables.values()].some((held) => held.table === table);
    void this.inTheBackground(table.buildIndexes(), dropped);
  }

  /**
   * A table as bytes, part by part (see `Table.packSteps`), while others are answered.
   * @param write takes a part; the next one waits for it
   * @returns what it is of; undefined if the parts do not fit together, or there is no such table
   */
  async pack(
    id: number,
    write: (part: PackWriter) => Promise<void>,
  ): Promise<{ change: number; columns: readonly Column[] } | undefined> {
    const held = this.tables.get(id);
    if (!held || held.change < 0) return undefined;
    const { change, table } = held;
    const { arrangement } = table;
    const same = (): boolean => this.tables.get(id) === held && table.arrangement === arrangement;
    for (const part of table.packSteps()) {
      if (part) await write(part);
      await rest(this.others);
      if (!same()) return undefined;
    }
    return { change, columns: columnsOf(held) };
  }

  /**
   * Takes a table from bytes. It does not answer before it is trusted.
   * @throws if they are not what was packed, or there is such a table, filled or being filled; then it leaves nothing
   */
  async unpack(
    id: number,
    columns: readonly Column[],
    shared: PackReader,
    segments: AsyncIterable<PackReader>,
  ): Promise<void> {
    if (this.tables.has(id)) throw new Error(`table ${id} is there`);
    const table = Table.ofPack(columns, shared);
    const held: Held = { table, change: -1, rowsRead: 0, untrusted: true };
    this.tables.set(id, held);
    try {
      for await (const segment of segments) {
        table.unpack(segment);
        held.rowsRead = table.rowCount;
        await turnOfTheLoop();
      }
      table.unpacked();
    } catch (error) {
      if (this.tables.get(id) === held) this.tables.delete(id);
      throw error;
    }
  }

  /** Holds a table of packed cells, see `Table.packedCells`; its index is built while others are answered. */
  hold(id: number, columns: readonly Column[], parts: Iterable<PackReader>, change: number): void {
    const table = Table.ofCells(columns, parts);
    this.tables.set(id, { table, change, rowsRead: table.rowCount });
    this.indexLater(table);
  }

  /**
   * Looks whether a table that was taken from bytes is one, before it is trusted.
   * @returns some of its rows, to be held against the database; undefined if it contradicts itself, or is not there
   */
  async sample(id: number): Promise<readonly Pick<StoredRow, 'id' | 'cells'>[] | undefined> {
    const held = this.tables.get(id);
    if (!held) return undefined;
    const sound = await this.inTheBackground(soundSteps(held.table), () => this.tables.get(id) !== held);
    return sound ? sampleRows(held.table, SAMPLED) : undefined;
  }

  /** Rows that a table has; undefined if it is not held. */
  rowCount(id: number): number | undefined {
    return this.tables.get(id)?.table.rowCount;
  }

  /** Forgets a table that was taken from bytes and not trusted since. */
  dropUntrusted(id: number): void {
    const held = this.tables.get(id);
    if (held?.untrusted) this.drop(id);
  }

  /** Trusts that what was taken from bytes is as the table was after a change: from now on it answers, and follows its log. */
  trust(id: number, change: number): void {
    const held = this.tables.get(id);
    if (!held?.untrusted) throw new Error(`table ${id} was not unpacked`);
    held.untrusted = false;
    held.change = change;
    this.borrowings.link(id);
    this.lend(id);
    this.indexLater(held.table);
  }

  /** Forgets a table. */
  drop(id: number): void {
    this.tables.delete(id);
    this.lend(id);
  }

  /**
   * Applies a change of the log.
   * @returns `gap` if one before it is missing: then that is to be read from the log first; `seen` if it was applied before;
   * `unknown` if the table is not held here
   */
  apply(change: Change): 'applied' | 'seen' | 'gap' | 'unknown' {
    const held = this.tables.get(change.table);
    if (!held || held.change < 0) return 'unknown';
    if (change.number <= held.change) return 'seen';
    // A change without its rows is a change that is to be read from the rows themselves.
    if (change.number > held.change + 1 || (change.rowChanges === null && change.columns === null)) return 'gap';
    if (change.columns) held.table.respecify(change.columns.after);
    const rowChanges = change.rowChanges ?? [];
    for (const { steps } of finished(this.borrowings.during(change.table, rowChanges, atOnce(held, rowChanges))))
      finished(steps());
    if (change.columns) {
      this.borrowings.link(change.table);
      this.indexLater(held.table);
      this.lend(change.table);
    }
    held.change = change.number;
    return 'applied';
  }

  /**
   * Does what `apply` does, answering others meanwhile where the change is large: until it is made the table answers as of the change before.
   * Changes of one table are applied one after the other.
   */
  async applied(change: Change): Promise<ReturnType<Holding['apply']>> {
    const before = this.applying.get(change.table);
    const work = (before ?? Promise.resolve()).then(() => this.applyInSteps(change));
    const settled = work.then(
      () => undefined,
      () => undefined,
    );
    this.applying.set(change.table, settled);
    try {
      return await work;
    } finally {
      if (this.applying.get(change.table) === settled) this.applying.delete(change.table);
    }
  }

  private async applyInSteps(change: Change): Promise<ReturnType<Holding['apply']>> {
    const { table: id, number, rowChanges, columns } = change;
    const held = this.tables.get(id);
    const isNext = held !== undefined && held.change >= 0 && number === held.change + 1;
    // Where columns and rows change together, nobody is to see the one without the other.
    if (!isNext || (!rowChanges && !columns) || (columns && rowChanges && rowChanges.length > 0))
      return this.settled(this.apply(change), held);
    if (columns) await this.alone(id, () => held.table.respecifySteps(columns.after));
    const edits = rowChanges ?? [];
    const lookUps = await this.alone(id, () => this.borrowings.during(id, edits, held.table.applySteps(edits)));
    if (columns) await this.alone(id, () => this.borrowings.linkSteps(id));
    if (this.tables.get(id) !== held) return 'unknown';
    held.change = number;
    for (const { table, steps } of lookUps ?? []) await this.alone(table, steps);
    if (columns)
      for (const borrower of this.borrowings.borrowersOf(id))
        await this.alone(borrower, () => this.borrowings.linkSteps(borrower));
    return this.settled('applied', held);
  }

  /**
   * Work on a table as it is held now, while others are answered, and after what is being done to it already: a change of its own,
   * or one of what it borrows.
   * @returns undefined if the table went meanwhile
   */
  private alone<T>(id: number, steps: () => Steps<T>): Promise<T | undefined> {
    const held = this.tables.get(id);
    if (!held) return Promise.resolve(undefined);
    const isGone = (): boolean => this.tables.get(id) !== held;
    const work = (this.working.get(held) ?? Promise.resolve()).then(() =>
      isGone() ? undefined : this.inTheBackground(steps(), isGone),
    );
    this.working.set(
      held,
      work.catch(() => undefined),
    );
    return work;
  }

  /** Builds anew what changes have left to be, while others are answered. */
  private settled<T>(done: T, held: Held | undefined): T {
    if (!held?.table.isUnsettled || this.settling.has(held.table)) return done;
    this.settling.add(held.table);
    const dropped = (): boolean => ![...this.tables.values()].some(({ table }) => table === held.table);
    void this.inTheBackground(held.table.settleSteps(), dropped).finally(() => this.settling.delete(held.table));
    return done;
  }

  /** Number of the last change that a table knows of; undefined if it is not held or not whole. */
  changeOf(id: number): number | undefined {
    const held = this.tables.get(id);
    return held && held.change >= 0 ? held.change : undefined;
  }

  /** Rises with whatever changes in a table's cells, those that it borrows among them; undefined if it is not held or not whole. */
  versionOf(id: number): number | undefined {
    const held = this.tables.get(id);
    return held && held.change >= 0 ? held.table.version : undefined;
  }

  rowsRead(id: number): number {
    return this.tables.get(id)?.rowsRead ?? 0;
  }

  /** @throws StillLoading */
  protected held(id: number): Held | undefined {
    const held = this.tables.get(id);
    if (held && held.change < 0) throw new StillLoading(held.rowsRead);
    return held;
  }

  /** Asks a table that is held; the outcome says where that cannot be. */
  protected of<T>(id: number, ask: (held: Held) => Outcome<T> | Promise<Outcome<T>>): Promise<Outcome<T>> {
    return outcomeOf(() => {
      const held = this.held(id);
      return held ? ask(held) : MISSING;
    });
  }

  protected readonly others = (): boolean => this.asking > 0;

  /** Work that gives way to whoever waits for an answer. @returns undefined if `stopped` said so in between */
  protected inTheBackground<T>(steps: Generator<void, T>, stopped = (): boolean => false): Promise<T | undefined> {
    return inStretches(steps, stopped, this.others);
  }

  /** Counts a question as being asked until it is answered. */
  protected async asked<T>(work: () => Promise<T>): Promise<T> {
    this.asking++;
    try {
      return await work();
    } finally {
      this.asking--;
    }
  }
}
