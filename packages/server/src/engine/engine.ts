/** The engine as the server sees it: a thread, filled from the database and kept in step with it. */
import { Worker } from 'node:worker_threads';
import { wrap, type Remote } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type {
  ExplainRequest,
  Explanation,
  NextMatch,
  NextRequest,
  Offers,
  OffersRequest,
  SearchRequest,
  TableSummary,
} from '@usual-needle/contract';
import type { Records } from '../data/records.js';
import type { EngineHost } from './host.js';

/** Rows read from the database at a time. */
const READ_BATCH = 5_000;

export class Engine {
  private readonly worker = new Worker(new URL('./engine.worker.js', import.meta.url));
  private readonly host: Remote<EngineHost> = wrap<EngineHost>(nodeEndpoint(this.worker));

  constructor(private readonly records: Records) {}

  /** Fills the engine with a table, and readies it for searching. */
  async load(table: TableSummary): Promise<void> {
    await this.host.load(table.id, table.columns);
    for (let after = 0; ;) {
      const rows = await this.records.readRows(table.id, after, READ_BATCH);
      if (rows.length === 0) break;
      await this.host.append(table.id, rows);
      after = rows[rows.length - 1].id;
    }
    await this.host.index(table.id);
  }

  respecify(table: TableSummary): Promise<void> {
    return this.host.respecify(table.id, table.columns);
  }

  async loadAll(): Promise<void> {
    for (const table of await this.records.listTables()) await this.load(table);
  }

  warmUp(): Promise<void> {
    return this.host.warmUp();
  }

  /** @returns the answer as JSON; undefined if there is no such table */
  search(id: number, request: SearchRequest): Promise<string | undefined> {
    return this.host.search(id, request);
  }

  explain(id: number, request: ExplainRequest): Promise<Explanation | undefined> {
    return this.host.explain(id, request);
  }

  offers(id: number, request: OffersRequest): Promise<Offers | undefined> {
    return this.host.offers(id, request);
  }

  next(id: number, request: NextRequest): Promise<NextMatch | undefined> {
    return this.host.next(id, request);
  }

  async close(): Promise<void> {
    await this.worker.terminate();
  }
}
