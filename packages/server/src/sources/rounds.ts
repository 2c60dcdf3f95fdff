/**
 * The rounds that are made of all sources: those that are due are run, a few at a time. Of several servers on one database one runs
 * a source, under a lock; what was due while none was there is made up once.
 */
import type { Logger } from 'pino';
import type { Data } from '../data/data.js';
import type { Ended, KeptSource } from '../data/sources.js';
import type { Follower } from '../live/follower.js';
import type { InTray } from './from-in-tray.js';
import { isNoticed, missedOf } from './rhythm.js';
import type { AskedRun, Runs } from './runs.js';

/** The time between two rounds, in milliseconds. */
const ROUND_MS = 5_000;
/** Runs that go on at once; others come with the next round. */
const AT_ONCE = 3;
/** The time that runs have when the server ends, in milliseconds. */
const GRACE_MS = 1_500;

export class Rounds {
  private readonly running = new Set<number>();
  private readonly under = new Set<Promise<void>>();
  private timer: NodeJS.Timeout | undefined;
  private isLooking = false;
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
    this.timer = setInterval(() => void (this.isLooking || this.goRound()), ROUND_MS);
    this.timer.unref();
  }

  /** Ends the rounds. A run that is under way is waited for, but not for long: what it has not written by then is made up. */
  async close(): Promise<void> {
    this.isOver = true;
    clearInterval(this.timer);
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<void>((done) => (timer = setTimeout(done, GRACE_MS)));
    await Promise.race([Promise.allSettled([...this.under]), late]);
    clearTimeout(timer);
  }

  isRunning(tableId: number): boolean {
    return this.running.has(tableId);
  }

  /** Makes a round, and waits for the runs that it began. What fails in it is tried again with the next. */
  goRound(): Promise<void> {
    const round = this.allDue()
      .catch((error: unknown) => this.log.warn({ err: error }, 'sources could not be looked at; it is tried again'))
      .finally(() => this.under.delete(round));
    this.under.add(round);
    return round;
  }

  private async allDue(): Promise<void> {
    const begun: Promise<unknown>[] = [];
    this.isLooking = true;
    try {
      for (const { tableId } of await this.data.sources.due(this.now()))
        if (this.mayBegin(tableId))
          begun.push(
            this.runNow(tableId, (kept) => {
              const due = kept.nextAt === null || isNoticed(kept.source) ? undefined : new Date(kept.nextAt);
              // Another server may have run it since.
              if (!due || due > this.now()) return undefined;
              return { due, missed: missedOf(kept.source.rhythm, due, this.now(), new Date(kept.baseAt)) };
            }),
          );
      if (this.inTray) begun.push(...(await this.newFiles(this.inTray)));
    } finally {
      this.isLooking = false;
    }
    const failed = (await Promise.allSettled(begun)).find((one) => one.status === 'rejected');
    if (failed) throw failed.reason;
  }

  /** Tells whether a run may begin: those that take long keep others from it only where there are several of them. */
  private mayBegin(tableId: number): boolean {
    return !this.isOver && this.running.size < AT_ONCE && !this.running.has(tableId);
  }

  /** Runs the sources that wait for files in the in-tray, as far as one is there. */
  private async newFiles(inTray: InTray): Promise<Promise<unknown>[]> {
    const begun: Promise<unknown>[] = [];
    for (const kept of await this.data.sources.list()) {
      const { from } = kept.source;
      if (!('file' in from) || !isNoticed(kept.source) || kept.waiting || !this.mayBegin(kept.tableId)) continue;
      const isHeldBack = kept.nextAt !== null && new Date(kept.nextAt) > this.now();
      if (isHeldBack || (await inTray.whole(from.file)).length === 0) continue;
      begun.push(this.runNow(kept.tableId, (now) => (now.waiting ? undefined : { due: this.now(), missed: 0 })));
    }
    return begun;
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
  async tell(tableId: number): Promise<void> {
    this.follower.shelf();
    await this.data.changes.tell(tableId);
  }
}
