/** Records as PostgreSQL keeps them. A row is its raw cells as text, lossless; kinds and shown forms are the column's. */
import { bigint, integer, jsonb, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core';
import type { Box, Column } from '@usual-needle/contract';

export const tables = pgTable('tables', {
  id: serial('id').primaryKey(),
  name: text('name').notNull(),
  columns: jsonb('columns').$type<Column[]>().notNull(),
  version: integer('version').notNull().default(1),
  rowCount: integer('row_count').notNull().default(0),
  /** Set once every row has been brought in; a table without it is the rest of an import that did not end. */
  completedAt: timestamp('completed_at', { withTimezone: true, mode: 'string' }),
  changedAt: timestamp('changed_at', { withTimezone: true, mode: 'string' }).notNull().defaultNow(),
});

export const rows = pgTable(
  'rows',
  {
    tableId: integer('table_id')
      .notNull()
      .references(() => tables.id, { onDelete: 'cascade' }),
    /** Rises in the table's own order. */
    id: bigint('id', { mode: 'number' }).notNull(),
    version: integer('version').notNull().default(1),
    cells: jsonb('cells').$type<readonly string[]>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.tableId, table.id] })],
);

export const boxes = pgTable('boxes', {
  id: serial('id').primaryKey(),
  tableId: integer('table_id')
    .notNull()
    .references(() => tables.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  definition: jsonb('definition').$type<Box>().notNull(),
  version: integer('version').notNull().default(1),
  changedAt: timestamp('changed_at', { withTimezone: true, mode: 'string' }).notNull().defaultNow(),
  /** A deleted box stays, so that deleting can be undone. */
  deletedAt: timestamp('deleted_at', { withTimezone: true, mode: 'string' }),
});
