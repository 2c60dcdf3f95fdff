/**
 * Keys that edits and undos are asked under. What is sent again under its key, since its answer did not come, is answered as it was,
 * also where it changed nothing; a key that comes with something else is refused, since to answer would be to drop it.
 */
import { createHash } from 'node:crypto';
import { and, eq, lt } from 'drizzle-orm';
import type { EditRequest } from '@usual-needle/contract';
import type { Transaction } from './committing.js';
import type { Database } from './database.js';
import { KeyTaken } from './refusals.js';
import { changes, editKeys } from './schema.js';
import { daysAgo } from './tables.js';

/** Days for which a key is remembered: what is sent again is sent again sooner. */
const DAYS_KEPT = 7;

function digest(asked: unknown): string {
  return createHash('sha256').update(JSON.stringify(asked)).digest('base64url');
}

/** A digest of what an edit asks, whoever asks it. */
export function editAsked({ kind, columns, changed, added, removed }: EditRequest): string {
  const cells = changed?.map(({ id, was, now }) => [id, was, now]);
  const gone = removed?.map(({ id, seen }) => [id, seen]);
  return digest(['edit', kind, columns, cells ?? [], added ?? [], gone ?? []]);
}

/** A digest of what an undo asks. */
export function undoAsked(number: number, part: boolean): string {
  return digest(['undo', number, part]);
}

/**
 * Gives what was done under a key; undefined if nothing was.
 * @throws KeyTaken if it was asked for something else
 */
export async function doneUnder(
  transaction: Transaction,
  tableId: number,
  key: string | undefined,
  asked: string,
): Promise<{ readonly number: number; readonly made: boolean } | undefined> {
  if (key === undefined) return undefined;
  const [known] = await transaction
    .select()
    .from(editKeys)
    .where(and(eq(editKeys.tableId, tableId), eq(editKeys.key, key)));
  if (known) {
    if (known.asked !== asked) throw new KeyTaken();
    return known;
  }
  // A change of before keys were kept here says only what it became.
  const [change] = await transaction
    .select({ number: changes.number })
    .from(changes)
    .where(and(eq(changes.tableId, tableId), eq(changes.key, key)));
  return change && { number: change.number, made: true };
}

export async function keepKey(
  transaction: Transaction,
  tableId: number,
  key: string | undefined,
  asked: string,
  done: { readonly number: number; readonly made: boolean },
): Promise<void> {
  if (key !== undefined) await transaction.insert(editKeys).values({ tableId, key, asked, ...done });
}

/** Forgets keys of long ago. The log has those of changes for good. */
export async function forgetKeys(db: Database['db']): Promise<void> {
  await db.delete(editKeys).where(lt(editKeys.at, daysAgo(DAYS_KEPT)));
}
