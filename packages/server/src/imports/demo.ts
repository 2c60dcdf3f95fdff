/** The demo tables and boxes, brought in at the first start. */
import { readFile } from 'node:fs/promises';
import type { Box } from '@usual-needle/contract';
import type { Records } from '../data/records.js';
import { bringIn } from './bring-in.js';

const TABLES = [
  ['Found items', 'found-items.csv'],
  ['Stops', 'stops.csv'],
  ['Claims', 'claims.csv'],
] as const;

const BOXES = ['front-desk-look-up.json', 'night-audit.json', 'open-shelf.json'] as const;

const FOLDER = new URL('../../../../demo/', import.meta.url);

export async function bringInDemo(records: Records): Promise<void> {
  const ids = new Map<string, number>();
  for (const [name, file] of TABLES) {
    ids.set(name, await bringIn(records, name, await readFile(new URL(`data/${file}`, FOLDER), 'utf8')));
  }
  for (const file of BOXES) {
    const box = JSON.parse(await readFile(new URL(`boxes/${file}`, FOLDER), 'utf8')) as Box;
    await records.addBox(ids.get(box.table!)!, box.name!, box);
  }
}
