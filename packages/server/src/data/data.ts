/** All that is kept, by what it is about. */
import { sql } from 'drizzle-orm';
import { ScopedRecords } from '../access/scoped-records.js';
import { backupLines } from '../backup/write.js';
import { BringIns } from './bring-ins.js';
import { Boxes } from './boxes.js';
import { Changes } from './changes.js';
import type { Database } from './database.js';
import { People } from './people.js';
import { Sharing } from './sharing.js';
import { Sources } from './sources.js';
import { Tables } from './tables.js';
import { Tokens } from './tokens.js';

export interface Data {
  readonly tables: Tables;
  readonly boxes: Boxes;
  readonly changes: Changes;
  readonly bringIns: BringIns;
  readonly people: People;
  readonly sharing: Sharing;
  readonly tokens: Tokens;
  readonly records: ScopedRecords;
  readonly sources: Sources;
  /** The lines of a backup of all that is kept, of one moment. */
  readonly backup: () => AsyncGenerator<string>;
  /** Asks the database nothing, to see whether it answers. */
  readonly ping: () => Promise<void>;
  /** Locks a table's source among all servers on the database. @returns how it is unlocked; undefined where another has it */
  readonly lock: (tableId: number) => Promise<(() => Promise<void>) | undefined>;
}

/** Whatever of a table's rows and log is read or written without a scope: for the server itself, and not for what people ask. */
type WithoutScope =
  | 'rows'
  | 'all'
  | 'rowsText'
  | 'rowsOf'
  | 'changes'
  | 'log'
  | 'history'
  | 'newsAfter'
  | 'changeShown'
  | 'rowHistory'
  | 'removedHere';
type WritesWithoutScope = 'edit' | 'editCells' | 'undo' | 'changeColumns' | 'changeValue';

/** The data as routes reach it: rows and logs by `records`, which takes a scope. */
export interface RouteData extends Omit<Data, 'tables' | 'changes'> {
  readonly tables: Omit<Tables, WithoutScope>;
  readonly changes: Omit<Changes, WritesWithoutScope>;
}

export function dataIn(database: Database): Data {
  const { db } = database;
  const changes = new Changes(database);
  const tables = new Tables(db);
  return {
    tables,
    boxes: new Boxes(db),
    changes,
    bringIns: new BringIns(database, changes),
    people: new People(db),
    sharing: new Sharing(db),
    tokens: new Tokens(db),
    records: new ScopedRecords(tables, changes),
    sources: new Sources(db),
    backup: () => backupLines(db),
    ping: async () => void (await db.execute(sql`select 1`)),
    lock: (tableId) => database.lock(tableId),
  };
}

/** Takes away what is left of bring-ins that never ended, and what was deleted too long ago. */
export async function tidy({ tables, boxes, changes, bringIns, people, tokens, sources }: Data): Promise<void> {
  await bringIns.sweep();
  await bringIns.count();
  await boxes.forget();
  await changes.tidy();
  await people.tidy();
  await tokens.tidy();
  await sources.tidy();
  for (const id of await tables.pastKeeping()) await bringIns.erase(id);
}
