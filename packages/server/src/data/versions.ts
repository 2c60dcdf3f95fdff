import { sql, type Column, type SQL } from 'drizzle-orm';

/** Versions that a change may have been made on; `any` for one that does not mind. */
export type Versions = readonly number[] | 'any';

/** The condition that a column holds one of them. */
export function isOneOf(column: Column, versions: Versions): SQL | undefined {
  return versions === 'any' ? undefined : sql`${column} = any(${sql.param(versions)}::int[])`;
}
