/** The rows on show, in the form asked for. Rows are written as they are read out, so that any number fits. */
import { once } from 'node:events';
import { csvLine } from '@usual-needle/formats';
import type { FileSearch, FoundRow } from './file-search.js';
import type { FindOptions } from './options.js';

/** Rows written at a time. */
const BATCH = 1_000;

async function put(text: string): Promise<void> {
  if (!process.stdout.write(text)) await once(process.stdout, 'drain');
}

export async function write(
  search: FileSearch,
  names: readonly string[],
  count: number,
  out: FindOptions['out'],
): Promise<void> {
  if (out === 'count') return put(`${count}\n`);
  const line = ({ id, cells, marks }: FoundRow): string =>
    out === 'csv'
      ? csvLine(names.map((name) => cells[name]))
      : JSON.stringify({ row: id, cells: Object.fromEntries(names.map((name) => [name, cells[name]])), marks });
  if (out === 'csv') await put(csvLine(names));
  if (out === 'json') await put('[');
  let batch: string[] = [];
  let first = true;
  const flush = async (): Promise<void> => {
    if (batch.length === 0) return;
    if (out === 'json') await put(`${first ? '\n' : ',\n'}${batch.join(',\n')}`);
    else if (out === 'ndjson') await put(`${batch.join('\n')}\n`);
    else await put(batch.join(''));
    first = false;
    batch = [];
  };
  for await (const row of search.rows()) {
    batch.push(line(row));
    if (batch.length === BATCH) await flush();
  }
  await flush();
  if (out === 'json') await put(first ? ']\n' : '\n]\n');
}
