/** The search threads and the tables in them: each has a home that answers for it, and may have copies in others. */
import type { HeldTables, LoadProgress } from './held-tables.js';
import { Placement } from './placement.js';

export class TableHomes {
  readonly all: readonly HeldTables[];
  private readonly placement: Placement;

  /** @param threads how many there may be @param make makes one */
  constructor(threads: number, make: () => HeldTables) {
    this.placement = new Placement(threads);
    this.all = Array.from({ length: threads }, make);
  }

  /** The threads that have begun. */
  get begun(): HeldTables[] {
    return this.all.filter(({ thread }) => thread.isBegun);
  }

  /** Finds the home of a table, if there is such a table. */
  homeOf(id: number): HeldTables | undefined {
    const home = this.placement.homeOf(id);
    return home === undefined ? undefined : this.all[home];
  }

  /** Gives a table a home, if it had none before; see `Placement.place`. */
  place(id: number, rows?: number, related?: Iterable<number>): HeldTables {
    return this.all[this.placement.place(id, rows, related)];
  }

  forget(id: number): void {
    this.placement.forget(id);
  }

  /** Tables that are at home in a thread. */
  homedIn(one: HeldTables): number[] {
    return this.placement.homedIn(this.all.indexOf(one));
  }

  /** Finds where a table is held, its home first. */
  holders(id: number): HeldTables[] {
    const home = this.homeOf(id);
    return [...(home ? [home] : []), ...this.all.filter((one) => one !== home && one.reading(id))];
  }

  /** Tells how far a table is, at home. */
  reading(id: number): LoadProgress | undefined {
    return this.homeOf(id)?.reading(id);
  }

  /** Tells how far each table is, at home. */
  readings(): (readonly [number, LoadProgress])[] {
    return this.all.flatMap((one) =>
      one.ids.flatMap((id) => (this.homeOf(id) === one ? [[id, one.reading(id)!] as const] : [])),
    );
  }
}
