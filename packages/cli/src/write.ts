/** Rows in the form asked for, to standard output or to a file. They are written as they are read out, so that any number fits. */
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { readFile, rename, rm } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import {
  EMPTY_BOX,
  OPEN_IN_PAGE,
  WHOLE_SCOPE,
  type Box,
  type Column,
  type TakenRow,
  type TakeOutForm,
  type WireQuestion,
} from '@usual-needle/contract';
import { misfitOf, WRITERS, type Taken } from '@usual-needle/formats/write';
import type { Host, TakingOut } from '@usual-needle/host';
import { askedHost } from './file-search.js';
import { UsageProblem, type FindOptions } from './options.js';

/** The page that rows are put into which are taken away, as the interface is built. */
const TEMPLATE = fileURLToPath(new URL('../../web/dist/take-away.html', import.meta.url));

/** The form that each output is; `count` is none. */
export const FORM_OF: Readonly<Record<Exclude<FindOptions['out'], 'count'>, TakeOutForm>> = {
  csv: 'csv',
  json: 'json',
  ndjson: 'ndjson',
  xlsx: 'xlsx',
  html: 'page',
  page: 'take-away',
};

/** Forms that are no text for a terminal. */
const FILES_ONLY: readonly string[] = ['xlsx', 'page'];

/** @throws UsageProblem for a form that wants a file */
export function mustHaveFile({ out, to }: Pick<FindOptions, 'out' | 'to'>): void {
  if (FILES_ONLY.includes(out) && to === undefined && process.stdout.isTTY)
    throw new UsageProblem(`${out} is nothing for a terminal: say where it goes by --to FILE.`);
}

/** Writes parts to a file, or to standard output. A file is there only once it is whole. */
export async function put(
  parts: AsyncIterable<string | Uint8Array> | Iterable<string>,
  to: string | undefined,
): Promise<void> {
  if (to === undefined) {
    for await (const part of parts) if (!process.stdout.write(part)) await once(process.stdout, 'drain');
    return;
  }
  const half = `${to}.${process.pid}.half`;
  const file = createWriteStream(half);
  try {
    await once(file, 'open');
    for await (const part of parts) if (!file.write(part)) await once(file, 'drain');
    file.end();
    await once(file, 'close');
    await rename(half, to);
  } catch (error) {
    file.destroy();
    await rm(half, { force: true });
    if ((error as NodeJS.ErrnoException).code === undefined) throw error;
    throw new UsageProblem(`${to} cannot be written: ${(error as Error).message}`);
  }
}

async function* rowsOf(taking: TakingOut): AsyncGenerator<readonly TakenRow[]> {
  for (let rows = await taking.next(); rows.length > 0; rows = await taking.next()) yield rows;
}

interface Found {
  readonly host: Host;
  readonly table: number;
  readonly columns: readonly Column[];
  readonly question: WireQuestion;
  readonly shown: readonly string[];
  readonly box: Box;
  /** The file's name, by which a page is called. */
  readonly name: string;
}

export async function write(found: Found, out: Exclude<FindOptions['out'], 'count'>, to?: string): Promise<void> {
  const { host, table, question, shown, name } = found;
  const form = FORM_OF[out];
  const marks = form !== 'csv' && form !== 'xlsx';
  const asked = form === 'take-away' ? { question: { threaded: [] } } : { question, columns: [...shown], marks };
  const taking = await askedHost(host.takeOut(WHOLE_SCOPE, table, asked));
  const facts = await taking.facts();
  const taken: Taken = { ...facts, name, ...(form === 'take-away' && (await pageOf(found))) };
  const misfit = misfitOf(form, taken, marks);
  if (misfit !== undefined) throw new UsageProblem(misfit);
  await put(WRITERS[form](taken, rowsOf(taking), { marks }), to);
}

/** The page that a file is taken away in, and the box in it. */
async function pageOf({ columns, question, shown, box, name }: Found): Promise<Partial<Taken>> {
  const template = await readFile(TEMPLATE, 'utf8').catch(() => {
    throw new UsageProblem('The page is not built yet: npm run build makes it.');
  });
  const at = new Date().toISOString();
  const asked = {
    ...EMPTY_BOX,
    ...box,
    ...question,
    name: box.name ?? name,
    columns: shown.map((of) => ({ name: of })),
  };
  return {
    ...{ template, at },
    opened: {
      stored: { id: 1, tableId: 1, version: 1, changedAt: at, name: asked.name, box: asked },
      table: { id: 1, version: 1, change: 1, name, description: '', columns: [...columns], rows: 0, changedAt: at },
      may: OPEN_IN_PAGE,
      editable: [],
    },
  };
}
