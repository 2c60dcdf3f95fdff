/** All that is kept, by what it is about. */
import { BringIns } from './bring-ins.js';
import { Boxes } from './boxes.js';
import { Changes } from './changes.js';
import type { Database } from './database.js';
import { Tables } from './tables.js';

export interface Data {
  readonly tables: Tables;
  readonly boxes: Boxes;
  readonly changes: Changes;
  readonly bringIns: BringIns;
}

export function dataIn(database: Database): Data {
  const { db } = database;
  const changes = new Changes(database);
  return { tables: new Tables(db), boxes: new Boxes(db), changes, bringIns: new BringIns(database, changes) };
}

/** Takes away what is left of bring-ins that never ended, and what was deleted too long ago. */
export async function tidy({ tables, boxes, changes, bringIns }: Data): Promise<void> {
  await bringIns.sweep();
  await bringIns.count();
  await boxes.forget();
  await changes.tidy();
  for (const id of await tables.pastKeeping()) await bringIns.erase(id);
}
