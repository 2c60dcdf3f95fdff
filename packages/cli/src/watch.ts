/** `usual-needle watch`: the rows of a box as they begin to match, each time the server tells of a change. */
import { setTimeout as rest } from 'node:timers/promises';
import type { ShelfContent, StoredBox, TableSummary } from '@usual-needle/contract';
import { createParser } from 'eventsource-parser';
import { UsageProblem } from './options.js';
import { refusal, Server, Unreachable, type ServerOptions } from './server-side.js';
import { ByAsking } from './watch-by-asking.js';
import { ByLog, checkAsking } from './watch-by-log.js';
import { borrows, watchedOf } from './watched.js';

export interface WatchOptions extends ServerOptions {
  readonly show?: string;
  readonly count?: number;
}

/** The time between two tries to reach the server, in milliseconds. */
const AGAIN_MS = 1_000;

async function boxNamed(server: Server, named: string): Promise<StoredBox> {
  const { boxes } = await server.asked<ShelfContent>(server.at('/api/tables'));
  const found = boxes.filter(({ id, name }) => name === named || String(id) === named);
  if (found.length === 1) return server.asked<StoredBox>(server.at(`/api/boxes/${found[0].id}`));
  throw new UsageProblem(
    found.length === 0 ? `There is no box “${named}”.` : `Several boxes are named “${named}”; say its number.`,
  );
}

/** Calls back at each change that is told, of the table or of one that it borrows from, until stopped. @returns when the stream ends, however it does */
async function followed(server: Server, table: number, signal: AbortSignal, told: () => Promise<void>): Promise<void> {
  const response = await server.fetch(server.at(`/api/tables/${table}/events`), { signal });
  if (response.status === 404) throw new UsageProblem('The table of this box is no longer there.');
  if (response.status === 401 || response.status === 403)
    throw refusal(response.status, await response.json().catch(() => undefined));
  if (!response.ok || !response.body) return;
  let due = true;
  const parser = createParser({
    onEvent: ({ event }) => {
      if (event === 'gone') throw new UsageProblem('The table of this box has been deleted.');
      due ||= event === 'change' || event === 'lent';
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
  const { count = Infinity, show } = options;
  if (!(count > 0 && (count === Infinity || Number.isInteger(count))))
    throw new UsageProblem('--count wants a whole number.');
  const server = new Server(options);
  const { tableId, box } = await boxNamed(server, named);
  const path = server.at(`/api/tables/${tableId}`);
  const table = await server.asked<TableSummary>(path);
  const watched = watchedOf(table, box, text, show);
  await checkAsking(watched);
  const beginnings = borrows(watched)
    ? await ByAsking.begun(server, path, watched)
    : new ByLog(server, path, table, watched, { box, text, show });
  let written = 0;
  const stop = new AbortController();
  process.once('SIGINT', () => stop.abort());
  process.once('SIGTERM', () => stop.abort());
  console.error(`Watching “${box.name ?? named}” on ${table.name}, ${table.rows} rows.`);

  const catchUp = async (): Promise<void> => {
    for await (const cells of beginnings.since()) {
      console.log(JSON.stringify(Object.fromEntries(beginnings.shown.map((name, i) => [name, cells[i]]))));
      if (++written >= count) return stop.abort();
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
