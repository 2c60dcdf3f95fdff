/**
 * Decides who answers for a table: its home, as long as that keeps up. Where many wait for it again and again, the table gets a copy in
 * another thread, and whoever has fewer waiting answers.
 */
import { performance, type EventLoopUtilization } from 'node:perf_hooks';
import type { LentCopies } from './copies.js';
import type { HeldTables } from './held-tables.js';
import type { SearchThread } from './search-thread.js';
import type { TableHomes } from './table-homes.js';

/** The number of waiting questions with which a thread does not keep up. */
const MANY_WAITING = 4;
/** A table gets a copy once so many of its questions found many waiting, in each of so many stretches of so many milliseconds. */
const OFTEN = 50;
const STRETCHES = 3;
const STRETCH_MS = 2_000;
/** The share of a stretch that its thread has to have worked: one that rests in between keeps up, though some came at once. */
const BUSY = 0.8;
/** A table of more rows is held once: a copy would take as much again. */
const LARGEST = 1_000_000;

/** A stretch of time in which questions of a table found many waiting. */
interface Stretch {
  since: number;
  times: number;
  /** How much its thread had worked when it began. */
  worked: EventLoopUtilization;
  /** The stretches before it, one after the other, with as many. */
  stretches: number;
}

export class MuchAsked {
  /** The questions of each table that found many waiting since a time, and the stretches before that when as many did. */
  private readonly found = new Map<number, Stretch>();
  /** Threads that a copy is being brought into: the first searches of one that has just begun are slow, so nobody's are. */
  private readonly cold = new Set<HeldTables>();

  constructor(
    private readonly homes: TableHomes,
    private readonly copies: LentCopies,
  ) {}

  /** The one that answers a question now; undefined without the table. */
  answering(id: number): HeldTables | undefined {
    const home = this.homes.homeOf(id);
    // What is borrowed is there at home only.
    if (!home || waiting(home) < MANY_WAITING || this.copies.borrows(id)) return home;
    const whole = this.homes
      .holders(id)
      .filter((one) => one === home || (one.reading(id)?.done && !this.cold.has(one)));
    const best = least(whole);
    if (best !== home) this.copies.used(id, best);
    if (this.isOften(id, home.thread) && (home.reading(id)?.rows ?? Infinity) <= LARGEST) {
      const others = this.homes.all.filter((one) => !one.reading(id) && waiting(one) < MANY_WAITING);
      if (others.length > 0) this.bring(id, least(others)).catch(() => undefined);
    }
    return best;
  }

  private async bring(id: number, to: HeldTables): Promise<void> {
    this.cold.add(to);
    try {
      await this.copies.bringFor(id, to);
      await to.warmUp();
    } finally {
      this.cold.delete(to);
    }
  }

  /** A question of a table has found many waiting. @returns whether that is so again and again */
  private isOften(id: number, thread: Pick<SearchThread, 'worked'>): boolean {
    const now = performance.now();
    const found = this.found.get(id);
    const took = found ? now - found.since : Infinity;
    if (!found || took > 2 * STRETCH_MS)
      this.found.set(id, { since: now, times: 1, worked: thread.worked, stretches: 0 });
    else if (took <= STRETCH_MS) found.times++;
    else {
      const { worked } = thread;
      const { utilization } = performance.eventLoopUtilization(worked, found.worked);
      found.stretches = found.times >= OFTEN && utilization >= BUSY ? found.stretches + 1 : 0;
      found.since = now;
      found.times = 1;
      found.worked = worked;
      if (found.stretches < STRETCHES) return false;
      this.found.delete(id);
      return true;
    }
    return false;
  }
}

function waiting({ thread }: HeldTables): number {
  return thread.turns.waitingNow;
}

/** The one with the fewest waiting; of several the first. */
function least(some: readonly HeldTables[]): HeldTables {
  return some.reduce((best, one) => (waiting(one) < waiting(best) ? one : best));
}
