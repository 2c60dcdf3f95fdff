/** Suggestions of columns of other tables in which the cells of a table's columns are found. */
import type { Column, Scope, SuggestedPairing } from '@usual-needle/contract';
import { isNearlyUnique, someKeys, type Steps } from '@usual-needle/engine';
import { columnsOf, type Held } from './held.js';
import { isThere } from './scoped.js';

/** Distinct keys of a column that are looked at for a suggestion. */
const KEYS = 2_000;
/** A column with fewer distinct keys says too little. */
const FEW_KEYS = 5;
/** Share of the keys that has to be found. */
const ENOUGH = 0.5;
const SUGGESTED = 8;

/** A table beside the one that is asked about, and what may be seen of it. */
export interface OtherTable {
  readonly id: number;
  readonly scope: Scope;
}

/** Numbers of the columns that rows can be looked up by. */
function keyColumns(held: Held, scope: Scope): number[] {
  const fits = (column: Column): boolean =>
    isThere(column, scope.visible) && !column.borrows && column.kind !== 'yes/no' && column.kind !== 'date';
  return columnsOf(held).flatMap((column, i) => (fits(column) ? [i] : []));
}

/** Keys that a column's cells look rows up by, as many as are looked at. */
export interface ColumnKeys {
  readonly column: string;
  readonly keys: ReadonlySet<string>;
}

/** Gives what a table's columns look rows up by; a column with few keys says too little. */
export function* keySteps(held: Held, scope: Scope): Steps<readonly ColumnKeys[]> {
  const own: ColumnKeys[] = [];
  for (const at of keyColumns(held, scope)) {
    const keys = yield* someKeys(held.table, at, KEYS);
    if (keys.size >= FEW_KEYS) own.push({ column: held.table.columns[at].name, keys });
  }
  return own;
}

/** Pairings of a table with others, by what its columns look rows up by. */
export function* pairingSteps(
  own: readonly ColumnKeys[],
  others: readonly (OtherTable & { readonly held: Held })[],
): Steps<readonly SuggestedPairing[]> {
  const found: SuggestedPairing[] = [];
  for (const other of others)
    for (const at of keyColumns(other.held, other.scope)) {
      if (!isNearlyUnique(other.held.table, at)) continue;
      const there = yield* someKeys(other.held.table, at, Infinity);
      const matches = other.held.table.columns[at].name;
      for (const { column, keys } of own) {
        let both = 0;
        for (const key of keys) if (there.has(key)) both++;
        if (both >= keys.size * ENOUGH) found.push({ table: other.id, key: column, matches, share: both / keys.size });
      }
    }
  return found;
}

/** Gives the pairings that suggest themselves, best first. */
export function bestOf(found: readonly SuggestedPairing[]): readonly SuggestedPairing[] {
  return [...found].sort((a, b) => b.share - a.share).slice(0, SUGGESTED);
}
