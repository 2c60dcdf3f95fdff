/** Records as PostgreSQL keeps them. A row is its raw cells as text, lossless; kinds and shown forms are the column's. */
import {
  bigint,
  boolean,
  customType,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core';
import type {
  AccessRules,
  Box,
  Change,
  ChangeCounts,
  ChangeKind,
  Column,
  PinnedShare,
  RefreshedBy,
  Role,
  RunCounts,
  RunOutcome,
  Source,
  SourceTold,
  TokenKind,
} from '@usual-needle/contract';
import type { LoggedRow } from './said.js';

/** Cells as a JSON text. PostgreSQL does not look into it, and neither parses nor formats it for each row. */
const cells = customType<{ data: readonly string[]; driverData: string }>({
  dataType: () => 'text',
  toDriver: (value) => JSON.stringify(value),
  fromDriver: (value) => JSON.parse(value) as readonly string[],
});

/** The words by which a server is asked whether what it has is still what it had (RFC 9110, 13.1). */
export interface Seen {
  readonly etag?: string;
  readonly modified?: string;
  /** A digest of all of it, for what has no such words. */
  readonly digest?: string;
}

const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'string' });

export const tables = pgTable('tables', {
  id: serial('id').primaryKey(),
  name: text('name').notNull(),
  /** A description in its builder's words. */
  description: text('description').notNull().default(''),
  columns: jsonb('columns').$type<Column[]>().notNull(),
  /** Version of the columns' definition. */
  version: integer('version').notNull().default(1),
  rowCount: integer('row_count').notNull().default(0),
  /** Number of the last change. */
  lastChange: integer('last_change').notNull().default(0),
  /** The next row's id: no id ever comes back. */
  nextRow: bigint('next_row', { mode: 'number' }).notNull().default(1),
  /** Where it came from, if that is to be known later: `demo`. */
  source: text('source'),
  /** Set once every row has been brought in; a table without it is the rest of an import that did not end, or has not yet. */
  completedAt: moment('completed_at'),
  changedAt: moment('changed_at').notNull().defaultNow(),
  /** A deleted table stays for some days, so that deleting can be undone. */
  deletedAt: moment('deleted_at'),
  /** How it was refreshed last: what the next refresh begins with. */
  refreshedBy: jsonb('refreshed_by').$type<RefreshedBy>(),
  /** Whether `said` of its rows is kept; false for a table of before it was, until its log has been read for it. */
  saidKnown: boolean('said_known').notNull().default(false),
  /** The moment that its rows are from, where its source has failed or waited for longer than it should: every sheet says so. */
  lateSince: moment('late_since'),
});

/** Where tables take newer rows from by themselves, and how far each is with it. */
export const sources = pgTable(
  'sources',
  {
    tableId: integer('table_id')
      .primaryKey()
      .references(() => tables.id, { onDelete: 'cascade' }),
    source: jsonb('source').$type<Source>().notNull(),
    /** Sealed, see `sources/sealing.ts`; null where it needs none. */
    secret: text('secret'),
    version: integer('version').notNull().default(1),
    /** Rises with all that is written here: a run that began before something else was written is over without a trace. */
    turn: integer('turn').notNull().default(1),
    /** The moment that minutes and hours are counted from. */
    baseAt: moment('base_at').notNull(),
    /** The next run; null where one waits, or comes when something is new. */
    nextAt: moment('next_at'),
    /** The words of what was there last, by which it is asked whether something is new. */
    seen: jsonb('seen').$type<Seen>(),
    rowsFrom: moment('rows_from'),
    inARow: integer('in_a_row').notNull().default(0),
    failures: integer('failures').notNull().default(0),
    waiting: jsonb('waiting').$type<SourceTold['waiting']>(),
  },
  (table) => [index('sources_by_next').on(table.nextAt)],
);

/** The runs of sources. No two are for the same moment, whatever happens in between. */
export const sourceRuns = pgTable(
  'source_runs',
  {
    tableId: integer('table_id')
      .notNull()
      .references(() => tables.id, { onDelete: 'cascade' }),
    due: moment('due').notNull(),
    at: moment('at').notNull(),
    outcome: text('outcome').$type<RunOutcome>().notNull(),
    counts: jsonb('counts').$type<RunCounts>(),
    why: text('why'),
    /** Number of the change that it became. */
    change: integer('change'),
    /** Earlier moments that it stands for. */
    missed: integer('missed').notNull().default(0),
    /** The name of who asked for it, where it did not come by itself. */
    who: text('who'),
  },
  (table) => [primaryKey({ columns: [table.tableId, table.due] })],
);

export const rows = pgTable(
  'rows',
  {
    /** Not a foreign key: to look it up for each row takes as long as to write it. Rows are written and erased in one place. */
    tableId: integer('table_id').notNull(),
    /** Rises in the table's own order. */
    id: bigint('id', { mode: 'number' }).notNull(),
    /** Number of the last change of it. */
    version: integer('version').notNull().default(1),
    cells: cells('cells').notNull(),
    /** The cells as the last file said them, where that is not what the cells say: see `said.ts`. Null where they say the same. */
    said: text('said'),
  },
  (table) => [primaryKey({ columns: [table.tableId, table.id] })],
);

/** The log of each table: numbers run 1, 2, 3 … without a gap, and nothing in it is ever rewritten. */
export const changes = pgTable(
  'changes',
  {
    tableId: integer('table_id')
      .notNull()
      .references(() => tables.id, { onDelete: 'cascade' }),
    number: integer('number').notNull(),
    at: moment('at').notNull().defaultNow(),
    who: text('who'),
    kind: text('kind').$type<ChangeKind>().notNull(),
    rows: integer('rows').notNull(),
    counts: jsonb('counts').$type<ChangeCounts>(),
    /** Null for a change that is kept in pieces, and for a bring-in, which is not kept row by row. */
    rowChanges: jsonb('row_changes').$type<readonly LoggedRow[]>(),
    /** Into how many pieces of `change_rows` its rows are divided; 0 where they stand in `row_changes`. */
    pieces: integer('pieces').notNull().default(0),
    columns: jsonb('columns').$type<Change['columns']>(),
    /** The key that its asker gave it, so that what is asked again is done once. */
    key: text('key'),
    /** The change that it undoes, if it undoes one. */
    undoes: integer('undoes'),
  },
  (table) => [
    primaryKey({ columns: [table.tableId, table.number] }),
    uniqueIndex('changes_by_key').on(table.tableId, table.key),
  ],
);

/** Rows of changes that are too large for one value. */
export const changeRows = pgTable(
  'change_rows',
  {
    tableId: integer('table_id').notNull(),
    number: integer('number').notNull(),
    piece: integer('piece').notNull(),
    rowChanges: jsonb('row_changes').$type<readonly LoggedRow[]>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.tableId, table.number, table.piece] }),
    foreignKey({ columns: [table.tableId, table.number], foreignColumns: [changes.tableId, changes.number] }).onDelete(
      'cascade',
    ),
  ],
);

/** Keys that edits and undos were asked under, with what was asked and what it came to: what is sent again is answered alike. */
export const editKeys = pgTable(
  'edit_keys',
  {
    tableId: integer('table_id')
      .notNull()
      .references(() => tables.id, { onDelete: 'cascade' }),
    key: text('key').notNull(),
    /** A digest of what was asked. */
    asked: text('asked').notNull(),
    /** Number of the change that it became, or that the table was at if it changed nothing. */
    number: integer('number').notNull(),
    /** Whether it became a change. */
    made: boolean('made').notNull(),
    at: moment('at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.tableId, table.key] })],
);

export const boxes = pgTable(
  'boxes',
  {
    id: serial('id').primaryKey(),
    tableId: integer('table_id')
      .notNull()
      .references(() => tables.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    definition: jsonb('definition').$type<Box>().notNull(),
    version: integer('version').notNull().default(1),
    changedAt: moment('changed_at').notNull().defaultNow(),
    /** How often it was opened. */
    opened: integer('opened').notNull().default(0),
    /** A deleted box stays for some days, so that deleting can be undone. */
    deletedAt: moment('deleted_at'),
  },
  (table) => [index('boxes_of_table').on(table.tableId)],
);

/** People who can sign in, and those who were invited and have not come yet. */
export const people = pgTable('people', {
  id: serial('id').primaryKey(),
  name: text('name').notNull(),
  /** The name as it is compared: nobody may be called what looks the same. */
  nameKey: text('name_key').notNull().unique(),
  /** An argon2id hash; null until an invitation was used. */
  password: text('password'),
  /** Whether they build everything, and look after people. */
  everything: boolean('everything').notNull().default(false),
  disabledAt: moment('disabled_at'),
  seenAt: moment('seen_at'),
  createdAt: moment('created_at').notNull().defaultNow(),
});

/** Roles of people on tables. */
export const roles = pgTable(
  'roles',
  {
    personId: integer('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    tableId: integer('table_id')
      .notNull()
      .references(() => tables.id, { onDelete: 'cascade' }),
    role: text('role').$type<Role>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.personId, table.tableId] })],
);

/** Sign-ins that have not ended, by the hash of what the cookie holds. */
export const signIns = pgTable(
  'sign_ins',
  {
    hash: text('hash').primaryKey(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    until: moment('until').notNull(),
  },
  (table) => [index('sign_ins_of_person').on(table.personId)],
);

/** Links that can be used once: the hash of each, for whom it is, and until when. Without a person it makes the first builder. */
export const invitations = pgTable('invitations', {
  hash: text('hash').primaryKey(),
  personId: integer('person_id').references(() => people.id, { onDelete: 'cascade' }),
  until: moment('until').notNull(),
});

/** Tokens of people, for programs: the hash of each, what it may do, and until when. */
export const tokens = pgTable(
  'tokens',
  {
    id: serial('id').primaryKey(),
    hash: text('hash').notNull().unique(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    kind: text('kind').$type<TokenKind>().notNull(),
    /** Ids of its tables; null for all that are its person's. */
    tables: jsonb('tables').$type<number[]>(),
    until: moment('until').notNull(),
    usedAt: moment('used_at'),
  },
  (table) => [index('tokens_of_person').on(table.personId)],
);

/** The rules of access that hold for everybody: one row, or none where they are the usual ones. */
export const accessRules = pgTable('access_rules', {
  only: boolean('only').primaryKey().default(true),
  rules: jsonb('rules').$type<AccessRules>().notNull(),
});

/** How boxes are shared. */
export const shares = pgTable('shares', {
  boxId: integer('box_id')
    .primaryKey()
    .references(() => boxes.id, { onDelete: 'cascade' }),
  share: jsonb('share').$type<PinnedShare>().notNull(),
  /** The hash of the secret in the box's link; null without one. */
  linkHash: text('link_hash').unique(),
  openedAt: moment('opened_at'),
  opened: integer('opened').notNull().default(0),
});

/** Changes of access, kept for a year. */
export const accessChanges = pgTable('access_changes', {
  id: serial('id').primaryKey(),
  at: moment('at').notNull().defaultNow(),
  who: text('who').notNull(),
  what: text('what').notNull(),
});
