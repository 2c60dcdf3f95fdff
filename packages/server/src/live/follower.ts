/**
 * Follows the logs of the tables: what was committed, here or by another server on the same database, is applied to the search
 * threads and then told to the open sheets, change after change, none left out and none told twice.
 */
import type { ServerResponse } from 'node:http';
import { NEWS_ROWS, type Change, type ChangeNews } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { Tables } from '../data/tables.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { eventText, Feed } from './feed.js';

/** A sheet that missed more changes than this is told of the last one only: it asks everything anew. */
const MISSED = 200;

/** What is told of a change. */
export function newsOf({ number, kind, who, at, rows, rowChanges, columns, key }: Change): ChangeNews {
  const few = rowChanges !== null && rowChanges.length <= NEWS_ROWS;
  const ids = (added: boolean): number[] | null =>
    few ? rowChanges.filter(({ before, after }) => after && (before === null) === added).map(({ id }) => id) : null;
  return { number, kind, who, at, rows, added: ids(true), changed: ids(false), columns: columns !== null, key };
}

export class Follower {
  private readonly feed = new Feed();
  /** Work on each table, one piece after the other. */
  private readonly lanes = new Map<number, Promise<void>>();
  /** Number of the last change of each table that was told. */
  private readonly told = new Map<number, number>();

  constructor(
    private readonly tables: Tables,
    private readonly threads: SearchThreads,
    private readonly log: Logger,
  ) {}

  /** A change was committed here: resolves once whoever searches finds it. It is committed, whatever happens then. */
  made(change: Change): Promise<void> {
    return this.inTurn(change.table, async () => {
      const told = this.told.get(change.table) ?? (await this.threads.changeOf(change.table)) ?? change.number - 1;
      if (change.number <= told) return;
      if (change.number === told + 1) await this.pass(change);
      else await this.catchUpFrom(change.table, told);
    });
  }

  /** Something happened to a table elsewhere: reads from its log, or from its rows, what that was. */
  catchUp(table: number): Promise<void> {
    return this.inTurn(table, async () => {
      const found = await this.tables.find(table);
      const held = await this.threads.changeOf(table);
      if (!found) {
        if (held !== undefined) await this.threads.drop(table);
        this.gone(table);
        this.lent(table);
      } else if (held === undefined) {
        await this.threads.load(found);
        this.told.set(table, Math.max(found.change, this.told.get(table) ?? 0));
        this.lent(table);
      } else await this.catchUpFrom(table, this.told.get(table) ?? held);
    });
  }

  /** After the way to the other servers was broken off. */
  async catchUpAll(): Promise<void> {
    const there = await this.tables.list();
    const known = new Set([...there.map(({ id }) => id), ...this.threads.heldIds()]);
    for (const table of known) await this.catchUp(table);
  }

  private async catchUpFrom(table: number, after: number): Promise<void> {
    for await (const change of this.tables.log(table, after)) await this.pass(change);
  }

  private async pass(change: Change): Promise<void> {
    this.told.set(change.table, change.number);
    try {
      await this.threads.apply(change);
    } finally {
      this.feed.tell(change.table, eventText('change', newsOf(change), change.number));
    }
    this.lent(change.table);
  }

  /** Tells the sheets on tables that borrow from a table that what it lends may be another. */
  lent(table: number): void {
    for (const borrower of this.threads.borrowersOf(table)) this.feed.tell(borrower, eventText('lent', { table }));
  }

  private inTurn(table: number, work: () => Promise<void>): Promise<void> {
    const last = this.lanes.get(table) ?? Promise.resolve();
    const next = last
      .then(work)
      .catch((error: unknown) => this.log.error({ err: error, table }, 'a change was not followed'));
    this.lanes.set(table, next);
    void next.then(() => {
      if (this.lanes.get(table) === next) this.lanes.delete(table);
    });
    return next;
  }

  /** Tells a sheet of what happens to its table from now on, and first what it missed. @param after the last change it knows */
  open(table: number, who: string | null, response: ServerResponse, after: number | undefined): Promise<void> {
    return this.feed.open(table, who, response, async () => {
      if (after === undefined) return [];
      const missed = await this.tables.newsAfter(table, after, MISSED);
      const some = missed.length < MISSED ? missed : await this.tables.history(table, undefined, 1);
      return some.map((change) => eventText('change', newsOf(change), change.number));
    });
  }

  /** Tells the sheets on a table that it has been deleted. */
  gone(table: number): void {
    this.told.delete(table);
    this.feed.tell(table, eventText('gone', {}));
  }

  close(): void {
    this.feed.close();
  }
}
