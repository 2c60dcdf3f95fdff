/** `usual-needle find`: one search of one file. */
import { readFile } from 'node:fs/promises';
import { readCsv } from '@usual-needle/contract/csv';
import type { Box } from '@usual-needle/contract';
import {
  columnNumbers,
  explain,
  guessKind,
  questionByName,
  Search,
  Table,
  UnknownColumn,
  UnreadablePicker,
} from '@usual-needle/engine';
import { questionOf, readBox, shownOf, UsageProblem, withKinds, type FindOptions } from './options.js';
import { describe } from './reasons.js';
import { write } from './write.js';

const EMPTY_BOX: Box = { format: 'usual-needle box', version: 1 };

async function readInput(file: string): Promise<string> {
  const chunks: Buffer[] = [];
  try {
    if (file === '-') for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
    else chunks.push(await readFile(file));
  } catch (error) {
    throw new UsageProblem(`${file} cannot be read: ${(error as Error).message}`);
  }
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(Buffer.concat(chunks));
  } catch {
    throw new UsageProblem(`${file === '-' ? 'The input' : file} is not UTF-8 text.`);
  }
}

/** @returns the exit code: 0 if rows matched, 1 if none did */
export async function find(file: string, text: string | undefined, options: FindOptions): Promise<number> {
  const box = options.box === undefined ? EMPTY_BOX : await readBox(options.box);
  const csv = readCsv(await readInput(file));
  const guessed = csv.columns.map((name, i) => {
    const { kind, dateOrder, problems } = guessKind(csv.rows.map((row) => row[i]));
    for (const { row, message } of problems) console.error(`column “${name}”, row ${row}: ${message}`);
    return { name, kind, ...(dateOrder && { dateOrder }) };
  });
  const columns = withKinds(guessed, options.kind);
  const table = new Table(columns, csv.rows.map((cells, i) => ({ id: i + 1, cells }))); // prettier-ignore

  let search: Search;
  let shown: number[];
  try {
    shown = columnNumbers(columns, shownOf(columns, options, box));
    search = new Search(table, questionByName(columns, questionOf(columns, text, options, box)));
  } catch (error) {
    if (error instanceof UnknownColumn || error instanceof UnreadablePicker) throw new UsageProblem(error.message);
    throw error;
  }
  const { problem } = search;
  if (problem) {
    const { message, start, end } = problem.notice;
    throw new UsageProblem(`strand ${problem.strand + 1}, characters ${start}–${end}: ${message}`);
  }
  search.strands.forEach(({ parsed }, strand) => {
    for (const { message, start, end } of parsed.notices)
      console.error(`strand ${strand + 1}, characters ${start}–${end}: ${message}`);
  });
  search.run();
  const count = search.question.effect === 'mark in place' && !search.question.flip ? search.matched : search.shown;
  await write(search, shown, count, options.out);
  if (options.explain && count === 0) {
    const reasons = explain(table, search.question);
    if (reasons.length === 0) console.error('Nothing stands in the way that could be named.');
    for (const reason of reasons) console.error(`- ${describe(reason, table, search.question)}`);
  }
  return count > 0 ? 0 : 1;
}
