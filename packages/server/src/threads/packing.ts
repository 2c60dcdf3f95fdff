/** Writes packs of the tables that have none, or one that is far behind; again and again, giving way to whoever asks. */
import type { Change } from '@usual-needle/contract';
import type { Logger } from 'pino';
import type { PackedAs } from './pack-file.js';
import { PacksKept } from './packs-kept.js';

/** The time between two looks whether there is something to pack, in milliseconds. */
const PACK_MS = 10_000;
/** The time until that look after a table was brought in, in milliseconds: a start before it is packed has to build it. */
const SOON_MS = 500;

/** The tables that there are to pack, and what packs them. */
interface Packable {
  /** Tables that are whole, with the rows they have. */
  whole(): { readonly id: number; readonly rows: number }[];
  /** Number of the last change that a table knows of; undefined if it has gone. */
  changeOf(id: number): Promise<number | undefined>;
  /** Tells when a change was made, as the log says. */
  timeOf(id: number, change: number): Promise<string | undefined>;
  /** @returns false if that could not be */
  pack(id: number, as: Pick<PackedAs, 'change' | 'at'>): Promise<boolean>;
}

export class Packing {
  private readonly kept = new PacksKept();
  private under: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | undefined;
  private closed = false;

  constructor(
    private readonly tables: Packable,
    private readonly log: Logger,
  ) {
    this.later();
  }

  /** There is a table more. */
  soon(): void {
    if (!this.closed) this.later(SOON_MS);
  }

  private later(milliseconds = PACK_MS): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      this.now()
        .catch((error: unknown) => this.log.debug({ err: error }, 'a table was not packed'))
        .finally(() => !this.closed && this.later());
    }, milliseconds).unref();
  }

  /** Packs what is to be packed, one table after the other. */
  now(): Promise<void> {
    this.under = this.under.catch(() => undefined).then(() => this.each());
    return this.under;
  }

  private async each(): Promise<void> {
    for (const { id, rows } of this.tables.whole()) {
      const change = await this.tables.changeOf(id);
      if (change === undefined || !this.kept.isWanted(id, change, rows)) continue;
      const behind = this.kept.rowsBehind(id);
      const at = await this.tables.timeOf(id, change);
      if (at !== undefined && (await this.tables.pack(id, { change, at }))) this.kept.has(id, change, behind);
    }
  }

  /** A table was taken from its pack. */
  taken(id: number, change: number): void {
    this.kept.has(id, change);
  }

  /** A change is applied. */
  passed(change: Change): void {
    this.kept.passed(change);
  }

  forget(id: number): void {
    this.kept.forget(id);
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
  }
}
