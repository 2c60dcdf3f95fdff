/**
 * The rows of a change, as the log keeps it: with the change where it is small, in pieces beside it where it is not, since
 * one value of a database holds some hundred megabytes at most, and takes their whole size of memory to be written or read.
 */
import { and, desc, eq, sql } from 'drizzle-orm';
import type { Transaction } from './committing.js';
import type { Database } from './database.js';
import { changeRows, changes } from './schema.js';
import type { LoggedRow } from './said.js';

/** Letters of one piece, and of what stands with the change itself. */
const PIECE = 2 * 1024 * 1024;

type Reads = Pick<Database['db'], 'select'>;

/** Puts things into lists of about so many letters. @param size letters of one of them */
export function* cutBySize<T>(all: Iterable<T>, size: (one: T) => number, most = PIECE): Generator<T[]> {
  let some: T[] = [];
  let letters = 0;
  for (const one of all) {
    const own = size(one);
    if (some.length > 0 && letters + own > most) {
      yield some;
      some = [];
      letters = 0;
    }
    some.push(one);
    letters += own;
  }
  if (some.length > 0) yield some;
}

/** Letters of cells, and what they are written with. */
export function cellsSize(cells: readonly string[] | null): number {
  return cells ? cells.reduce((sum, cell) => sum + cell.length + 3, 2) : 4;
}

function loggedSize({ before, after, said }: LoggedRow): number {
  const texts = [...Object.values(said?.before ?? {}), ...Object.values(said?.after ?? {})];
  return 40 + cellsSize(before) + cellsSize(after) + texts.reduce((sum, text) => sum + text.length + 10, 0);
}

/** Rows of a change, to be written in so many pieces as they need. */
export function pieced(rows: readonly LoggedRow[]): LoggedRow[][] {
  return [...cutBySize(rows, loggedSize)];
}

/** Writes the pieces of a change that is written already. */
export async function writePieces(
  transaction: Transaction,
  tableId: number,
  number: number,
  pieces: readonly LoggedRow[][],
): Promise<void> {
  for (const [piece, rowChanges] of pieces.entries())
    await transaction.insert(changeRows).values({ tableId, number, piece, rowChanges });
}

/** Some of the rows of a change that is kept in pieces, piece by piece. */
export async function* piecesOf(db: Reads, tableId: number, number: number): AsyncGenerator<readonly LoggedRow[]> {
  for (let piece = 0; ; piece++) {
    const [found] = await db
      .select({ rowChanges: changeRows.rowChanges })
      .from(changeRows)
      .where(and(eq(changeRows.tableId, tableId), eq(changeRows.number, number), eq(changeRows.piece, piece)));
    if (!found) return;
    yield found.rowChanges;
  }
}

/** All that a change did row by row; null where that is not kept. */
export async function loggedRows(
  db: Reads,
  {
    tableId,
    number,
    rowChanges,
    pieces,
  }: Pick<typeof changes.$inferSelect, 'tableId' | 'number' | 'rowChanges' | 'pieces'>,
): Promise<readonly LoggedRow[] | null> {
  if (pieces === 0) return rowChanges;
  const all: LoggedRow[] = [];
  for await (const some of piecesOf(db, tableId, number)) for (const row of some) all.push(row);
  return all;
}

/** The last changes in pieces that did something to one row, last first, with what they did to it. */
export function piecesAbout(db: Reads, tableId: number, row: number, limit: number) {
  return db
    .select({
      number: changes.number,
      kind: changes.kind,
      who: changes.who,
      at: changes.at,
      one: sql<LoggedRow>`jsonb_path_query_first(${changeRows.rowChanges}, '$[*] ? (@.id == $id)', ${JSON.stringify({ id: row })}::jsonb)`,
    })
    .from(changeRows)
    .innerJoin(changes, and(eq(changes.tableId, changeRows.tableId), eq(changes.number, changeRows.number)))
    .where(
      and(eq(changeRows.tableId, tableId), sql`${changeRows.rowChanges} @> ${JSON.stringify([{ id: row }])}::jsonb`),
    )
    .orderBy(desc(changeRows.number))
    .limit(limit);
}
