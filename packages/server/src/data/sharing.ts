/** Boxes as they are shared: with whom, with what open to their readers, and the link of each, which is known by its hash only. */
import { and, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import {
  pinned,
  sharedNow,
  type Box,
  type BoxShare,
  type Column,
  type PinnedShare,
  type Share,
} from '@usual-needle/contract';
import { hashOf, newSecret } from '../access/secrets.js';
import type { Database } from './database.js';
import { boxes, shares, tables } from './schema.js';

/** A box that readers may open, with how it is shared. */
export interface SharedBox {
  readonly id: number;
  readonly tableId: number;
  readonly share: PinnedShare;
}

export class Sharing {
  constructor(private readonly db: Database['db']) {}

  /** How a box is shared. One that never was has what `unshared` gives. */
  async of(boxId: number, box: Box, columns: readonly Column[]): Promise<BoxShare> {
    const [found] = await this.db.select().from(shares).where(eq(shares.boxId, boxId));
    return {
      ...sharedNow(found?.share, box, columns),
      link: (found?.linkHash ?? null) !== null,
      opened: found?.opened ?? 0,
      openedAt: found?.openedAt ? new Date(found.openedAt).toISOString() : null,
    };
  }

  /** @param columns of the box's table */
  async set(boxId: number, given: Share, columns: readonly Column[]): Promise<void> {
    const share = pinned(given, columns);
    await this.db.insert(shares).values({ boxId, share }).onConflictDoUpdate({ target: shares.boxId, set: { share } });
  }

  /** Makes the link of a box; one of before does not work any more. @returns the secret that is in it */
  async newLink(boxId: number, given: Share, columns: readonly Column[]): Promise<string> {
    const share = pinned(given, columns);
    const secret = newSecret();
    const linkHash = hashOf(secret);
    await this.db
      .insert(shares)
      .values({ boxId, share, linkHash })
      .onConflictDoUpdate({ target: shares.boxId, set: { linkHash } });
    return secret;
  }

  async endLink(boxId: number): Promise<void> {
    await this.db.update(shares).set({ linkHash: null }).where(eq(shares.boxId, boxId));
  }

  private readonly there = and(isNull(boxes.deletedAt), isNull(tables.deletedAt), isNotNull(tables.completedAt));

  private select() {
    return this.db
      .select({ id: boxes.id, tableId: boxes.tableId, share: shares.share })
      .from(shares)
      .innerJoin(boxes, eq(boxes.id, shares.boxId))
      .innerJoin(tables, eq(tables.id, boxes.tableId));
  }

  /** The box that a link opens; undefined for a link that opens none. */
  async byLink(secret: string): Promise<SharedBox | undefined> {
    const [found] = await this.select().where(and(eq(shares.linkHash, hashOf(secret)), this.there));
    return found;
  }

  async byId(boxId: number): Promise<SharedBox | undefined> {
    const [found] = await this.select().where(and(eq(shares.boxId, boxId), this.there));
    return found;
  }

  /** Boxes that are open to a person who is signed in. */
  async openTo(person: number): Promise<SharedBox[]> {
    const all = await this.select().where(this.there);
    return all.filter(({ share }) => share.everyone || share.people.includes(person));
  }

  async wasOpened(boxId: number): Promise<void> {
    await this.db
      .update(shares)
      .set({ openedAt: sql`now()`, opened: sql`${shares.opened} + 1` })
      .where(eq(shares.boxId, boxId));
  }
}
