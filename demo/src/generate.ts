/** `node demo/dist/generate.js [ROWS] [FOLDER]`: writes the demo's CSV files; with ROWS, only found items, that many. */
import { createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { fileURLToPath } from 'node:url';
import { join } from 'node:path';
import { csvLines } from './csv.js';
import { claims, DEMO_ROWS, foundItems, stops, type DemoTable } from './tables.js';

async function write(table: DemoTable, file: string): Promise<void> {
  await pipeline(Readable.from(csvLines(table.columns, table.rows)), createWriteStream(file));
  console.log(file);
}

const count = Number(process.argv[2] ?? DEMO_ROWS);
const folder = process.argv[3] ?? fileURLToPath(new URL('../data', import.meta.url));
if (!Number.isInteger(count) || count < 1) throw new Error(`not a number of rows: ${process.argv[2]}`);
await mkdir(folder, { recursive: true });
const found = foundItems(count);
await write(found, join(folder, 'found-items.csv'));
if (process.argv[2] === undefined) {
  await write(stops(), join(folder, 'stops.csv'));
  await write(claims([...found.rows]), join(folder, 'claims.csv'));
}
