/**
 * The last files' words on a table of before that was kept: its log knows what was edited by hand since it was refreshed last. It is
 * read once, when such a table is to be refreshed.
 */
import { and, asc, eq, gt, sql } from 'drizzle-orm';
import type { Database } from './database.js';
import { cutBySize, loggedRows } from './logged-rows.js';
import { afterEdit, type Said } from './said.js';
import { changes, rows, tables } from './schema.js';

/** Makes `said` of a table's rows known, if it is not. Until it is over nobody changes the table. */
export async function learnSaid({ db }: Database, tableId: number): Promise<void> {
  const [known] = await db.select({ known: tables.saidKnown }).from(tables).where(eq(tables.id, tableId));
  if (!known || known.known) return;
  await db.transaction(async (transaction) => {
    const [table] = await transaction.select().from(tables).where(eq(tables.id, tableId)).for('update');
    if (!table || table.saidKnown) return;
    const said = new Map<number, Said | null>();
    const refreshes = new Set<number>();
    for (let number = 0; ;) {
      const [change] = await transaction
        .select()
        .from(changes)
        .where(and(eq(changes.tableId, tableId), gt(changes.number, number)))
        .orderBy(asc(changes.number))
        .limit(1);
      if (!change) break;
      ({ number } = change);
      const isRefresh = change.kind === 'refreshed' || (change.undoes !== null && refreshes.has(change.undoes));
      if (isRefresh) refreshes.add(number);
      // A refresh of that time wrote all that its file said.
      if (change.kind === 'refreshed') said.clear();
      for (const { id, before, after } of (await loggedRows(transaction, change)) ?? []) {
        if (isRefresh || after === null) said.delete(id);
        // What an undo brings back was in a file, or was not: that is not known any more.
        else if (before !== null || change.kind !== 'undone')
          said.set(id, afterEdit(before, said.get(id) ?? null, after));
      }
    }
    const kept = [...said].flatMap(([id, one]) => (one ? [{ id, said: JSON.stringify(one) }] : []));
    for (const some of cutBySize(kept, (one) => one.said.length)) {
      const json = JSON.stringify(some);
      await transaction.execute(
        sql`update ${rows} set said = batch.said from jsonb_to_recordset(${json}::jsonb) as batch (id bigint, said text) where ${rows.tableId} = ${tableId} and ${rows.id} = batch.id`,
      );
    }
    await transaction.update(tables).set({ saidKnown: true }).where(eq(tables.id, tableId));
  });
}
