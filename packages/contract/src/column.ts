import type { FromSchema } from 'json-schema-to-ts';

/** A column of a table: its name, what it holds, and how its cells are shown. */
export const columnSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name', 'kind'],
  properties: {
    name: { type: 'string', minLength: 1, maxLength: 200 },
    kind: { enum: ['text', 'number', 'date', 'yes/no', 'choice'] },
    dateOrder: { enum: ['year first', 'day first', 'month first'] },
    order: { type: 'array', maxItems: 1000, items: { type: 'string' } },
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
