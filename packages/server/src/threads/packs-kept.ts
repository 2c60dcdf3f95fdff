/** The change that the pack of each table is of, what has happened since, and so which tables are worth packing anew. */
import type { Change } from '@usual-needle/contract';

/** Tables of fewer rows are built in no time. */
export const WORTH_PACKING = 10_000;
/** A pack is made anew once it is so many changes behind, or those were of so many rows. */
const CHANGES_BEHIND = 2_000;
const ROWS_BEHIND = 20_000;
/** A pack that is so many changes behind is not worth reading. */
const MOST_BEHIND = 50_000;

export class PacksKept {
  private readonly changes = new Map<number, number>();
  /** Rows that changed since, of each table. */
  private readonly rows = new Map<number, number>();

  /** Tells whether a pack of a change is worth reading for a table that is at another. */
  static isWorthReading(packed: number, change: number): boolean {
    return packed <= change && change - packed <= MOST_BEHIND;
  }

  /** A change is applied to a table. */
  passed({ table, rows, columns }: Pick<Change, 'table' | 'rows' | 'columns'>): void {
    // What columns hold may have to be read anew in every row.
    this.rows.set(table, this.rowsBehind(table) + (columns ? ROWS_BEHIND : rows));
  }

  rowsBehind(table: number): number {
    return this.rows.get(table) ?? 0;
  }

  /** @param change the one that the table is at @param rows that it has */
  isWanted(table: number, change: number, rows: number): boolean {
    const packed = this.changes.get(table);
    if (rows < WORTH_PACKING) return false;
    return packed === undefined || change - packed >= CHANGES_BEHIND || this.rowsBehind(table) >= ROWS_BEHIND;
  }

  /** There is a pack of a change. @param rows that had changed before it was begun */
  has(table: number, change: number, rows = 0): void {
    this.changes.set(table, change);
    this.rows.set(table, this.rowsBehind(table) - rows);
  }

  forget(table: number): void {
    this.changes.delete(table);
    this.rows.delete(table);
  }
}
