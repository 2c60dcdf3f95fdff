import type { FromSchema } from 'json-schema-to-ts';
import { boxSchema } from './box.js';
import { columnSchema } from './column.js';

/** A box to be kept. Its name is how the shelf lists it. */
export const keepBoxSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['box'],
  properties: { box: { ...boxSchema, required: ['format', 'version', 'name'] } },
} as const;

export type KeepBox = FromSchema<typeof keepBoxSchema>;

/** How the cells of a column are shown and put in order; null takes it back. The cells stay as they are. */
export const columnChangeSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name'],
  properties: {
    name: columnSchema.properties.name,
    shown: { oneOf: [{ type: 'null' }, ...columnSchema.properties.shown.oneOf] },
    order: { oneOf: [{ type: 'null' }, columnSchema.properties.order] },
  },
} as const;

export type ColumnChange = FromSchema<typeof columnChangeSchema>;
