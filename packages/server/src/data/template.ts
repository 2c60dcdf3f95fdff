/**
 * An empty database with the migrations run, made once by the build and copied at a first start: setting PostgreSQL up from
 * nothing takes PGlite seconds, copying its files does not.
 */
import { cp, mkdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { isThere, TEMPLATE } from '../folders.js';

/** Names of folders that a package could not keep, since they are empty; see `tools/package.mjs`. */
async function emptyFolders(): Promise<readonly string[]> {
  const text = await readFile(`${TEMPLATE}/empty-folders.json`, 'utf8').catch(() => '[]');
  return JSON.parse(text) as string[];
}

/** Copies the template to a folder that does not exist yet; does nothing without a template. */
export async function copyTemplate(folder: string): Promise<void> {
  if ((await isThere(folder)) || !(await isThere(`${TEMPLATE}/pg`))) return;
  const part = `${folder}.part`;
  await rm(part, { recursive: true, force: true });
  await cp(`${TEMPLATE}/pg`, part, { recursive: true });
  for (const name of await emptyFolders()) await mkdir(join(part, name), { recursive: true });
  await rename(part, folder);
}
