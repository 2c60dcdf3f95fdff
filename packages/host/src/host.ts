/**
 * Tables, and what is asked of them. Searches run a stretch at a time (`searches.ts`), and so does all that takes its time, so
 * that others are answered in between.
 *
 * A table answers only once it is whole. From then on it follows the table's log: a change is applied once, and in order.
 */
import type {
  Change,
  Column,
  ExplainRequest,
  Explanation,
  NextMatch,
  NextRequest,
  Offers,
  OffersRequest,
  Pairing,
  PairingCounts,
  Scope,
  SearchRequest,
  StoredRow,
  SuggestedPairing,
} from '@usual-needle/contract';
import {
  columnNumbers,
  explainSteps,
  letterCounts,
  offering,
  overlapSteps,
  type PackReader,
  type PackWriter,
  Staying,
  Table,
  UnknownColumn,
  valueCounts,
  valueRange,
  warmUp,
} from '@usual-needle/engine';
import { wireReason } from './answer.js';
import { Borrowings } from './borrowings.js';
import { columnsOf, type Held } from './held.js';
import { keySteps, pairingSteps, type ColumnKeys, type OtherTable } from './pairings.js';
import { columnsIn, questionIn } from './scoped.js';
import { Searches } from './searches.js';
import { inStretches, rest, turnOfTheLoop } from './stretches.js';

/** Bars of a number picker's histogram. */
const RANGE_BINS = 24;

/** The table is not whole yet. */
export class StillLoading extends Error {
  constructor(readonly progress: HostProgress) {
    super(`${progress.rowsRead} rows are read so far.`);
  }
}

export interface HostProgress {
  readonly rowsRead: number;
}

export class Host {
  private readonly tables = new Map<number, Held>();
  /** Questions that are being answered. */
  private asking = 0;
  private readonly searches = new Searches();
  private readonly borrowings = new Borrowings(this.tables);

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

  /** Whoever borrows from a table looks up what it lends now. */
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
    const { structure } = table;
    const same = (): boolean => this.tables.get(id) === held && table.structure === structure;
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
    } catch (error) {
      if (this.tables.get(id) === held) this.tables.delete(id);
      throw error;
    }
  }

  /** Forgets a table that was taken from bytes and not trusted since. */
  dropUntrusted(id: number): void {
    const held = this.tables.get(id);
    if (held?.untrusted) this.drop(id);
  }

  /** What was taken from bytes is as the table was after a change: from now on it answers, and follows its log. */
  trust(id: number, change: number): void {
    const held = this.tables.get(id);
    if (!held?.untrusted) throw new Error(`table ${id} was not unpacked`);
    held.untrusted = false;
    held.change = change;
    this.borrowings.link(id);
    this.lend(id);
    this.indexLater(held.table);
  }

  private readonly others = (): boolean => this.asking > 0;

  /** Work that gives way to whoever waits for an answer. @returns undefined if `stopped` said so in between */
  private inTheBackground<T>(steps: Generator<void, T>, stopped = (): boolean => false): Promise<T | undefined> {
    return inStretches(steps, stopped, this.others);
  }

  /** Counts a question as being asked until it is answered. */
  private async asked<T>(work: () => Promise<T>): Promise<T> {
    this.asking++;
    try {
      return await work();
    } finally {
      this.asking--;
    }
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
    this.borrowings.during(change.table, rowChanges, () => held.table.apply(rowChanges));
    if (change.columns) {
      this.borrowings.link(change.table);
      this.indexLater(held.table);
      this.lend(change.table);
    }
    held.change = change.number;
    return 'applied';
  }

  /** Cells as they are stored, with those of borrowed columns looked up; undefined without the table. @throws StillLoading */
  filled(id: number, rows: readonly (readonly string[])[]): readonly (readonly string[])[] | undefined {
    const held = this.held(id);
    return held && rows.map((cells) => held.table.filledCells(cells));
  }

  /**
   * What a pairing with another table would come to.
   * @param other what of that table may be seen
   * @throws UnknownColumn, StillLoading
   */
  async pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<PairingCounts | undefined> {
    const [held, lender] = [this.held(id), this.held(pairing.table)];
    if (!held || !lender) return undefined;
    columnNumbers(columnsIn(held.table.columns, scope.visible), [pairing.key]);
    columnNumbers(columnsIn(lender.table.columns, other.visible), [pairing.matches]);
    const paired = this.borrowings.pair(held, pairing);
    if (!paired) throw new UnknownColumn(pairing.key);
    return this.inTheBackground(overlapSteps(held.table, paired.key, paired.lender));
  }

  /** What a table's columns look rows up by, for `pairings`, here or in another host. @throws StillLoading */
  async keys(scope: Scope, id: number): Promise<readonly ColumnKeys[] | undefined> {
    const held = this.held(id);
    return held && (await this.inTheBackground(keySteps(held, scope)));
  }

  /** Pairings of a table with those of others that are held here. @param others what may be seen of them */
  async pairings(own: readonly ColumnKeys[], others: readonly OtherTable[]): Promise<readonly SuggestedPairing[]> {
    const there = others.flatMap((other) => {
      const held = this.tables.get(other.id);
      return held && held.change >= 0 ? [{ ...other, held }] : [];
    });
    return (await this.inTheBackground(pairingSteps(own, there))) ?? [];
  }

  /** Number of the last change that a table knows of; undefined if it is not held or not whole. */
  changeOf(id: number): number | undefined {
    const held = this.tables.get(id);
    return held && held.change >= 0 ? held.change : undefined;
  }

  rowsRead(id: number): number {
    return this.tables.get(id)?.rowsRead ?? 0;
  }

  /** Gets the platform ready, so that nobody's first keystroke is a slow one; answers others meanwhile. */
  async warmUp(): Promise<void> {
    const steps = warmUp();
    while (!steps.next().done) await turnOfTheLoop();
  }

  /** A session is over, or its asker has gone: what it asked before need not be answered any more. */
  leave(session: string): void {
    this.searches.leave(session);
  }

  /**
   * @returns the answer as JSON, ready to send, so that it is copied between threads once; undefined without the table
   * @throws UnknownColumn, OutOfScope, StillLoading
   */
  async search(scope: Scope, id: number, request: SearchRequest): Promise<string | undefined> {
    const held = this.held(id);
    return held && this.asked(async () => JSON.stringify(await this.searches.answer(held, scope, id, request)));
  }

  /**
   * Why a question finds nothing. Rests between its searches, so that typing never waits for it; typing on ends it.
   * @throws UnknownColumn, OutOfScope, StillLoading
   */
  async explain(scope: Scope, id: number, request: ExplainRequest): Promise<Explanation | undefined> {
    const { question, session, turn = 0 } = request;
    const held = this.held(id);
    if (!held) return undefined;
    const { table } = held;
    const steps = explainSteps(table, questionIn(table.columns, scope, question));
    const stopped = (): boolean => session !== undefined && this.searches.overtaken(session, turn);
    const reasons = await inStretches(steps, stopped);
    return { reasons: (reasons ?? []).map((reason) => wireReason(reason, table)), overtaken: reasons === undefined };
  }

  /** @throws UnknownColumn, OutOfScope, StillLoading */
  async offers(scope: Scope, id: number, request: OffersRequest): Promise<Offers | undefined> {
    const { question, column, of = 'values', holding = '', offset = 0 } = request;
    const held = this.held(id);
    if (!held) return undefined;
    const { table } = held;
    const asked = questionIn(table.columns, scope, question);
    const [number] = columnNumbers(columnsIn(table.columns, scope.narrowable), [column]);
    const search = await this.searches.run(() => offering(table, asked, number));
    if (of === 'range') return { values: [], count: 0, range: valueRange(search, number, RANGE_BINS) ?? null };
    if (of === 'values') return { ...valueCounts(search, number, { holding, offset }), range: null };
    const values = letterCounts(search, number, of);
    return { values, count: values.length, range: null };
  }

  /** @throws UnknownColumn, OutOfScope, StillLoading */
  async next(scope: Scope, id: number, request: NextRequest): Promise<NextMatch | undefined> {
    const { question, from, backwards = false, stays = [] } = request;
    const held = this.held(id);
    if (!held) return undefined;
    const search = await this.searches.run(() => this.searches.searchFor(held.table, scope, id, { question }).search);
    const list = stays.length > 0 ? new Staying(search.view, stays) : search.view;
    return { index: list.nextMatch(from, backwards) ?? null };
  }

  /** @throws StillLoading */
  private held(id: number): Held | undefined {
    const held = this.tables.get(id);
    if (held && held.change < 0) throw new StillLoading({ rowsRead: held.rowsRead });
    return held;
  }
}
