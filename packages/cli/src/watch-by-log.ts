/**
 * Rows that begin to match, by the table's log: the rows of each change, before and after, are asked the box's question here, by
 * the same host that the server runs. Each change is seen, however many there were meanwhile.
 */
import { WHOLE_SCOPE, type Box, type ChangeList, type RowChange, type TableSummary } from '@usual-needle/contract';
import { Host } from '@usual-needle/host';
import { askedHost, parsed } from './file-search.js';
import { UsageProblem } from './options.js';
import type { Server } from './server-side.js';
import { watchedOf, type Beginnings, type Watched } from './watched.js';

/** Number of the only table of a host. */
const TABLE = 1;
/** Changes fetched at a time, and rows asked for at a time. */
const LOG_BATCH = 50;
const WINDOW = 500;

/** Finds which of some rows answer the question: by their ids, with what they show. */
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
    const answer = await askedHost(host.search(WHOLE_SCOPE, TABLE, request).then(parsed));
    if (answer.problem) throw new UsageProblem(answer.problem.message);
    for (const { id, cells } of answer.rows) found.set(id, cells);
    offset += answer.rows.length;
    if (answer.rows.length === 0 || offset >= answer.shown) return found;
  }
}

/** Asks of no rows, so that what cannot be asked is said at once. @throws UsageProblem */
export async function checkAsking(watched: Watched): Promise<void> {
  await answering(watched, new Map());
}

async function beginning(watched: Watched, changes: readonly RowChange[]): Promise<(readonly string[])[]> {
  const side = (of: 'before' | 'after'): Map<number, readonly string[]> =>
    new Map(changes.flatMap((change) => (change[of] ? [[change.id, change[of]] as const] : [])));
  const [before, after] = [await answering(watched, side('before')), await answering(watched, side('after'))];
  return [...after].flatMap(([id, cells]) => (before.has(id) ? [] : [cells]));
}

export class ByLog implements Beginnings {
  private known: number;

  constructor(
    private readonly server: Server,
    private readonly path: URL,
    private readonly table: TableSummary,
    private watched: Watched,
    private readonly asking: { readonly box: Box; readonly text?: string; readonly show?: string },
  ) {
    this.known = table.change;
  }

  get shown(): readonly string[] {
    return this.watched.shown;
  }

  async *since(): AsyncGenerator<readonly string[]> {
    const { box, text, show } = this.asking;
    for (;;) {
      const address = new URL(`${this.path.pathname}/changes?after=${this.known}&limit=${LOG_BATCH}`, this.path);
      const { changes } = await this.server.asked<ChangeList>(address);
      for (const { number, rowChanges, columns } of changes) {
        if (columns)
          this.watched = watchedOf({ ...this.table, columns: [...columns.after], stored: undefined }, box, text, show);
        this.known = number;
        yield* await beginning(this.watched, rowChanges ?? []);
      }
      if (changes.length < LOG_BATCH) return;
    }
  }
}
