/**
 * Tables that rest: nobody has asked them for long, or the server is at its ceiling of memory. They are held by no thread, and are taken
 * back, from their packs where they have one, when they are asked. Tables that borrow, lend, or are open at somebody's do not rest.
 */
import type { Logger } from 'pino';
import type { LoadProgress } from './held-tables.js';

/** A table that was not asked for this time, in milliseconds, rests. */
const UNASKED_MS = 24 * 60 * 60 * 1000;
/** The time between two looks, in milliseconds. */
const LOOK_MS = 10_000;

interface Held {
  /** Tables that are whole, with the rows they have. */
  whole(): { readonly id: number; readonly rows: number }[];
  /** Tells whether a table may not rest, since others need it. */
  isNeeded(id: number): boolean;
  /** Has a table packed that has no pack yet, and forgets it. */
  putAway(id: number): Promise<void>;
  /** Takes a table back; it says itself how far it is. */
  take(id: number): Promise<void>;
}

export class Resting {
  /** Rows of the tables that rest, and of those that are being taken back. */
  private readonly resting = new Map<number, number>();
  private readonly waking = new Set<number>();
  private readonly asked = new Map<number, number>();
  private timer: NodeJS.Timeout | undefined;
  /** Tells whether somebody has a table open. */
  isOpen: (id: number) => boolean = () => false;

  /**
   * @param ceiling bytes that the process may have; undefined for any number
   * @param now the time, in milliseconds @param memory bytes that the process has
   */
  constructor(
    private readonly held: Held,
    private readonly log: Logger,
    private readonly ceiling: number | undefined,
    private readonly now: () => number = Date.now,
    private readonly memory: () => number = () => process.memoryUsage.rss(),
  ) {}

  begin(): void {
    this.timer = setTimeout(() => {
      this.look()
        .catch((error: unknown) => this.log.warn({ err: error }, 'a table could not be put away; it is tried again'))
        .finally(() => this.timer && this.begin());
    }, LOOK_MS);
    this.timer.unref();
  }

  close(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
  }

  /** A table is asked. @returns how far it is, where it has to be taken back first */
  ask(id: number): LoadProgress | undefined {
    this.asked.set(id, this.now());
    const rows = this.resting.get(id);
    if (rows === undefined) return undefined;
    if (!this.waking.has(id)) this.wake(id);
    return { rows, rowsRead: 0, done: false };
  }

  private wake(id: number): void {
    this.waking.add(id);
    void this.held
      .take(id)
      .then(() => void this.resting.delete(id))
      // It rests on, and is tried again when it is asked again, which whoever waits for it does.
      .catch((error: unknown) => this.log.warn({ err: error, table: id }, 'a table could not be taken back'))
      .finally(() => this.waking.delete(id));
  }

  /** A table that rests, as whoever counts all tables and rows takes it. */
  restingAs(id: number): LoadProgress {
    const rows = this.resting.get(id) ?? 0;
    return { rows, rowsRead: rows, done: true };
  }

  rests(id: number): boolean {
    return this.resting.has(id);
  }

  /** The tables that rest, or are being taken back. */
  get ids(): number[] {
    return [...this.resting.keys()];
  }

  forget(id: number): void {
    this.resting.delete(id);
    this.asked.delete(id);
  }

  /** Puts away what nobody asked for long, and one table more where there is too much. */
  async look(): Promise<void> {
    const before = this.now() - UNASKED_MS;
    const lately = (id: number): number => {
      // One that was never asked counts from when it was seen first.
      if (!this.asked.has(id)) this.asked.set(id, this.now());
      return this.asked.get(id)!;
    };
    const all = this.held
      .whole()
      .filter(({ id }) => !this.resting.has(id) && !this.held.isNeeded(id) && !this.isOpen(id))
      .sort((a, b) => lately(a.id) - lately(b.id));
    const unasked = all.filter(({ id }) => lately(id) < before);
    const isTooMuch = this.ceiling !== undefined && this.memory() > this.ceiling;
    const those = unasked.length > 0 || !isTooMuch ? unasked : all.slice(0, 1);
    for (const { id, rows } of those) await this.putAway(id, rows);
  }

  private async putAway(id: number, rows: number): Promise<void> {
    const asked = this.asked.get(id);
    this.resting.set(id, rows);
    try {
      await this.held.putAway(id);
    } catch (error) {
      this.resting.delete(id);
      throw error;
    }
    this.log.info({ table: id, rows }, 'a table rests');
    // It was asked while it was put away.
    if (this.asked.get(id) !== asked) this.wake(id);
  }
}
