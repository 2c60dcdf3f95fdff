/**
 * Copies of tables in threads where they are not at home: beside those that borrow from them, and for a while beside one that
 * they are compared with.
 */
import type { Column } from '@usual-needle/contract';
import type { HeldTables, Loadable } from './held-tables.js';
import { lendersOf } from './loading-order.js';
import type { Spread } from './spread.js';

/** A table that is compared with another stays so long beside it, in milliseconds: it may be about to lend. */
const COMPARED_MS = 10 * 60_000;

export class Copies {
  /** Tables that each table borrows from, or is about to. */
  private readonly borrows = new Map<number, ReadonlySet<number>>();
  /** The table that was brought into a thread last to be compared. */
  private readonly compared = new Map<HeldTables, number>();

  constructor(
    private readonly spread: Spread,
    private readonly find: (id: number) => Promise<Loadable | undefined>,
  ) {}

  /** Tables that borrow from a table. */
  borrowersOf(id: number): number[] {
    return [...this.borrows].flatMap(([borrower, lenders]) => (lenders.has(id) ? [borrower] : []));
  }

  /** Those that a table borrows from, and that borrow from it. */
  related(id: number): number[] {
    return [...(this.borrows.get(id) ?? []), ...this.borrowersOf(id)];
  }

  /** A table borrows from these, and from no others. */
  borrowing(id: number, columns: readonly Column[]): void {
    const lenders = lendersOf(columns);
    if (lenders.size > 0) this.borrows.set(id, lenders);
    else this.borrows.delete(id);
    this.tidy();
  }

  /** Before a table has such columns at home: those that it borrows from are there. */
  async lending(id: number, columns: readonly Column[], at: HeldTables): Promise<void> {
    if (at !== this.spread.homeOf(id)) return;
    const lenders = lendersOf(columns);
    if (lenders.size === 0) return;
    // So that they are not put away before it borrows.
    this.borrows.set(id, new Set([...(this.borrows.get(id) ?? []), ...lenders]));
    await Promise.all([...lenders].map((lender) => this.bring(lender, at)));
  }

  /** A table is there, or there again: whoever borrows from it elsewhere has a copy. */
  async lent(id: number): Promise<void> {
    const borrowers = this.borrowersOf(id).flatMap((borrower) => this.spread.homeOf(borrower) ?? []);
    await Promise.all([...new Set(borrowers)].map((at) => this.bring(id, at)));
  }

  /** Has a table held in the thread of another, for a while. */
  async beside(other: number, id: number): Promise<void> {
    const at = this.spread.homeOf(id);
    if (!at || at === this.spread.homeOf(other)) return;
    this.compared.set(at, other);
    setTimeout(() => {
      if (this.compared.get(at) === other) this.compared.delete(at);
      this.tidy();
    }, COMPARED_MS).unref();
    await this.bring(other, at);
    this.tidy();
  }

  private async bring(id: number, to: HeldTables): Promise<void> {
    const isElsewhere = (): boolean => ![undefined, to].includes(this.spread.homeOf(id));
    if (!isElsewhere() || to.reading(id)?.done) return;
    const table = await this.find(id);
    const isThere = (): boolean => this.spread.homeOf(id) !== undefined;
    // It may have gone meanwhile.
    if (table && isThere())
      await to.load(table).catch((error: unknown) => {
        if (isThere()) throw error;
      });
    if (!isThere()) await to.drop(id);
  }

  /** Puts those away that nobody wants where they are. */
  private tidy(): void {
    for (const at of this.spread.all)
      for (const id of at.ids) {
        const isWanted =
          !at.reading(id)?.done ||
          this.compared.get(at) === id ||
          this.borrowersOf(id).some((borrower) => this.spread.homeOf(borrower) === at) ||
          [undefined, at].includes(this.spread.homeOf(id));
        if (!isWanted) at.drop(id).catch(() => undefined);
      }
  }
}
