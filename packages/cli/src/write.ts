/** The rows on show, in the form asked for. Rows are written as they are read out, so that any number fits. */
import { once } from 'node:events';
import { hasBit, marksOf, View, type Search } from '@usual-needle/engine';
import type { FindOptions } from './options.js';

/** Rows read out of the engine at a time. */
const BATCH = 1_000;

function csvCell(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

interface OutRow {
  readonly id: number;
  readonly cells: readonly string[];
  readonly marks: readonly (readonly [string, number, number, number])[];
}

function* rowsOf(search: Search, columns: readonly number[]): Generator<OutRow> {
  const names = search.table.columns.map(({ name }) => name);
  const view = new View(search);
  for (const { segment, row } of view.rows(0, search.shown)) {
    const part = search.table.segments[segment];
    const match = search.asks && hasBit(search.matches[segment], row);
    yield {
      id: part.ids[row],
      cells: columns.map((column) => part.columns[column].cell(row).raw),
      marks: match
        ? marksOf(search, segment, row).map(({ column, start, end, keyword }) => [names[column], start, end, keyword])
        : [],
    };
  }
}

async function put(text: string): Promise<void> {
  if (!process.stdout.write(text)) await once(process.stdout, 'drain');
}

export async function write(
  search: Search,
  columns: readonly number[],
  count: number,
  out: FindOptions['out'],
): Promise<void> {
  if (out === 'count') return put(`${count}\n`);
  const names = columns.map((column) => search.table.columns[column].name);
  const line = ({ id, cells, marks }: OutRow): string =>
    out === 'csv'
      ? `${cells.map(csvCell).join(',')}\r\n`
      : JSON.stringify({ row: id, cells: Object.fromEntries(cells.map((cell, i) => [names[i], cell])), marks });
  if (out === 'csv') await put(`${names.map(csvCell).join(',')}\r\n`);
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
  for (const row of rowsOf(search, columns)) {
    batch.push(line(row));
    if (batch.length === BATCH) await flush();
  }
  await flush();
  if (out === 'json') await put(first ? ']\n' : '\n]\n');
}
