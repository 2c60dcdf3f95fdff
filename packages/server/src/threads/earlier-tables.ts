/**
 * Tables as they were after an earlier change, held for a while by a search thread beside the others, to be looked at. They are read
 * from the database, what later changes did being taken back, and put away again: the one that was asked longest ago first.
 */
import { randomInt } from 'node:crypto';
import { LARGEST_EARLIER, LARGEST_NUMBER, LIMITS, type Column, type StoredRow } from '@usual-needle/contract';
import type { Logger } from 'pino';

/** The most tables that are held, of `LIMITS.earlier` rows together. */
const MOST = 4;
/** The time after which one that nobody asks anything is put away, in milliseconds. */
const UNASKED_MS = 30 * 60_000;

/** The part of a search thread that holds tables as they were. */
interface EarlierThread {
  /** @param rows how many there will be, about */
  begin(id: number, columns: readonly Column[], rows: number): Promise<void>;
  append(id: number, rows: readonly StoredRow[]): Promise<void>;
  end(id: number, change: number): Promise<void>;
  forget(id: number): Promise<void>;
}

interface EarlierTable {
  readonly id: number;
  /** The table that it is now, and the change that it is of. */
  readonly now: number;
  readonly change: number;
  readonly columns: readonly Column[];
  /** How many rows it has, about: as many as it has now. */
  readonly rows: number;
  rowsRead: number;
  done: boolean;
}

export class EarlierTables {
  /** The tables by their own numbers, the one asked last at the end. */
  private readonly tables = new Map<number, EarlierTable & { askedAt: number }>();
  /** The end of the reading under way: one is read at a time. */
  private reading: Promise<void> = Promise.resolve();

  constructor(
    private readonly holding: EarlierThread,
    private readonly log: Logger,
  ) {}

  /**
   * Begins to read one, unless it is held; until it is whole it does not answer.
   * @param rowsOf reads its rows
   */
  open(
    of: Pick<EarlierTable, 'now' | 'change' | 'columns' | 'rows'>,
    rowsOf: () => AsyncIterable<readonly StoredRow[]>,
  ): EarlierTable {
    const held = [...this.tables.values()].find(({ now, change }) => now === of.now && change === of.change);
    if (held) return this.asked(held.id)!;
    this.tidy();
    for (const { id } of [...this.tables.values()]) if (!this.hasRoom(of.rows)) this.close(id);
    // By chance: a page that has one open over a restart of the server is not to find another one under its number.
    const table = { ...of, id: randomInt(LARGEST_NUMBER + 1, LARGEST_EARLIER), rowsRead: 0, done: false, askedAt: 0 };
    this.tables.set(table.id, table);
    this.asked(table.id);
    this.reading = this.reading.then(() => this.read(table, rowsOf));
    return table;
  }

  private hasRoom(rows: number): boolean {
    const held = [...this.tables.values()];
    return held.length < MOST && held.reduce((sum, one) => sum + one.rows, rows) <= LIMITS.earlier;
  }

  private async read(table: EarlierTable, rowsOf: () => AsyncIterable<readonly StoredRow[]>): Promise<void> {
    const { id, columns, change, rows: most } = table;
    const isWanted = (): boolean => this.tables.get(id) === table;
    try {
      if (!isWanted()) return;
      await this.holding.begin(id, columns, most);
      for await (const rows of rowsOf()) {
        if (!isWanted()) break;
        await this.holding.append(id, rows);
        table.rowsRead += rows.length;
      }
      if (isWanted()) await this.holding.end(id, change);
      table.done = true;
      // Closed while it was being read, or ended.
      if (!isWanted()) await this.holding.forget(id);
    } catch (error) {
      this.log.warn({ err: error }, 'a table could not be read as it was');
      if (isWanted()) this.close(id);
    }
  }

  /** Gives an earlier table that is held, which is asked something now. */
  asked(id: number): EarlierTable | undefined {
    const table = this.tables.get(id);
    if (!table) return undefined;
    table.askedAt = performance.now();
    this.tables.delete(id);
    this.tables.set(id, table);
    return table;
  }

  private close(id: number): void {
    this.tables.delete(id);
    this.holding.forget(id).catch(() => undefined);
  }

  /** Puts those away that nobody has asked anything for long. */
  tidy(): void {
    const now = performance.now();
    for (const { id, askedAt } of [...this.tables.values()]) if (now - askedAt > UNASKED_MS) this.close(id);
  }

  /** A table has gone: nobody looks at what it was. */
  gone(now: number): void {
    for (const table of [...this.tables.values()]) if (table.now === now) this.close(table.id);
  }

  /** Forgets what a thread held, which is lost. @returns those of it that are tables as they were */
  lost(held: readonly number[]): number[] {
    return held.filter((id) => this.tables.delete(id));
  }
}
