import type { FromSchema } from 'json-schema-to-ts';
import type { Box } from './box.js';
import { columnSchema } from './column.js';

/** A table as the shelf lists it. */
export const tableSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['id', 'name', 'columns', 'rows', 'version', 'changedAt'],
  properties: {
    id: { type: 'integer' },
    name: { type: 'string' },
    columns: { type: 'array', items: columnSchema },
    rows: { type: 'integer' },
    version: { type: 'integer' },
    changedAt: { type: 'string', format: 'date-time' },
  },
} as const;

export type TableSummary = FromSchema<typeof tableSchema>;

/** A box as it is kept. */
export interface StoredBox {
  readonly id: number;
  readonly tableId: number;
  readonly name: string;
  readonly version: number;
  readonly changedAt: string;
  readonly box: Box;
}

/** Everything on the shelf. */
export interface Shelf {
  readonly tables: readonly TableSummary[];
  readonly boxes: readonly StoredBox[];
}

/** Query of a request that brings a table in: its body is the CSV file. */
export const bringInQuerySchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name'],
  properties: { name: { type: 'string', minLength: 1, maxLength: 200, pattern: '\\S' } },
} as const;

export type BringInQuery = FromSchema<typeof bringInQuerySchema>;

/** Query of a request for rows in the table's own order. */
export const rowsQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    after: { type: 'integer', minimum: 0, default: 0 },
    limit: { type: 'integer', minimum: 1, maximum: 1000, default: 100 },
  },
} as const;

export type RowsQuery = Required<FromSchema<typeof rowsQuerySchema>>;

/** One stored row: raw cells as text, in the order of the table's columns. */
export interface StoredRow {
  readonly id: number;
  readonly version: number;
  readonly cells: readonly string[];
}

export interface RowList {
  readonly rows: readonly StoredRow[];
}
