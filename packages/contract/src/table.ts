import type { FromSchema } from 'json-schema-to-ts';
import type { Box } from './box.js';
import { columnSchema, presentPlaces, type Column } from './column.js';
import { fileChoicesSchema } from './file-choices.js';
import { whoSchema } from './edit.js';
import { LARGEST, LARGEST_NUMBER } from './limits.js';

const {
  spaces,
  repeated,
  columns: {
    items: {
      properties: { firstYear, noValue, instead },
    },
  },
} = fileChoicesSchema.properties;

/** The tidying of the file that a table came from last: the next file is tidied so, too. */
const tidiedSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['columns'],
  properties: {
    spaces,
    repeated,
    columns: {
      type: 'array',
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['file'],
        properties: { file: { type: 'string' }, firstYear, noValue, instead },
      },
    },
  },
} as const;
export type Tidied = FromSchema<typeof tidiedSchema>;

/** How a table was brought in or refreshed: what the next refresh begins with. */
const refreshedBySchema = {
  type: 'object',
  additionalProperties: false,
  required: ['key', 'gone', 'columns'],
  properties: {
    key: { type: 'array', items: { type: 'string' } },
    gone: { enum: ['keep', 'remove'] },
    /** Columns of the file that are called otherwise in the table, by their names in the file. */
    columns: {
      type: 'array',
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['file', 'table'],
        properties: { file: { type: 'string' }, table: { type: 'string' } },
      },
    },
    tidied: tidiedSchema,
  },
} as const;
export type RefreshedBy = FromSchema<typeof refreshedBySchema>;

/** A table as the shelf lists it. */
export const tableSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['id', 'name', 'description', 'columns', 'rows', 'version', 'change', 'changedAt'],
  properties: {
    id: { type: 'integer' },
    name: { type: 'string' },
    /** A description in its builder's words; empty if nobody wrote one. */
    description: { type: 'string' },
    columns: { type: 'array', items: columnSchema },
    /** Where they differ from those: the columns that the cells of the log are of, removed ones too. */
    stored: { type: 'array', items: columnSchema },
    rows: { type: 'integer' },
    /** Version of the columns' definition. */
    version: { type: 'integer' },
    /** Number of the table's last change. */
    change: { type: 'integer' },
    changedAt: { type: 'string', format: 'date-time' },
    /** The table that this one is now, where it is looked at as it was after an earlier change. */
    now: { type: 'integer' },
    /** Said to who keeps it, and does not build it. */
    role: { const: 'keeps' },
    /** How it was refreshed last, if it was. */
    refreshedBy: refreshedBySchema,
    /** The moment that its rows are from, where that is longer ago than it should be. */
    lateSince: { type: 'string', format: 'date-time' },
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

/** The news of a box that was saved or deleted, told to everybody who has its table open. */
export interface BoxNews {
  readonly box: number;
  readonly version: number;
  readonly who: string | null;
  readonly deleted: boolean;
}

/** The boxes and tables that would lack something if a table, or one of its columns, were not there. */
export interface Dependents {
  /** Boxes that look in it, show it, narrow or sort by it, and how often each was opened. */
  readonly boxes: readonly { readonly id: number; readonly name: string; readonly opened: number }[];
  /** Tables that borrow from it, and which columns. */
  readonly borrowers: readonly { readonly id: number; readonly name: string; readonly columns: readonly string[] }[];
}

/** Query of a request for what depends on a table, or on one of its columns. */
export const dependentsQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: { column: { type: 'string', minLength: 1, maxLength: 200 } },
} as const;
export interface DependentsQuery {
  readonly column?: string;
}

/** A box as the shelf lists it: enough for its sentence and to ask it, and no more. */
export interface BoxSummary {
  readonly id: number;
  readonly tableId: number;
  readonly name: string;
  readonly version: number;
  readonly changedAt: string;
  readonly box: Pick<
    Box,
    | 'format'
    | 'version'
    | 'threaded'
    | 'everyColumn'
    | 'reading'
    | 'need'
    | 'where'
    | 'case'
    | 'accents'
    | 'strands'
    | 'pickers'
    | 'effect'
    | 'flip'
    | 'grain'
    | 'nothingTyped'
    | 'searches'
    | 'edited'
    | 'sort'
  >;
  /** False if its strands and pickers are too long to be said here: then they are left out. */
  readonly whole: boolean;
  /** How many columns it shows. */
  readonly columnsShown: number;
  readonly prompt: string | null;
}

/** A box or table that was deleted and can still be brought back. */
export interface Deleted {
  readonly what: 'box' | 'table';
  readonly id: number;
  readonly name: string;
  /** Name of the table that a box was on. */
  readonly table: string | null;
  readonly deletedAt: string;
}

/** Everything on the shelf. */
export interface ShelfContent {
  /** Boxes that are shared with who asks, on tables that are not theirs to see. */
  readonly shared: readonly { readonly id: number; readonly name: string }[];
  readonly tables: readonly TableSummary[];
  readonly boxes: readonly BoxSummary[];
  readonly deleted: readonly Deleted[];
  /** Whether the tables of the demo are there; null where they are not, and the server was started without them. */
  readonly demo: 'there' | 'away' | null;
}

/** How far a server is with reading its tables. */
/** The answer of a server that is up, whatever it has to answer from. */
export interface Live {
  readonly status: 'live';
}

export interface Health {
  readonly status: 'starting' | 'ready';
  readonly tables: number;
  readonly tablesRead: number;
  readonly rows: number;
  readonly rowsRead: number;
  /** Searches since the start that another reader's answer served, and those that were worked out. */
  readonly searches: { readonly shared: number; readonly worked: number };
}

/** Query of a request that brings a table in: its body is the file. */
export const bringInQuerySchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name'],
  properties: {
    name: { type: 'string', minLength: 1, maxLength: 200, pattern: '\\S' },
    /** How the file is read, as the JSON of `fileChoicesSchema`. */
    how: { type: 'string', maxLength: 200_000 },
  },
} as const;

export type BringInQuery = FromSchema<typeof bringInQuerySchema>;

/** Query of a request that refreshes a table: its body is the newer file. */
export const refreshQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    /** Columns whose values tell which row is which; without one, the places of the rows do. */
    key: { type: 'array', maxItems: 20, items: { type: 'string', minLength: 1, maxLength: 200 } },
    /** The way of rows that are not in the file. */
    gone: { enum: ['keep', 'remove'], default: 'keep' },
    /** Tells which cells stand where they were changed here, and the file changed them to something else. */
    clashes: { enum: ['ours', 'theirs', 'refuse'], default: 'ours' },
    /** Clashes for which the other one is taken: `row:column`, by the row's id and the column's name. */
    except: { type: 'array', maxItems: 1_000, items: { type: 'string', pattern: '^\\d+:', maxLength: 220 } },
    /** The way of rows whose key is blank or stands twice, here or in the file: refused, the first of each taken, or left as they are here. */
    unclear: { enum: ['refuse', 'first', 'leave'], default: 'refuse' },
    /** The way of rows of the file that were removed here: they stay so, or come back. */
    removed: { enum: ['stay', 'back'], default: 'stay' },
    how: bringInQuerySchema.properties.how,
    /** Says what a refresh would do, and does nothing. */
    preview: { type: 'boolean', default: false },
    /** The name of whoever refreshes. */
    who: whoSchema,
    /** The change that the table has to be at, as a preview told it. */
    on: { type: 'integer', minimum: 0, maximum: LARGEST_NUMBER },
  },
} as const;

export interface RefreshQuery {
  readonly key?: readonly string[];
  readonly gone: 'keep' | 'remove';
  readonly clashes: 'ours' | 'theirs' | 'refuse';
  readonly except?: readonly string[];
  readonly unclear: 'refuse' | 'first' | 'leave';
  readonly removed: 'stay' | 'back';
  readonly how?: string;
  readonly preview: boolean;
  readonly who?: string;
  readonly on?: number;
}

/** A cell that was changed here, and that the file changed to something else. */
export interface RefreshClash {
  readonly row: number;
  /** The row's key, or its place where it has none. */
  readonly key: string;
  readonly column: string;
  /** The cell as the last file had it; as this one has it, and as it stands here, follow. */
  readonly said: string;
  readonly theirs: string;
  readonly ours: string;
  readonly taken: 'ours' | 'theirs';
}

/** A row whose key is blank, or stands in a row before it. */
export interface UnclearRow {
  readonly where: 'file' | 'table';
  readonly why: 'blank' | 'repeated';
  /** Line of the file, or id of the row. */
  readonly at: number;
  readonly key: string;
  readonly cells: readonly string[];
}

/** A row that a refresh adds, changes or finds gone. */
export interface RefreshRow {
  readonly what: 'added' | 'changed' | 'gone';
  readonly before: readonly string[] | null;
  readonly after: readonly string[] | null;
}

/** Counts and rows of a refresh that was planned or done. */
export interface Refresh {
  readonly added: number;
  readonly changed: number;
  /** Rows that are not in the file; kept or removed, as asked. */
  readonly gone: number;
  readonly unchanged: number;
  /** The columns from then on: those of the table, and new ones after them. */
  readonly columns: readonly Column[];
  /** Columns of the table that are not in the file, whose cells stay as they are. */
  readonly missing: readonly string[];
  /** Columns of the file that are called otherwise here, and those that are new. */
  readonly matched: readonly { readonly file: string; readonly table: string }[];
  readonly fresh: readonly string[];
  /** Cells that the file did not change, and that stay as they were changed here. */
  readonly mended: number;
  /** Rows of the file that were removed here: they stay so, or are among those that are added, as asked. */
  readonly removed: number;
  /** Cells changed on both sides: how many, and the first of them. */
  readonly clashing: number;
  readonly clashes: readonly RefreshClash[];
  /** Rows whose key does not tell them: how many in the file and here, and the first of them. */
  readonly unclear: { readonly file: number; readonly table: number; readonly rows: readonly UnclearRow[] };
  /** The first rows of each sort, where it is a preview. */
  readonly rows: readonly RefreshRow[];
  /** Number of the change that it became; of a preview, or if nothing changed, the one that the table is at. */
  readonly change: number;
}

/** The change after which a table was as it is asked for. */
const AT_CHANGE = { type: 'integer', minimum: 1, maximum: LARGEST_NUMBER } as const;

/** The signs that can part the fields of a copy. */
export const DELIMITERS = ['comma', 'semicolon', 'tab'] as const;

/** Query of a request for a table as a file. */
export const copyQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    at: AT_CHANGE,
    /** The sign between its fields; a comma unless it is said. */
    delimiter: { enum: DELIMITERS },
    /** Whether it begins with a byte-order mark, by which spreadsheet programs know that it is UTF-8. */
    mark: { type: 'boolean' },
  },
} as const;
export type CopyQuery = FromSchema<typeof copyQuerySchema>;

/** Asks for a table as it was, to be looked at. */
export const earlierRequestSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['at'],
  properties: { at: AT_CHANGE },
} as const;
export type EarlierRequest = FromSchema<typeof earlierRequestSchema>;

/** A table's name and description, as far as they change. */
export const tableChangeSchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    name: { type: 'string', minLength: 1, maxLength: 200, pattern: '\\S' },
    description: { type: 'string', maxLength: 2000 },
  },
} as const;

export type TableChange = FromSchema<typeof tableChangeSchema>;

/** Query of a request for rows in the table's own order. */
export const rowsQuerySchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    after: { type: 'integer', minimum: 0, maximum: LARGEST, default: 0 },
    limit: { type: 'integer', minimum: 1, maximum: 1000, default: 100 },
  },
} as const;

export type RowsQuery = Required<FromSchema<typeof rowsQuerySchema>>;

/** A stored row: raw cells as text, in the order of the table's columns. */
export interface StoredRow {
  readonly id: number;
  readonly version: number;
  readonly cells: readonly string[];
}

export interface RowList {
  readonly rows: readonly StoredRow[];
}

/** A table as it is told: its columns as they stand in it, without those that were removed. */
export function toldTable(table: TableSummary): TableSummary {
  const { columns } = table;
  const places = presentPlaces(columns);
  if (places.length === columns.length && places.every((at, i) => at === i)) return table;
  return { ...table, columns: places.map((at) => columns[at]), stored: columns };
}
