import type { FromSchema } from 'json-schema-to-ts';

/** Forms that a file can be in; each may be packed by gzip besides. */
export const FORMATS = ['csv', 'json', 'ndjson', 'xlsx', 'ods'] as const;
export type FileFormat = (typeof FORMATS)[number];

export const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252', 'iso-8859-1', 'iso-8859-15'] as const;
export type Encoding = (typeof ENCODINGS)[number];

/**
 * How a file is read, where that is not to be found from the file itself, and what is done where it does not fit: what the
 * sentence over a preview says, and what can be said with an upload. What is left out is found, or refused.
 */
export const fileChoicesSchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    format: { enum: FORMATS },
    /** The sign between cells. */
    delimiter: { type: 'string', minLength: 1, maxLength: 1, pattern: '^[^"\\r\\n]$' },
    encoding: { enum: ENCODINGS },
    /** Whether the first row holds the columns' names. */
    header: { type: 'boolean' },
    /** Name of a workbook's sheet; the first, if not said. */
    sheet: { type: 'string', maxLength: 200 },
    /** The columns, by their places in the file. */
    columns: {
      type: 'array',
      maxItems: 500,
      items: {
        type: 'object',
        additionalProperties: false,
        properties: {
          /** False leaves it out. */
          take: { type: 'boolean' },
          name: { type: 'string', minLength: 1, maxLength: 200 },
          kind: { enum: ['text', 'number', 'date', 'yes/no', 'choice'] },
          dateOrder: { enum: ['year first', 'day first', 'month first'] },
          decimal: { enum: ['point', 'comma'] },
          /** The first of the hundred years that years of two digits stand for: 1927 makes 26 the year 2026. */
          firstYear: { type: 'integer', minimum: 1000, maximum: 9900 },
          /** The way with words that say that there is no value, such as n/a. */
          noValue: { enum: ['keep', 'blank'] },
          /** Values, each with what is written in its place. */
          instead: {
            type: 'array',
            maxItems: 200,
            items: { type: 'array', minItems: 2, maxItems: 2, items: { type: 'string', maxLength: 200 } },
          },
        },
      },
    },
    /** The way with spaces before and after what a cell holds. */
    spaces: { enum: ['keep', 'trim'] },
    /** The way with rows whose cells are all those of a row before. */
    repeated: { enum: ['keep', 'leave out'] },
    /** The way with a row that has more cells than the header. */
    tooMany: { enum: ['refuse', 'join', 'drop', 'leave out'] },
    /** The way with a row that has fewer. */
    tooFew: { enum: ['refuse', 'fill', 'leave out'] },
    /**
     * The way with what cannot be kept as it is: columns without a name or of one name, NUL, halves of letters, bytes that are not of
     * the encoding, cells too long.
     */
    unkeepable: { enum: ['refuse', 'mend'] },
  },
} as const;

export type FileChoices = FromSchema<typeof fileChoicesSchema>;

/** Choices that bring a file in whatever is wrong with it, keeping as much of it as can be. */
export const LENIENT = { tooMany: 'join', tooFew: 'fill', unkeepable: 'mend' } as const satisfies FileChoices;
