/** Fills the threads at a start, and again where one was lost: from packs as far as there are any, else from the database. */
import type { Tables } from '../data/tables.js';
import type { LentCopies } from './copies.js';
import type { HeldTables, Loadable } from './held-tables.js';
import { inLoadingOrder } from './loading-order.js';
import { packsIn, sweepPacks } from './pack-folder.js';
import { WORTH_PACKING } from './packs-kept.js';
import type { TableHomes } from './table-homes.js';

/** Bytes of a pack for a row of the demo's, about. */
const BYTES_A_ROW = 400;

interface TablesToFill {
  /** The tables of the database; asked for once it is open. */
  tables(): Tables;
  place(id: number, rows: number): HeldTables;
  load(table: Loadable): Promise<void>;
  forget(id: number): Promise<void>;
  /** Tells whether a table is not to be held now. */
  rests(id: number): boolean;
}

export class Loading {
  private readonly packsPlaced: Promise<void>;
  /** Tables that were placed by their packs: whether there is such a table is not known yet. */
  private readonly supposed = new Set<number>();

  /** Begins to read the packs. @param packs their folder, if there is one */
  constructor(
    private readonly homes: TableHomes,
    private readonly copies: LentCopies,
    private readonly filled: TablesToFill,
    private readonly packs?: string,
  ) {
    this.packsPlaced = this.placePacks();
  }

  /** Spreads the packs over the threads by their sizes. */
  private async placePacks(): Promise<void> {
    for (const { id, bytes } of this.packs ? await packsIn(this.packs) : []) {
      if (this.homes.homeOf(id)) continue;
      this.homes.place(id, Math.max(WORTH_PACKING, bytes / BYTES_A_ROW));
      this.supposed.add(id);
    }
    for (const one of this.homes.all) one.readPacks(this.homes.homedIn(one));
  }

  /** Says that there is such a table. */
  known(id: number): void {
    this.supposed.delete(id);
  }

  /** @returns how many tables there are */
  async loadAll(): Promise<number> {
    const { homes } = this;
    await this.packsPlaced;
    const packed = (await Promise.all(homes.begun.map((one) => one.packed()))).flat();
    const all = await this.filled.tables().list();
    const there = new Set(all.map(({ id }) => id));
    const tables = inLoadingOrder(
      all.filter(({ id }) => !this.filled.rests(id)),
      new Set(packed),
    );
    if (this.packs) await sweepPacks(this.packs, there);
    for (const id of this.supposed) if (!there.has(id)) homes.forget(id);
    this.supposed.clear();
    for (const { id, columns } of tables) if (!homes.reading(id)?.done) this.copies.borrowing(id, columns);
    // One that is being read says itself how far it is.
    for (const { id, rows } of tables) if (!homes.reading(id)) this.filled.place(id, rows).expect(id, rows);
    await Promise.all(homes.all.map((one) => this.loadThose(tables.filter(({ id }) => homes.homeOf(id) === one))));
    await Promise.all(homes.begun.map((one) => one.distrust()));
    return all.length;
  }

  /** Loads tables, one after the other. */
  private async loadThose(tables: readonly Loadable[]): Promise<void> {
    for (const { id } of tables) {
      // Another server may have spoken of it, and so it may have been read already.
      if (this.homes.reading(id)?.done) continue;
      // As it is by now, if it is still there.
      const table = await this.filled.tables().find(id);
      if (table) await this.filled.load(table);
      else await this.filled.forget(id);
    }
  }
}
