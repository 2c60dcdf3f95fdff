/** The state of a server in numbers (OpenMetrics 1.0), for whoever watches it. No name, cell or typed text is in them. */
import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { collectDefaultMetrics, Counter, Gauge, Histogram, Registry } from 'prom-client';
import type { Data } from '../data/data.js';
import type { KeptSource } from '../data/sources.js';
import type { Follower } from '../live/follower.js';
import type { SearchThreads } from '../threads/search-threads.js';

/** Upper ends of the buckets of times, in seconds. */
const TIMES = [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30];

export class Metrics {
  private readonly registry = new Registry<'application/openmetrics-text; version=1.0.0; charset=utf-8'>();
  private readonly requests: Histogram<'method' | 'status'>;
  private readonly data: Data;
  /** The sources as they are while the numbers are told: read once for all that is told of them. */
  private sources: Promise<readonly KeptSource[]> = Promise.resolve([]);

  /** @param readers how many have a standing connection open @param packs folder of the packs */
  constructor(
    { data, threads, follower }: { data: Data; threads: SearchThreads; follower: Follower },
    readers: () => number,
    packs: string,
  ) {
    const { registry } = this;
    this.data = data;
    registry.setContentType('application/openmetrics-text; version=1.0.0; charset=utf-8');
    collectDefaultMetrics({ register: registry });
    const registers = [registry];
    const gauge = <Label extends string = never>(
      name: string,
      help: string,
      collect: (set: (value: number, labels?: Record<Label, string | number>) => void) => void | Promise<void>,
      labelNames: Label[] = [],
    ): void => {
      const made: Gauge<Label> = new Gauge<Label>({
        ...{ name, help, labelNames, registers },
        collect: async () => {
          made.reset();
          await collect((value, labels) => (labels ? made.set(labels, value) : made.set(value)));
        },
      });
    };
    this.requests = new Histogram({
      name: 'usual_needle_request_seconds',
      help: 'Time from a request to its answer',
      labelNames: ['method', 'status'],
      ...{ buckets: TIMES, registers },
    });
    const questions = new Histogram({
      name: 'usual_needle_question_seconds',
      help: 'Time from a question to its answer, by kind',
      labelNames: ['kind'],
      ...{ buckets: TIMES, registers },
    });
    threads.watch.heard = (kind, seconds) => questions.observe({ kind }, seconds);
    const changes = new Counter({
      name: 'usual_needle_changes',
      help: 'Changes of tables that were followed, by kind',
      ...{ labelNames: ['kind'], registers },
    });
    follower.heard = ({ kind }) => changes.inc({ kind });
    gauge(
      'usual_needle_readers',
      'Sheets and shelves that are open',
      (set) => {
        set(readers(), { by: 'standing connection' });
        set(follower.listeners, { by: 'events' });
      },
      ['by'],
    );
    gauge('usual_needle_queue', 'Questions that wait for their turn', (set) => set(threads.waiting));
    gauge('usual_needle_tables', 'Tables that are held', (set) => set(threads.heldIds().length));
    gauge(
      'usual_needle_table_rows',
      'Rows of each table',
      async (set) => {
        for (const { id, rows } of await data.tables.list()) set(rows, { table: id });
      },
      ['table'],
    );
    gauge(
      'usual_needle_thread_bytes',
      'Memory of each search thread',
      async (set) => {
        for (const [thread, { heap, others }] of (await threads.memory()).entries()) {
          set(heap, { thread, of: 'heap' });
          set(others, { thread, of: 'buffers' });
        }
      },
      ['thread', 'of'],
    );
    gauge(
      'usual_needle_source_success_timestamp_seconds',
      'When a source was done last, or had nothing new',
      async (set) => {
        for (const { tableId, rowsFrom } of await this.sources)
          if (rowsFrom !== null) set(new Date(rowsFrom).getTime() / 1_000, { table: tableId });
      },
      ['table'],
    );
    gauge(
      'usual_needle_source_failures',
      'Failures of a source since it was done last',
      async (set) => {
        for (const { tableId, failures } of await this.sources) set(failures, { table: tableId });
      },
      ['table'],
    );
    gauge(
      'usual_needle_source_waiting',
      'Whether a source waits for its builder',
      async (set) => {
        for (const { tableId, waiting } of await this.sources) set(waiting ? 1 : 0, { table: tableId });
      },
      ['table'],
    );
    gauge('usual_needle_packs_bytes', 'Bytes of the packs', async (set) => set(await bytesIn(packs)));
    gauge('usual_needle_database_seconds', 'Time that the database takes to answer nothing', async (set) => {
      const begun = performance.now();
      await data.ping();
      set((performance.now() - begun) / 1_000);
    });
  }

  request(method: string, status: number, seconds: number): void {
    this.requests.observe({ method, status }, seconds);
  }

  get type(): string {
    return this.registry.contentType;
  }

  text(): Promise<string> {
    this.sources = this.data.sources.list();
    return this.registry.metrics();
  }
}

async function bytesIn(folder: string): Promise<number> {
  const names = await readdir(folder).catch(() => []);
  const sizes = names.map(async (name) => (await stat(join(folder, name)).catch(() => undefined))?.size ?? 0);
  return (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
}
