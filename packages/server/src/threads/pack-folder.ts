/** Where packs lie, and which there are. */
import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';

const NAME = /^table-(\d+)\.pack$/;

export function packPath(folder: string, table: number): string {
  return join(folder, `table-${table}.pack`);
}

/** Ids of the tables that have a pack in a folder, rising. */
export async function packsIn(folder: string): Promise<number[]> {
  const names = await readdir(folder).catch(() => []);
  return names.flatMap((name) => Number(NAME.exec(name)?.[1] ?? NaN) || []).sort((a, b) => a - b);
}

/** Takes away packs of tables that are not there, and halves of packs. */
export async function sweepPacks(folder: string, tables: ReadonlySet<number>): Promise<void> {
  for (const name of await readdir(folder).catch(() => []))
    if (!tables.has(Number(NAME.exec(name)?.[1] ?? NaN)))
      await rm(join(folder, name), { recursive: true, force: true }).catch(() => undefined);
}
