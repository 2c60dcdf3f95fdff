/** All that is kept, by what it is about. */
import { Boxes } from './boxes.js';
import { Changes } from './changes.js';
import type { Database } from './database.js';
import { Tables } from './tables.js';

export interface Data {
  readonly tables: Tables;
  readonly boxes: Boxes;
  readonly changes: Changes;
}

export function dataIn(database: Database): Data {
  const { db } = database;
  return { tables: new Tables(db), boxes: new Boxes(db), changes: new Changes(database) };
}

/** Takes away what is left of bring-ins that never ended, and what was deleted too long ago. */
export async function tidy({ tables, boxes, changes }: Data): Promise<void> {
  await changes.sweep();
  await changes.count();
  await boxes.forget();
  for (const id of await tables.pastKeeping()) await changes.erase(id);
}
