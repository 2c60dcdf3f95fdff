/** `usual-needle find`: one search of one file, by the same host that the server runs. */
import { createReadStream } from 'node:fs';
import { basename } from 'node:path';
import { EMPTY_BOX, WHOLE_SCOPE, type Column, type StoredRow } from '@usual-needle/contract';
import { KindFinder, readFile } from '@usual-needle/formats';
import { Host } from '@usual-needle/host';
import { askedHost, FileSearch } from './file-search.js';
import { questionOf, readBox, shownOf, UsageProblem, withKinds, type FindOptions } from './options.js';
import { describe } from './reasons.js';
import { findOnServer } from './find-on-server.js';
import { mustHaveFile, put, write } from './write.js';

async function* bytesOf(file: string): AsyncGenerator<Uint8Array> {
  try {
    for await (const chunk of file === '-' ? process.stdin : createReadStream(file)) yield chunk as Buffer;
  } catch (error) {
    throw new UsageProblem(`${file} cannot be read: ${(error as Error).message}`);
  }
}

/** Number of the only table there is. */
const TABLE = 1;

/** Fills a host with the table of a file, its kinds found from all of its cells. */
async function readTable(host: Host, file: string, kinds: readonly string[]): Promise<readonly Column[]> {
  const table = await readFile(bytesOf(file), { hints: { name: file }, limit: Infinity });
  const finder = new KindFinder(table.columns.length);
  const rows: StoredRow[] = [];
  for await (const { rows: batch } of table.batches) {
    finder.add(batch);
    for (const cells of batch) rows.push({ id: rows.length + 1, version: 1, cells: [...cells] });
  }
  const guessed = finder.done().map(({ kind, dateOrder, decimal, problems }, i): Column => {
    const name = table.columns[i];
    for (const { row, message } of problems) console.error(`column “${name}”, row ${row}: ${message}`);
    return { name, kind, ...(dateOrder && { dateOrder }), ...(decimal && { decimal }) };
  });
  const columns = withKinds(guessed, kinds);
  host.begin(TABLE, columns);
  await host.append(TABLE, rows);
  await host.finish(TABLE, 1);
  return columns;
}

/** @returns the exit code: 0 if rows matched, 1 if none did */
export async function find(file: string, text: string | undefined, options: FindOptions): Promise<number> {
  mustHaveFile(options);
  if (options.server !== undefined) return findOnServer(file, text, options);
  const box = options.box === undefined ? EMPTY_BOX : await readBox(options.box);
  const host = new Host();
  const columns = await readTable(host, file, options.kind);
  const shown = shownOf(columns, options, box);
  const question = questionOf(columns, text, options, box);
  const search = new FileSearch(host, TABLE, columns, question);
  const answer = await search.answer();
  const { problem, notices } = answer;
  if (problem) {
    const { strand, message, start, end } = problem;
    throw new UsageProblem(`strand ${strand + 1}, characters ${start}–${end}: ${message}`);
  }
  for (const { strand, message, start, end } of notices)
    console.error(`strand ${strand + 1}, characters ${start}–${end}: ${message}`);
  const count = question.effect === 'mark in place' && !question.flip ? answer.matched : answer.shown;
  if (options.out === 'count') await put([`${count}\n`], options.to);
  else
    await write({ host, table: TABLE, columns, question, shown, box, name: basename(file) }, options.out, options.to);
  if (options.explain && count === 0) {
    const { reasons } = await askedHost(host.explain(WHOLE_SCOPE, TABLE, { question }));
    if (reasons.length === 0) console.error('Nothing stands in the way that could be named.');
    for (const reason of reasons) console.error(`- ${describe(reason, question)}`);
  }
  return count > 0 ? 0 : 1;
}
