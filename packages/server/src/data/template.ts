/**
 * An empty database with the migrations run, made once by the build and copied at a first start: setting PostgreSQL up from
 * nothing takes PGlite seconds, copying its files does not.
 */
import { cp, rename, rm } from 'node:fs/promises';
import { isThere, TEMPLATE } from '../folders.js';

/** Copies the template to a folder that does not exist yet; does nothing without a template. */
export async function copyTemplate(folder: string): Promise<void> {
  if ((await isThere(folder)) || !(await isThere(`${TEMPLATE}/pg`))) return;
  const part = `${folder}.part`;
  await rm(part, { recursive: true, force: true });
  await cp(`${TEMPLATE}/pg`, part, { recursive: true });
  await rename(part, folder);
}
