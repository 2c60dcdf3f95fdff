/**
 * Who answers for a table: its home, as long as that keeps up. Where many wait for it again and again, the table gets a copy in
 * another thread, and whoever has fewer waiting answers.
 */
import type { Copies } from './copies.js';
import type { HeldTables } from './held-tables.js';
import type { Spread } from './spread.js';

/** With so many waiting a thread does not keep up. */
const MANY_WAITING = 4;
/** A table gets a copy once so many of its questions found many waiting within so many milliseconds. */
const OFTEN = 50;
const WITHIN_MS = 2_000;
/** A table of more rows is held once: a copy would take as much again. */
const LARGEST = 1_000_000;

export class MuchAsked {
  /** Of each table, the questions that found many waiting since a time. */
  private readonly found = new Map<number, { since: number; times: number }>();

  constructor(
    private readonly spread: Spread,
    private readonly copies: Copies,
  ) {}

  /** The one that answers a question now; undefined without the table. */
  answering(id: number): HeldTables | undefined {
    const home = this.spread.homeOf(id);
    // What is borrowed is there at home only.
    if (!home || waiting(home) < MANY_WAITING || this.copies.borrows(id)) return home;
    const whole = this.spread.holders(id).filter((one) => one === home || one.reading(id)?.done);
    const best = least(whole);
    if (best !== home) this.copies.used(id, best);
    if (this.isOften(id) && (home.reading(id)?.rows ?? Infinity) <= LARGEST) {
      const others = this.spread.all.filter((one) => !one.reading(id) && waiting(one) < MANY_WAITING);
      if (others.length > 0) this.copies.bringFor(id, least(others)).catch(() => undefined);
    }
    return best;
  }

  private isOften(id: number): boolean {
    const now = performance.now();
    const found = this.found.get(id);
    if (!found || now - found.since > WITHIN_MS) {
      this.found.set(id, { since: now, times: 1 });
      return false;
    }
    if (++found.times < OFTEN) return false;
    this.found.delete(id);
    return true;
  }
}

function waiting({ thread }: HeldTables): number {
  return thread.turns.waitingNow;
}

/** The one with the fewest waiting; of several the first. */
function least(some: readonly HeldTables[]): HeldTables {
  return some.reduce((best, one) => (waiting(one) < waiting(best) ? one : best));
}
