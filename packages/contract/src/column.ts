import type { FromSchema } from 'json-schema-to-ts';
import { borrowsSchema } from './borrow.js';

/** A column of a table: its name, what it holds, and how its cells are shown. */
export const columnSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name', 'kind'],
  properties: {
    name: { type: 'string', minLength: 1, maxLength: 200 },
    /** Names it had before, which still find it. */
    formerly: { type: 'array', maxItems: 100, items: { type: 'string', minLength: 1, maxLength: 200 } },
    kind: { enum: ['text', 'number', 'date', 'yes/no', 'choice'] },
    /** True once it was removed: its cells are kept, so that it can be brought back, and nobody sees it. */
    removed: { type: 'boolean' },
    /** Where it stands among the columns of the table, if not where its cells are. */
    place: { type: 'integer', minimum: 0, maximum: 10_000 },
    /** If its cells are another table's. */
    borrows: borrowsSchema,
    dateOrder: { enum: ['year first', 'day first', 'month first'] },
    decimal: { enum: ['point', 'comma'] },
    order: { type: 'array', maxItems: 1000, items: { type: 'string', maxLength: 1000 } },
    shown: {
      oneOf: [
        {
          type: 'object',
          additionalProperties: false,
          required: ['number'],
          properties: {
            number: {
              type: 'object',
              additionalProperties: false,
              required: ['decimals', 'grouping'],
              properties: { decimals: { type: 'integer', minimum: 0, maximum: 10 }, grouping: { type: 'boolean' } },
            },
          },
        },
        {
          type: 'object',
          additionalProperties: false,
          required: ['date'],
          properties: { date: { enum: ['d MMM yyyy', 'd MMMM yyyy', 'dd/MM/yyyy', 'MM/dd/yyyy', 'yyyy-MM-dd'] } },
        },
      ],
    },
  },
} as const;

export type Column = FromSchema<typeof columnSchema>;

/** Place of a column by its present name, or else by one that it had; -1 without any. One that was removed is not found. */
export function columnAt(columns: readonly Pick<Column, 'name' | 'formerly' | 'removed'>[], name: string): number {
  const present = columns.findIndex((column) => column.name === name && !column.removed);
  return present >= 0 ? present : columns.findIndex(({ formerly, removed }) => !removed && formerly?.includes(name));
}

/** Gives the places of the cells of columns that are there, in the order in which they stand in the table. */
export function presentPlaces(columns: readonly Pick<Column, 'removed' | 'place'>[]): number[] {
  return columns
    .flatMap(({ removed, place }, at) => (removed ? [] : [{ at, place: place ?? at }]))
    .sort((a, b) => a.place - b.place || a.at - b.at)
    .map(({ at }) => at);
}
