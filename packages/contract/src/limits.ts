/** Limits of what the server takes. Each is checked before the work that it limits. */
export const LIMITS = {
  /** Columns of one table. */
  columns: 500,
  /** UTF-16 units of one column's name, table's name or box's name. */
  name: 200,
  /** UTF-16 units of one cell. */
  cell: 100_000,
  /** Rows of one table. */
  rows: 10_000_000,
  /** Bytes of a file that is brought in. */
  file: 2 * 1024 * 1024 * 1024,
  /** Rows that one refresh may add, change or remove. */
  refreshed: 200_000,
  /** UTF-16 units of all cells that one refresh adds, changes or removes, before and after. */
  refreshedText: 256 * 1024 * 1024,
  /** Bytes of a workbook, which has to be held whole. */
  workbook: 64 * 1024 * 1024,
  /** Bytes that a workbook may unpack to, and UTF-16 units of all that its cells hold. */
  workbookUnpacked: 1024 * 1024 * 1024,
  workbookText: 512 * 1024 * 1024,
  /** Bytes that a file may unpack to. */
  unpacked: 4 * 1024 * 1024 * 1024,
  /** UTF-16 units of one row, all its cells together. */
  row: 8 * 1024 * 1024,
  /** Lists and objects one within the other, in JSON. */
  depth: 64,
  /** Rows that one edit by hand may add, change or remove. */
  edited: 20_000,
  /** Bytes of a request that edits rows. */
  edits: 4 * 1024 * 1024,
  /** Bytes of a request that is JSON. */
  json: 1024 * 1024,
  /** Rows of the tables that are looked at as they were, all that are held together. */
  earlier: 1_000_000,
  /** Days for which what was deleted can be brought back. */
  daysKept: 30,
} as const;

/** Largest number of a table, a box or a change: what the database has for them. */
export const LARGEST_NUMBER = 2_147_483_647;
/** Largest number of a table as it was: those are told apart from the others by being larger than any of the database. */
export const LARGEST_EARLIER = 9_999_999_999;
/** Largest whole number that is told apart from its neighbours: what ids and places in a list may be. */
export const LARGEST = Number.MAX_SAFE_INTEGER;
