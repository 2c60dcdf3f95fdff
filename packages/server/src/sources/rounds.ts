/**
 * The rounds that are made of all sources: those that are due are run, one after the other. Of several servers on one database one runs
 * a source, under a lock; what was due while none was there is made up once.
 */
import type { Logger } from 'pino';
import type { Data } from '../data/data.js';
import type { Ended, KeptSource } from '../data/sources.js';
import type { Follower } from '../live/follower.js';
import type { InTray } from './from-in-tray.js';
import { missedOf } from './rhythm.js';
import type { AskedRun, Runs } from './runs.js';

/** The time between two rounds, in milliseconds. */
const ROUND_MS = 5_000;

/** Tells whether a source is run whenever a file is there. */
function isForFiles({ source: { from, rhythm } }: KeptSource): boolean {
  return 'file' in from && rhythm.every === 'change';
}

export class Rounds {
  private readonly running = new Set<number>();
  private round: Promise<void> | undefined;
  private timer: NodeJS.Timeout | undefined;
  private isOver = false;

  constructor(
    private readonly data: Data,
    private readonly runs: Runs,
    private readonly follower: Follower,
    private readonly inTray: InTray | undefined,
    private readonly log: Logger,
    private readonly now: () => Date,
  ) {}

  begin(): void {
    const next = (): void => {
      this.timer = setTimeout(() => void this.goRound().finally(() => !this.isOver && next()), ROUND_MS);
      this.timer.unref();
    };
    next();
  }

  /** Ends the rounds; a run that is under way is waited for. */
  async close(): Promise<void> {
    this.isOver = true;
    clearTimeout(this.timer);
    await this.round;
  }

  isRunning(tableId: number): boolean {
    return this.running.has(tableId);
  }

  /** Makes one round. What fails in it is tried again with the next. */
  goRound(): Promise<void> {
    this.round ??= this.allDue()
      .catch((error: unknown) => this.log.warn({ err: error }, 'sources could not be looked at; it is tried again'))
      .finally(() => (this.round = undefined));
    return this.round;
  }

  private async allDue(): Promise<void> {
    const now = this.now();
    for (const { tableId } of await this.data.sources.due(now)) {
      if (this.isOver) return;
      await this.runNow(tableId, (kept) => {
        const due = kept.nextAt === null || isForFiles(kept) ? undefined : new Date(kept.nextAt);
        // Another server may have run it since.
        if (!due || due > this.now()) return undefined;
        return { due, missed: missedOf(kept.source.rhythm, due, this.now(), new Date(kept.baseAt)) };
      });
    }
    if (this.inTray) await this.newFiles();
  }

  /** Runs the sources that wait for files in the in-tray, as far as one is there. */
  private async newFiles(): Promise<void> {
    for (const kept of await this.data.sources.list()) {
      const { from } = kept.source;
      if (this.isOver) return;
      if (!('file' in from) || !isForFiles(kept) || kept.waiting) continue;
      const isHeldBack = kept.nextAt !== null && new Date(kept.nextAt) > this.now();
      if (isHeldBack || (await this.inTray!.whole(from.file)).length === 0) continue;
      await this.runNow(kept.tableId, (now) => (now.waiting ? undefined : { due: this.now(), missed: 0 }));
    }
  }

  /**
   * Runs a source, unless it is running, here or on another server.
   * @param asked what is to be done of it as it is kept once it is nobody else's; undefined for nothing
   */
  async runNow(
    tableId: number,
    asked: (kept: KeptSource) => AskedRun | undefined,
  ): Promise<Ended | 'running' | undefined> {
    if (this.running.has(tableId)) return 'running';
    this.running.add(tableId);
    try {
      const release = await this.data.lock(tableId);
      if (!release) return 'running';
      try {
        const kept = await this.data.sources.find(tableId);
        const run = kept && asked(kept);
        const ended = run && (await this.runs.run(kept, run));
        if (ended) await this.tell(tableId);
        return ended;
      } finally {
        await release();
      }
    } finally {
      this.running.delete(tableId);
    }
  }

  /** Tells shelves and sheets that a source is not what it was. */
  private async tell(tableId: number): Promise<void> {
    this.follower.shelf();
    await this.data.changes.tell(tableId);
  }
}
