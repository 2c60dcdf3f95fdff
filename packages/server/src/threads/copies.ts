/**
 * Copies of tables in threads where they are not at home: beside those that borrow from them, and for a while beside one that
 * they are compared with, or where they are asked more than their home can answer.
 */
import type { Column } from '@usual-needle/contract';
import type { HeldTables, Loadable } from './held-tables.js';
import { lendersOf } from './loading-order.js';
import type { TableHomes } from './table-homes.js';

/** A copy for a while is put away when it was not used for so long, in milliseconds. */
const UNUSED_MS = 10 * 60_000;
/** Copies for a while in one thread. */
const MOST = 2;

export class LentCopies {
  /** Tables that each table borrows from, or is about to. */
  private readonly lenders = new Map<number, ReadonlySet<number>>();
  /** Copies for a while, with when they were used; the one that was used last at the end. */
  private readonly forAWhile = new Map<HeldTables, Map<number, number>>();

  constructor(
    private readonly homes: TableHomes,
    private readonly find: (id: number) => Promise<Loadable | undefined>,
  ) {}

  /** Tables that borrow from a table. */
  borrowersOf(id: number): number[] {
    return [...this.lenders].flatMap(([borrower, lenders]) => (lenders.has(id) ? [borrower] : []));
  }

  /** Tables that a table borrows from, and those that these borrow from. */
  lendersOf(id: number): number[] {
    const found = new Set<number>();
    const follow = (borrower: number): void => {
      for (const lender of this.lenders.get(borrower) ?? []) {
        if (found.has(lender)) continue;
        found.add(lender);
        follow(lender);
      }
    };
    follow(id);
    return [...found].filter((lender) => lender !== id);
  }

  /** The tables that a table borrows from, and that borrow from it. */
  related(id: number): number[] {
    return [...(this.lenders.get(id) ?? []), ...this.borrowersOf(id)];
  }

  /** A table borrows from these, and from no others. */
  borrowing(id: number, columns: readonly Column[]): void {
    const lenders = lendersOf(columns);
    if (lenders.size > 0) this.lenders.set(id, lenders);
    else this.lenders.delete(id);
    this.tidy();
  }

  /** Brings those that a table borrows from to where it is at home, before it has such columns. */
  async lending(id: number, columns: readonly Column[], thread: HeldTables): Promise<void> {
    if (thread !== this.homes.homeOf(id)) return;
    const lenders = lendersOf(columns);
    if (lenders.size === 0) return;
    // So that they are not put away before it borrows.
    this.lenders.set(id, new Set([...(this.lenders.get(id) ?? []), ...lenders]));
    await Promise.all([...lenders].map((lender) => this.bring(lender, thread)));
  }

  /** A table is there, or there again: whoever borrows from it elsewhere has a copy. */
  async lent(id: number): Promise<void> {
    const borrowers = this.borrowersOf(id).flatMap((borrower) => this.homes.homeOf(borrower) ?? []);
    await Promise.all([...new Set(borrowers)].map((thread) => this.bring(id, thread)));
  }

  /** Tells whether a table borrows. */
  borrows(id: number): boolean {
    return this.lenders.has(id);
  }

  /** Has a table held in the thread of another, for a while. */
  async beside(other: number, id: number): Promise<void> {
    const thread = this.homes.homeOf(id);
    if (thread && thread !== this.homes.homeOf(other)) await this.bringFor(other, thread);
  }

  /** Has a table held in a thread for a while. */
  async bringFor(id: number, thread: HeldTables): Promise<void> {
    this.used(id, thread);
    await this.bring(id, thread);
    this.tidy();
  }

  /** A copy for a while is used. */
  used(id: number, thread: HeldTables): void {
    const copies = this.forAWhile.get(thread) ?? new Map<number, number>();
    this.forAWhile.set(thread, copies);
    const isNew = !copies.delete(id);
    copies.set(id, performance.now());
    if (isNew) setTimeout(() => this.look(id, thread), UNUSED_MS).unref();
  }

  /** Tells whether it is still used; then it is looked at again. */
  private look(id: number, thread: HeldTables): void {
    const copies = this.forAWhile.get(thread)!;
    const unused = performance.now() - (copies.get(id) ?? -Infinity);
    if (unused < UNUSED_MS) setTimeout(() => this.look(id, thread), UNUSED_MS - unused).unref();
    else copies.delete(id);
    this.tidy();
  }

  private async bring(id: number, to: HeldTables): Promise<void> {
    const home = this.homes.homeOf(id);
    if (!home || home === to || to.reading(id)?.done) return;
    const table = await this.find(id);
    // It may have gone meanwhile.
    if (table && this.homes.homeOf(id)) await to.load(table);
  }

  /** Puts those away that nobody wants where they are. */
  private tidy(): void {
    for (const thread of this.homes.all) {
      const copies = this.forAWhile.get(thread) ?? new Map<number, number>();
      for (const id of [...copies.keys()].slice(0, -MOST)) copies.delete(id);
      for (const id of thread.ids) {
        const isWanted =
          !thread.reading(id)?.done ||
          [undefined, thread].includes(this.homes.homeOf(id)) ||
          copies.has(id) ||
          this.borrowersOf(id).some((borrower) => this.homes.homeOf(borrower) === thread);
        if (!isWanted) thread.drop(id).catch(() => undefined);
      }
    }
  }
}
