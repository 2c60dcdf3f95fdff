/** Where packs lie, and which there are. */
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';

const NAME = /^table-(\d+)\.pack$/;

export function packPath(folder: string, table: number): string {
  return join(folder, `table-${table}.pack`);
}

/** Tables that have a pack in a folder, and its bytes; rising by their ids. */
export async function packsIn(folder: string): Promise<{ readonly id: number; readonly bytes: number }[]> {
  const names = await readdir(folder).catch(() => []);
  const ids = names.flatMap((name) => Number(NAME.exec(name)?.[1] ?? NaN) || []).sort((a, b) => a - b);
  return Promise.all(
    ids.map(async (id) => ({ id, bytes: (await stat(packPath(folder, id)).catch(() => ({ size: 0 }))).size })),
  );
}

/** Takes away packs of tables that are not there, and halves of packs. */
export async function sweepPacks(folder: string, tables: ReadonlySet<number>): Promise<void> {
  for (const name of await readdir(folder).catch(() => []))
    if (!tables.has(Number(NAME.exec(name)?.[1] ?? NaN)))
      await rm(join(folder, name), { recursive: true, force: true }).catch(() => undefined);
}
