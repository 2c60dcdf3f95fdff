/** The demo tables and boxes, brought in at the first start. */
import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { unshared, type BorrowRequest, type Box } from '@usual-needle/contract';
import type { Data } from '../data/data.js';
import { DEMO_SOURCE } from '../data/tables.js';
import { DEMO } from '../folders.js';
import { withBorrowed } from '../routes/borrowing.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { bringIn } from './bring-in.js';

const TABLES = [
  ['Found items', 'found-items.csv'],
  ['Stops', 'stops.csv'],
  ['Claims', 'claims.csv'],
] as const;

/** The columns that the demo's tables borrow from each other. */
const BORROWED: readonly [table: string, from: string, how: Omit<BorrowRequest, 'table'>][] = [
  ['Found items', 'Stops', { key: 'Found at', matches: 'Name', columns: [{ column: 'Town' }, { column: 'Depot' }] }],
  [
    'Claims',
    'Found items',
    {
      key: 'Matched item no.',
      matches: 'Item no.',
      columns: [
        { column: 'Description', name: 'Matched item' },
        { column: 'Status', name: 'Item’s status' },
        { column: 'Shelf' },
      ],
    },
  ],
];

const BOXES = ['front-desk-look-up.json', 'night-audit.json', 'open-shelf.json', 'claims-and-finds.json'] as const;

/** The box that the demo's readers have. */
const SHARED = BOXES[0];

export async function bringInDemo(
  { tables, changes, boxes, bringIns, sharing }: Data,
  searching: SearchThreads,
): Promise<void> {
  const ids = new Map<string, number>();
  for (const [name, file] of TABLES) {
    const bytes = createReadStream(join(DEMO, 'data', file));
    ids.set(
      name,
      (await bringIn(bringIns, searching, name, { bytes, choices: {}, hints: { name: file }, source: DEMO_SOURCE })).id,
    );
  }
  for (const [table, from, how] of BORROWED) {
    const [own, lender] = await Promise.all([tables.find(ids.get(table)!), tables.find(ids.get(from)!)]);
    const change = await changes.changeColumns(own!.id, 'any', (columns) =>
      withBorrowed(columns, own!, lender!, { ...how, table: lender!.id }),
    );
    await searching.apply(change!);
  }
  for (const file of BOXES) {
    const box = JSON.parse(await readFile(join(DEMO, 'boxes', file), 'utf8')) as Box;
    const table = await tables.find(ids.get(box.table!)!);
    const { id } = await boxes.add(table!.id, box.name!, box);
    if (file === SHARED) await sharing.set(id, { ...unshared(box, table!.columns), everyone: true }, table!.columns);
  }
}
