/**
 * `usual-needle watch`: the rows of a box as they begin to match. Each change is told by the server; its rows, before and after,
 * are asked the box's question here, by the same host that the server runs, and those that answer it only now are written.
 */
import { setTimeout as rest } from 'node:timers/promises';
import {
  presentPlaces,
  WHOLE_SCOPE,
  type Box,
  type ChangeList,
  type Column,
  type RowChange,
  type SearchAnswer,
  type Shelf,
  type StoredBox,
  type TableSummary,
  type WireQuestion,
} from '@usual-needle/contract';
import { Host, UnknownColumn, UnreadablePicker } from '@usual-needle/host';
import { createParser } from 'eventsource-parser';
import { questionOf, shownOf, UsageProblem, type FindOptions } from './options.js';
import { asked, serverOf, Unreachable } from './server-side.js';

export interface WatchOptions {
  readonly server: string;
  readonly show?: string;
  readonly count?: number;
}

/** Number of the only table of a host. */
const TABLE = 1;
/** Changes fetched at a time, and rows asked for at a time. */
const LOG_BATCH = 50;
const WINDOW = 500;
/** Between two tries to reach the server, in milliseconds. */
const AGAIN_MS = 1_000;

async function boxNamed(server: URL, named: string): Promise<StoredBox> {
  const { boxes } = await asked<Shelf>(new URL('/api/tables', server));
  const found = boxes.filter(({ id, name }) => name === named || String(id) === named);
  if (found.length === 1) return asked<StoredBox>(new URL(`/api/boxes/${found[0].id}`, server));
  throw new UsageProblem(
    found.length === 0 ? `There is no box “${named}”.` : `Several boxes are named “${named}”; say its number.`,
  );
}

/** What is asked of the rows, and what is written of them. */
interface Watched {
  readonly columns: readonly Column[];
  readonly question: WireQuestion;
  readonly shown: readonly string[];
}

function watchedOf(
  { columns: told, stored: columns = told }: TableSummary,
  box: Box,
  text: string | undefined,
  { show }: WatchOptions,
): Watched {
  const options: FindOptions = { strand: [], pick: [], kind: [], out: 'ndjson', ...(show !== undefined && { show }) };
  const present = presentPlaces(columns).map((at) => columns[at]);
  // Marked in place, a row that does not match is on show, too.
  const effect = box.effect === 'mark in place' ? 'show only matches' : box.effect;
  return {
    columns,
    question: { ...questionOf(present, text, options, box), effect, sort: [] },
    shown: shownOf(present, options, box),
  };
}

/** Columns that are searched, narrowed by or shown, and have no cells in the log: theirs are another table's. */
function borrowedIn({ columns, question, shown }: Watched): string[] {
  const used = new Set([...question.threaded, ...(question.pickers ?? []).map(({ column }) => column), ...shown]);
  return columns.flatMap(({ name, borrows, removed }) => (borrows && !removed && used.has(name) ? [name] : []));
}

/** Of some rows, those that answer the question, by their ids, with what they show. */
async function answering(
  { columns, question, shown }: Watched,
  rows: ReadonlyMap<number, readonly string[]>,
): Promise<Map<number, readonly string[]>> {
  const host = new Host();
  host.begin(TABLE, columns);
  await host.append(
    TABLE,
    [...rows].sort(([a], [b]) => a - b).map(([id, cells]) => ({ id, cells })),
  );
  await host.finish(TABLE, 1);
  const found = new Map<number, readonly string[]>();
  for (let offset = 0; ;) {
    const request = { question, columns: [...shown], offset, limit: WINDOW };
    const answer = JSON.parse((await host.search(WHOLE_SCOPE, TABLE, request))!) as SearchAnswer;
    if (answer.problem) throw new UsageProblem(answer.problem.message);
    for (const { id, cells } of answer.rows) found.set(id, cells);
    offset += answer.rows.length;
    if (answer.rows.length === 0 || offset >= answer.shown) return found;
  }
}

async function beginning(watched: Watched, changes: readonly RowChange[]): Promise<(readonly string[])[]> {
  const side = (of: 'before' | 'after'): Map<number, readonly string[]> =>
    new Map(changes.flatMap((change) => (change[of] ? [[change.id, change[of]] as const] : [])));
  const [before, after] = [await answering(watched, side('before')), await answering(watched, side('after'))];
  return [...after].flatMap(([id, cells]) => (before.has(id) ? [] : [cells]));
}

/** Calls back at each change that is told, until stopped. @returns when the stream ends, however it does */
async function followed(server: URL, table: number, signal: AbortSignal, told: () => Promise<void>): Promise<void> {
  const response = await fetch(new URL(`/api/tables/${table}/events`, server), { signal });
  if (response.status === 404) throw new UsageProblem('The table of this box is no longer there.');
  if (!response.ok || !response.body) return;
  let due = true;
  const parser = createParser({
    onEvent: ({ event }) => {
      if (event === 'gone') throw new UsageProblem('The table of this box has been deleted.');
      due ||= event === 'change';
    },
  });
  const decoder = new TextDecoder();
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(decoder.decode(chunk, { stream: true }));
    if (due) await told();
    due = false;
  }
}

/** @returns the exit code: 0 once it was stopped, or has written as many rows as asked for */
export async function watch(named: string, text: string | undefined, options: WatchOptions): Promise<number> {
  const { count = Infinity } = options;
  if (!(count > 0 && (count === Infinity || Number.isInteger(count))))
    throw new UsageProblem('--count wants a whole number.');
  const server = serverOf(options.server);
  const { tableId, box } = await boxNamed(server, named);
  const path = new URL(`/api/tables/${tableId}`, server);
  const table = await asked<TableSummary>(path);
  let watched = watchedOf(table, box, text, options);
  // Asked of no rows first, so that what cannot be asked is said at once.
  await answering(watched, new Map()).catch((error: unknown) => {
    throw error instanceof UnknownColumn || error instanceof UnreadablePicker ? new UsageProblem(error.message) : error;
  });
  let known = table.change;
  let written = 0;
  const stop = new AbortController();
  process.once('SIGINT', () => stop.abort());
  process.once('SIGTERM', () => stop.abort());
  const borrowed = borrowedIn(watched);
  if (borrowed.length > 0)
    console.error(
      `${borrowed.join(', ')}: borrowed from another table. What is watched are this table’s own cells, so there it is as if they were blank.`,
    );
  console.error(`Watching “${box.name ?? named}” on ${table.name}, ${table.rows} rows.`);

  const catchUp = async (): Promise<void> => {
    for (;;) {
      const address = new URL(`/api/tables/${tableId}/changes?after=${known}&limit=${LOG_BATCH}`, server);
      const { changes } = await asked<ChangeList>(address);
      for (const { number, rowChanges, columns } of changes) {
        if (columns)
          watched = watchedOf({ ...table, columns: [...columns.after], stored: undefined }, box, text, options);
        known = number;
        for (const cells of await beginning(watched, rowChanges ?? [])) {
          console.log(JSON.stringify(Object.fromEntries(watched.shown.map((name, i) => [name, cells[i]]))));
          if (++written >= count) return stop.abort();
        }
      }
      if (changes.length < LOG_BATCH) return;
    }
  };
  while (!stop.signal.aborted) {
    try {
      await followed(server, tableId, stop.signal, catchUp);
    } catch (error) {
      if (error instanceof UsageProblem && !(error instanceof Unreachable)) throw error;
    }
    // The way was broken off: what happens meanwhile is in the log.
    await rest(AGAIN_MS, undefined, { signal: stop.signal }).catch(() => undefined);
  }
  return 0;
}
