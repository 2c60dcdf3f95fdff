import type { Column } from '@usual-needle/contract';
import type { Table } from '@usual-needle/engine';

/** A table as a host holds it. */
export interface Held {
  readonly table: Table;
  /** Number of the last change that is in the table; -1 while rows are still being read. */
  change: number;
  rowsRead: number;
  /** Whether the table was taken from bytes of which it is not known yet whether they fit. */
  untrusted?: boolean;
}

/** The engine keeps what a column is as it was told, which is more than it knows of. */
export function columnsOf({ table }: Held): readonly Column[] {
  return table.columns as readonly Column[];
}
