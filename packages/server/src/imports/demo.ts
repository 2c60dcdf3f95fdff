/** The demo tables and boxes, brought in at the first start. */
import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import type { Box } from '@usual-needle/contract';
import type { Data } from '../data/data.js';
import { bringIn, type Searching } from './bring-in.js';

const TABLES = [
  ['Found items', 'found-items.csv'],
  ['Stops', 'stops.csv'],
  ['Claims', 'claims.csv'],
] as const;

const BOXES = ['front-desk-look-up.json', 'night-audit.json', 'open-shelf.json'] as const;

const FOLDER = new URL('../../../../demo/', import.meta.url);

export async function bringInDemo({ changes, boxes }: Data, searching: Searching): Promise<void> {
  const ids = new Map<string, number>();
  for (const [name, file] of TABLES) {
    const bytes = createReadStream(new URL(`data/${file}`, FOLDER));
    ids.set(name, (await bringIn(changes, searching, name, { bytes, choices: {}, hints: { name: file } })).id);
  }
  for (const file of BOXES) {
    const box = JSON.parse(await readFile(new URL(`boxes/${file}`, FOLDER), 'utf8')) as Box;
    await boxes.add(ids.get(box.table!)!, box.name!, box);
  }
}
