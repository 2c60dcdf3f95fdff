/**
 * Places each table in one of the search threads, its home. Tables that borrow from each other are at home together; any other goes
 * where the fewest rows are. Small ones are not worth another thread.
 */

/** A thread more is begun for a table of so many rows, once those that there are have as many each. */
const WORTH_A_THREAD = 10_000;

export class Placement {
  private readonly homes = new Map<number, { readonly thread: number; readonly rows: number }>();

  /** @param threads how many there may be */
  constructor(private readonly threads: number) {}

  homeOf(id: number): number | undefined {
    return this.homes.get(id)?.thread;
  }

  /** Ids of the tables of a thread. */
  homedIn(thread: number): number[] {
    return [...this.homes].flatMap(([id, home]) => (home.thread === thread ? [id] : []));
  }

  /**
   * Gives a table a home, if it had none before.
   * @param rows how many it has; undefined if nobody knows yet @param related those that it borrows from, and that borrow from it
   */
  place(id: number, rows?: number, related: Iterable<number> = []): number {
    const thread = this.homeOf(id) ?? this.beside(related) ?? this.emptiest(rows);
    this.homes.set(id, { thread, rows: rows ?? this.homes.get(id)?.rows ?? 0 });
    return thread;
  }

  private beside(related: Iterable<number>): number | undefined {
    for (const id of related) {
      const home = this.homeOf(id);
      if (home !== undefined) return home;
    }
    return undefined;
  }

  private emptiest(rows = Infinity): number {
    const held: number[] = [];
    for (const home of this.homes.values()) held[home.thread] = (held[home.thread] ?? 0) + home.rows;
    let least = 0;
    for (let i = 0; i < held.length; i++) {
      held[i] ??= 0;
      if (held[i] < held[least]) least = i;
    }
    const another = held.length < this.threads && rows >= WORTH_A_THREAD && held[least] >= WORTH_A_THREAD;
    return another ? held.length : least;
  }

  forget(id: number): void {
    this.homes.delete(id);
  }
}
