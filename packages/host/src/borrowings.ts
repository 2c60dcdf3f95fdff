/**
 * The links between tables that borrow from each other. A borrowed column is linked to the table that lends once both are held; from then on it
 * follows the changes of both. A table that is not held lends nothing: the cells are blank until it is.
 *
 * Only cells of a table's own are lent, and looked up by, so no borrowing ever leads back to itself.
 */
import { columnAt, type Borrows, type Column, type Pairing } from '@usual-needle/contract';
import { type Borrowing, keyOf, Lender, type RowEdit, type Steps, type Table } from '@usual-needle/engine';
import { columnsOf, type Held } from './held.js';

/** The most keys whose rows are looked up one by one; with more it is quicker to look every row up anew. */
const MANY_KEYS = 2_000;

/** Number of a column of a table's own; -1 without one. */
function ownColumn(columns: readonly Column[], name: string): number {
  const at = columnAt(columns, name);
  return at >= 0 && !columns[at].borrows ? at : -1;
}

/** Work on a table that borrows, after what it borrows has changed. */
interface LookUp {
  readonly table: number;
  readonly steps: () => Steps<void>;
}

/** A pairing, its columns found. */
interface Paired {
  readonly key: number;
  readonly lender: Lender;
}

export class TableLinks {
  private readonly lenders = new WeakMap<Table, Map<number, Lender>>();
  /** The tables that the borrowed columns of each table are linked to, so that nothing is linked twice. */
  private readonly links = new WeakMap<Table, Map<number, string>>();
  private readonly numbers = new WeakMap<Table, number>();
  private nextNumber = 1;

  constructor(private readonly tables: ReadonlyMap<number, Held>) {}

  /** Tables that borrow from a table. */
  borrowersOf(id: number): number[] {
    return [...this.tables].flatMap(([borrower, held]) => (this.borrowed(held, id).length > 0 ? [borrower] : []));
  }

  /** Numbers of the columns that a table borrows, of one lender or of any. */
  private borrowed(held: Held, from?: number): number[] {
    return columnsOf(held).flatMap(({ borrows, removed }, i) =>
      borrows && !removed && (from === undefined || borrows.table === from) ? [i] : [],
    );
  }

  /** @returns undefined if a column is not there, or the lender is not held, or not whole */
  pair(held: Held, { table, key, matches }: Pairing): Paired | undefined {
    const lender = this.tables.get(table);
    if (!lender || lender.change < 0 || lender === held) return undefined;
    const own = ownColumn(columnsOf(held), key);
    const there = ownColumn(columnsOf(lender), matches);
    return own < 0 || there < 0 ? undefined : { key: own, lender: this.lenderOf(lender.table, there) };
  }

  private lenderOf(table: Table, key: number): Lender {
    const lenders = this.lenders.get(table) ?? new Map<number, Lender>();
    this.lenders.set(table, lenders);
    const lender = lenders.get(key) ?? new Lender(table, key);
    lenders.set(key, lender);
    return lender;
  }

  /** Links the borrowed columns of a table that are not linked, or not so. @returns true if there were any */
  link(id: number): boolean {
    const table = this.tables.get(id)?.table;
    const changed = this.relinked(id);
    for (const { column, borrowing } of changed) table!.borrow(column, borrowing);
    return changed.length > 0;
  }

  /** Does what `link` does, a little at a time. */
  *linkSteps(id: number): Steps<void> {
    const table = this.tables.get(id)?.table;
    for (const { column, borrowing } of this.relinked(id)) yield* table!.borrowSteps(column, borrowing);
  }

  /** The borrowed columns of a table that are to be linked otherwise than they are, and from now on are taken for linked so. */
  private relinked(id: number): { readonly column: number; readonly borrowing: Borrowing }[] {
    const held = this.tables.get(id);
    if (!held) return [];
    const links = this.links.get(held.table) ?? new Map<number, string>();
    this.links.set(held.table, links);
    const changed: { column: number; borrowing: Borrowing }[] = [];
    for (const column of this.borrowed(held)) {
      const borrows = columnsOf(held)[column].borrows!;
      const lent = this.tables.get(borrows.table);
      // One that is being read anew lends what it had until it is there.
      if (lent && lent.change < 0 && links.has(column)) continue;
      const { link, find, key } = this.linkOf(held, borrows);
      if (links.get(column) === link) continue;
      links.set(column, link);
      changed.push({ column, borrowing: { key, find } });
    }
    return changed;
  }

  private linkOf(
    held: Held,
    borrows: Borrows,
  ): { readonly link: string; readonly key: number; readonly find: (cell: string) => string } {
    const paired = this.pair(held, borrows);
    const lent = this.tables.get(borrows.table);
    const column = lent ? ownColumn(columnsOf(lent), borrows.column) : -1;
    if (!paired || !lent || column < 0) return { link: 'nothing', key: 0, find: () => '' };
    const { key, lender } = paired;
    const { several } = borrows;
    const link = JSON.stringify([this.numberOf(lent.table), key, lender.key, column, several]);
    return { link, key, find: (cell) => lender.cell(keyOf(cell), column, several) };
  }

  /** Tables are told apart, not their ids: one that is read anew is another one. */
  private numberOf(table: Table): number {
    const number = this.numbers.get(table) ?? this.nextNumber++;
    this.numbers.set(table, number);
    return number;
  }

  /** Links whoever borrows from a table. @returns those whose cells are others now */
  linkBorrowers(id: number): Table[] {
    return this.borrowersOf(id).flatMap((borrower) => (this.link(borrower) ? [this.tables.get(borrower)!.table] : []));
  }

  /**
   * Follows a change of a table's rows, a little at a time.
   * @param apply makes it
   * @returns what has to be looked up anew then, table by table
   */
  *during(id: number, edits: readonly RowEdit[], apply: Steps<void>): Steps<readonly LookUp[]> {
    const table = this.tables.get(id)?.table;
    const borrowers = this.borrowersOf(id);
    // A table that nobody borrows from any more need not be followed by its keys.
    if (table && borrowers.length === 0) this.lenders.delete(table);
    const lenders = [...((table && this.lenders.get(table)?.values()) ?? [])];
    const before = new Map<Lender, readonly (string | undefined)[]>();
    for (const lender of lenders) before.set(lender, yield* lender.cellsBefore(edits));
    yield* apply;
    const keys = new Map<Lender, ReadonlySet<string>>();
    for (const lender of lenders) keys.set(lender, yield* lender.follow(edits, before.get(lender)!));
    return borrowers.map((borrower) => ({
      table: borrower,
      steps: () => this.lookUp(this.tables.get(borrower), id, keys),
    }));
  }

  private *lookUp(held: Held | undefined, from: number, keys: ReadonlyMap<Lender, ReadonlySet<string>>): Steps<void> {
    for (const column of held ? this.borrowed(held, from) : []) {
      const borrows = columnsOf(held!)[column].borrows!;
      const paired = this.pair(held!, borrows);
      const touched = paired && keys.get(paired.lender);
      if (!touched || touched.size === 0) continue;
      if (touched.size <= MANY_KEYS) yield* held!.table.lookUpSteps(column, touched);
      else yield* held!.table.borrowSteps(column, this.linkOf(held!, borrows));
    }
  }
}
