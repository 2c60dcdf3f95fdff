/** Reading and writing tables and their rows. */
import { and, asc, count, eq, gt, isNotNull, isNull, sql } from 'drizzle-orm';
import type { PgUpdateSetSource } from 'drizzle-orm/pg-core';
import type { Box, Column, StoredBox, StoredRow, TableSummary } from '@usual-needle/contract';
import type { Database } from './database.js';
import { boxes, rows, tables } from './schema.js';

/** Rows written by one statement. */
const WRITE_BATCH = 1_000;

export class Records {
  constructor(private readonly db: Database['db']) {}

  private select() {
    return this.db
      .select({
        id: tables.id,
        name: tables.name,
        columns: tables.columns,
        version: tables.version,
        changedAt: tables.changedAt,
        rows: tables.rowCount,
      })
      .from(tables);
  }

  async listTables(): Promise<TableSummary[]> {
    const found = await this.select().where(isNotNull(tables.completedAt)).orderBy(asc(tables.id));
    return found.map((table) => summary(table));
  }

  async findTable(id: number): Promise<TableSummary | undefined> {
    const [table] = await this.select().where(and(eq(tables.id, id), isNotNull(tables.completedAt)));
    return table && summary(table);
  }

  /** Rows of a table after the row `after`, in the table's own order. */
  readRows(tableId: number, after: number, limit: number): Promise<StoredRow[]> {
    return this.db
      .select({ id: rows.id, version: rows.version, cells: rows.cells })
      .from(rows)
      .where(and(eq(rows.tableId, tableId), gt(rows.id, after)))
      .orderBy(asc(rows.id))
      .limit(limit);
  }

  /**
   * Stores a new table, all of it or nothing: until the last row is in, no one sees it.
   * @returns its id
   */
  async addTable(name: string, columns: readonly Column[], cells: readonly (readonly string[])[]): Promise<number> {
    const [{ id }] = await this.db.insert(tables).values({ name, columns: [...columns] }).returning({ id: tables.id });
    try {
      for (let i = 0; i < cells.length; i += WRITE_BATCH) {
        const batch = JSON.stringify(cells.slice(i, i + WRITE_BATCH));
        await this.db.execute(
          sql`insert into ${rows} (table_id, id, cells) select ${id}, ${i} + n, cells from jsonb_array_elements(${batch}::jsonb) with ordinality as batch (cells, n)`,
        );
      }
      await this.db
        .update(tables)
        .set({ rowCount: cells.length, completedAt: sql`now()`, changedAt: sql`now()` })
        .where(eq(tables.id, id));
    } catch (error) {
      await this.db.delete(tables).where(eq(tables.id, id));
      throw error;
    }
    return id;
  }

  async listBoxes(): Promise<StoredBox[]> {
    const found = await this.db.select().from(boxes).where(isNull(boxes.deletedAt)).orderBy(asc(boxes.id));
    return found.map((box) => storedBox(box));
  }

  async findBox(id: number): Promise<StoredBox | undefined> {
    const [box] = await this.db.select().from(boxes).where(and(eq(boxes.id, id), isNull(boxes.deletedAt)));
    return box && storedBox(box);
  }

  async addBox(tableId: number, name: string, definition: Box): Promise<StoredBox> {
    const [box] = await this.db.insert(boxes).values({ tableId, name, definition }).returning();
    return storedBox(box);
  }

  /** @returns undefined if the box is not there, or not in that version any more */
  changeBox(id: number, version: number, name: string, definition: Box): Promise<StoredBox | undefined> {
    return this.writeBox(id, version, { name, definition, deletedAt: null });
  }

  /** @returns undefined if the box is not there, or not in that version any more */
  deleteBox(id: number, version: number): Promise<StoredBox | undefined> {
    return this.writeBox(id, version, { deletedAt: sql`now()` });
  }

  /** Brings a deleted box back. @returns undefined if there is none */
  async restoreBox(id: number): Promise<StoredBox | undefined> {
    const [box] = await this.db
      .update(boxes)
      .set({ deletedAt: null, version: sql`${boxes.version} + 1` })
      .where(and(eq(boxes.id, id), isNotNull(boxes.deletedAt)))
      .returning();
    return box && storedBox(box);
  }

  private async writeBox(
    id: number,
    version: number,
    change: PgUpdateSetSource<typeof boxes>,
  ): Promise<StoredBox | undefined> {
    const [box] = await this.db
      .update(boxes)
      .set({ ...change, version: version + 1, changedAt: sql`now()` })
      .where(and(eq(boxes.id, id), eq(boxes.version, version), isNull(boxes.deletedAt)))
      .returning();
    return box && storedBox(box);
  }

  /** @returns undefined if the table is not there, or not in that version any more */
  async changeColumns(id: number, version: number, columns: readonly Column[]): Promise<TableSummary | undefined> {
    const changed = await this.db
      .update(tables)
      .set({ columns: [...columns], version: version + 1 })
      .where(and(eq(tables.id, id), eq(tables.version, version)))
      .returning({ id: tables.id });
    return changed.length === 0 ? undefined : this.findTable(id);
  }

  /** Takes away what imports that never ended left behind. */
  async sweep(): Promise<void> {
    await this.db.delete(tables).where(isNull(tables.completedAt));
  }

  /** True if no table was ever brought in. */
  async isNew(): Promise<boolean> {
    const [{ tableCount }] = await this.db.select({ tableCount: count() }).from(tables);
    return tableCount === 0;
  }
}

function summary(table: TableSummary): TableSummary {
  return { ...table, changedAt: new Date(table.changedAt).toISOString() };
}

function storedBox({ id, tableId, name, version, definition, changedAt }: typeof boxes.$inferSelect): StoredBox {
  return { id, tableId, name, version, box: definition, changedAt: new Date(changedAt).toISOString() };
}
