import type { FromSchema } from 'json-schema-to-ts';
import { borrowRequestSchema } from './borrow.js';
import { boxSchema } from './box.js';
import { whoSchema } from './edit.js';
import { columnSchema } from './column.js';

/** A box to be kept. Its name is how the shelf lists it. */
export const keepBoxSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['box'],
  properties: { box: { ...boxSchema, required: ['format', 'version', 'name'] }, who: whoSchema },
} as const;

export type KeepBox = FromSchema<typeof keepBoxSchema>;

/** How the cells of a column are shown and put in order; null takes it back. The cells stay as they are. */
export const columnChangeSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name'],
  properties: {
    name: columnSchema.properties.name,
    /** Another name for it; the old one goes on finding it. */
    rename: columnSchema.properties.name,
    /** Another kind, and how it reads its cells. */
    kind: columnSchema.properties.kind,
    dateOrder: columnSchema.properties.dateOrder,
    decimal: columnSchema.properties.decimal,
    shown: { oneOf: [{ type: 'null' }, ...columnSchema.properties.shown.oneOf] },
    order: { oneOf: [{ type: 'null' }, columnSchema.properties.order] },
    /** True to remove it: its cells are kept for undoing that. */
    removed: { const: true },
    who: whoSchema,
  },
} as const;

/** A new column, at the end, blank in all rows; or columns borrowed from another table; or the order in which the columns stand. */
export const columnsRequestSchema = {
  oneOf: [
    {
      type: 'object',
      additionalProperties: false,
      required: ['add'],
      properties: {
        add: {
          type: 'object',
          additionalProperties: false,
          required: ['name', 'kind'],
          properties: { name: columnSchema.properties.name, kind: columnSchema.properties.kind },
        },
        who: whoSchema,
      },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['borrow'],
      properties: { borrow: borrowRequestSchema, who: whoSchema },
    },
    {
      type: 'object',
      additionalProperties: false,
      required: ['order'],
      properties: {
        /** Names of columns, first to last; those that are not named come after them. */
        order: { type: 'array', maxItems: 500, items: columnSchema.properties.name },
        who: whoSchema,
      },
    },
  ],
} as const;
export type ColumnsRequest = FromSchema<typeof columnsRequestSchema>;

/** A value of a column that is to be another one, in all rows: renamed, or merged with one that is there. */
export const valueChangeSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['column', 'from', 'to'],
  properties: {
    column: columnSchema.properties.name,
    from: { type: 'string', minLength: 1, maxLength: 100_000 },
    to: { type: 'string', maxLength: 100_000 },
    who: whoSchema,
  },
} as const;
export type ValueChange = FromSchema<typeof valueChangeSchema>;

export type ColumnChange = FromSchema<typeof columnChangeSchema>;
