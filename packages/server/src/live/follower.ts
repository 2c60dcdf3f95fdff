/**
 * Follows the logs of the tables: what was committed, here or by another server on the same database, is applied to the search
 * threads and then told to the open sheets, change after change, none left out and none told twice.
 */
import type { ServerResponse } from 'node:http';
import { NEWS_ROWS, type BoxNews, type Change, type ChangeNews } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { Tables } from '../data/tables.js';
import type { SearchThreads } from '../threads/search-threads.js';
import { eventText, Feed } from './feed.js';

/** The number that shelves listen to, in place of a table's: no table has that number. */
const SHELF = 0;
/** A sheet that missed more changes than this is told of the last one only: it asks everything anew. */
const MISSED = 200;

/** Waits before what failed is tried again, in milliseconds; the last one over and over. */
const WAITS = [250, 1_000, 5_000];

/** Gives what is told of a change. */
function newsOf({ number, kind, who, at, rows, rowChanges, columns, key }: Change): ChangeNews {
  const few = rowChanges !== null && rowChanges.length <= NEWS_ROWS;
  const ids = (added: boolean): number[] | null =>
    few ? rowChanges.filter(({ before, after }) => after && (before === null) === added).map(({ id }) => id) : null;
  const removed = few ? rowChanges.filter(({ after }) => after === null).map(({ id }) => id) : null;
  return {
    number,
    kind,
    who,
    at,
    rows,
    added: ids(true),
    changed: ids(false),
    removed,
    columns: columns !== null,
    key,
  };
}

/** The news of a change for readers of a box: neither rows nor columns, which may be outside of what they see. */
function readersNews({ number, at, key }: Change): ChangeNews {
  const nothing = { added: null, changed: null, removed: null, who: null };
  return { number, at, key, kind: 'edited', rows: 0, columns: false, ...nothing };
}

export class Follower {
  private readonly feed = new Feed();
  /** Work on each table, one piece after the other. */
  private readonly lanes = new Map<number, Promise<void>>();
  /** Number of the last change of each table that was told. */
  private readonly told = new Map<number, number>();
  /** Tables that could not be followed, and how often that was tried; they are tried again until they can. */
  private readonly failing = new Map<number, number>();
  private readonly timers = new Set<NodeJS.Timeout>();
  private closed = false;
  /** Told of each change that is followed. */
  heard: ((change: Pick<Change, 'kind'>) => void) | undefined;

  constructor(
    private readonly tables: Tables,
    private readonly threads: SearchThreads,
    private readonly log: Logger,
  ) {}

  /** Tells whether somebody has a table open. */
  isOpen(table: number): boolean {
    return this.feed.isOpen(table);
  }

  /** Sheets and shelves that listen. */
  get listeners(): number {
    return this.feed.listeners;
  }

  /** A change was committed here: resolves once whoever searches finds it. It is committed, whatever happens then. */
  made(change: Change): Promise<void> {
    return this.inTurn(change.table, async () => {
      const held = (await this.threads.changeOf(change.table)) ?? this.told.get(change.table) ?? change.number - 1;
      if (change.number <= held && change.number <= (this.told.get(change.table) ?? held)) return;
      if (change.number === held + 1) await this.pass(change);
      else await this.catchUpFrom(change.table, held);
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
      } else if (this.threads.resting.rests(table)) {
        // It is read as it is then, once somebody asks it.
        this.told.set(table, Math.max(found.change, this.told.get(table) ?? 0));
      } else if (held === undefined) {
        await this.threads.load(found);
        this.told.set(table, Math.max(found.change, this.told.get(table) ?? 0));
        this.lent(table);
      } else await this.catchUpFrom(table, held);
      this.shelf();
    });
  }

  /** Catches up with all tables, after the way to the other servers was broken off. */
  catchUpAll(): void {
    void this.each().catch((error: unknown) => {
      this.log.warn({ err: error }, 'the tables could not be looked at; it is tried again');
      this.again(() => this.catchUpAll(), 0);
    });
  }

  private async each(): Promise<void> {
    const there = await this.tables.list();
    const known = new Set([...there.map(({ id }) => id), ...this.threads.heldIds()]);
    for (const table of known) await this.catchUp(table);
  }

  private async catchUpFrom(table: number, after: number): Promise<void> {
    for await (const change of this.tables.log(table, after)) await this.pass(change);
  }

  /** Applies a change, and tells of it once; one that was told before, and could not be applied, is applied only. */
  private async pass(change: Change): Promise<void> {
    const { table, number } = change;
    this.heard?.(change);
    try {
      await this.threads.apply(change);
    } finally {
      if (number > (this.told.get(table) ?? 0)) {
        this.told.set(table, number);
        const forReaders = eventText('change', readersNews(change), number);
        this.feed.tell(table, eventText('change', newsOf(change), number), number, forReaders);
      }
    }
    this.lent(table);
    this.shelf();
  }

  private again(work: () => void, failures: number): void {
    if (this.closed) return;
    const timer = setTimeout(
      () => {
        this.timers.delete(timer);
        work();
      },
      WAITS[Math.min(failures, WAITS.length - 1)],
    );
    this.timers.add(timer.unref());
  }

  /** Follows later what could not be followed, until it can be. */
  private failed(table: number, error: unknown): void {
    if (this.closed) return;
    const failures = this.failing.get(table) ?? 0;
    this.log.error({ err: error, table, failures }, 'a change was not followed; it is tried again');
    this.failing.set(table, failures + 1);
    this.again(() => void this.catchUp(table), failures);
  }

  /** Tells the sheets on tables that borrow from a table that what it lends may be another. */
  lent(table: number): void {
    for (const borrower of this.threads.borrowersOf(table))
      this.feed.tell(borrower, eventText('lent', { table }), undefined, eventText('lent', { table: 0 }));
  }

  private inTurn(table: number, work: () => Promise<void>): Promise<void> {
    const last = this.lanes.get(table) ?? Promise.resolve();
    const next = last.then(work).then(
      () => void this.failing.delete(table),
      (error: unknown) => this.failed(table, error),
    );
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
      return some.map((change) => ({
        text: eventText('change', newsOf(change), change.number),
        number: change.number,
      }));
    });
  }

  /** Tells a reader of a box that something has happened to its table, and nothing of what. */
  openReader(table: number, response: ServerResponse, after: number | undefined): Promise<void> {
    const missed = async (): Promise<{ text: string; number: number }[]> => {
      const [last] = after === undefined ? [] : await this.tables.history(table, undefined, 1);
      if (!last || last.number <= (after ?? 0)) return [];
      return [{ text: eventText('change', readersNews(last), last.number), number: last.number }];
    };
    return this.feed.open(table, null, response, missed, 'reader');
  }

  /** Tells a shelf, from now on, whenever something has happened to a table or a box. */
  openShelf(response: ServerResponse): Promise<void> {
    return this.feed.open(SHELF, null, response, () => Promise.resolve([]));
  }

  /** Something that the shelves show has happened. */
  shelf(): void {
    this.feed.tell(SHELF, eventText('changed', {}));
  }

  /** Tells the sheets on a table of a box of it that was saved or deleted. */
  box(table: number, news: BoxNews): void {
    this.feed.tell(table, eventText('box', news));
    this.shelf();
  }

  /** Tells the sheets on a table that it has been deleted. */
  gone(table: number): void {
    this.told.delete(table);
    this.feed.tell(table, eventText('gone', {}), undefined, eventText('gone', {}));
    this.shelf();
  }

  close(): void {
    this.closed = true;
    for (const timer of this.timers) clearTimeout(timer);
    this.feed.close();
  }
}
