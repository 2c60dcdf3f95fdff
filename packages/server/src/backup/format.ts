/**
 * The file of a backup: gzip (RFC 1952) of lines of JSON. The first says what it is and of which moment; each `table` line says which
 * table of the database the lines after it are rows of, as PostgreSQL tells them as JSON; the last has the number of lines before it and
 * their digest (SHA-256), by which a file that was cut off or damaged is known.
 */
export const FORMAT = 'usual-needle backup';
export const VERSION = 1;

export interface Header {
  readonly format: typeof FORMAT;
  readonly version: number;
  /** The number of migrations that the database has had. */
  readonly schema: number;
  /** The moment that it is of, as a date-time. */
  readonly at: string;
}

/** The end of a backup. */
export interface End {
  readonly end: true;
  readonly lines: number;
  readonly sha256: string;
}

/**
 * The tables of the database, those that others refer to first. Left out are sign-ins, so that whoever has the file cannot go on with
 * one; what was sent and may be sent again; and what can be made anew, as packs are.
 */
export const TABLES = [
  'people',
  'access_rules',
  'access_changes',
  'tables',
  'boxes',
  'roles',
  'invitations',
  'tokens',
  'shares',
  'sources',
  'source_runs',
  'changes',
  'change_rows',
  'rows',
] as const;
export type TableName = (typeof TABLES)[number];

/** The tables whose `id` goes on counting. */
export const COUNTED: readonly TableName[] = ['people', 'access_changes', 'tables', 'boxes', 'tokens'];

/** The file is no backup, or none that can be put back here. */
export class NoBackup extends Error {}
