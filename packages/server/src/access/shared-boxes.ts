/**
 * Boxes as their readers open them: found by the secret in a link, or by number for who is signed in, with the scope of their readers.
 * What was found is remembered for two seconds, as who asks is, so that a link that is renewed ends everywhere within that time.
 */
import { LRUCache } from 'lru-cache';
import {
  LARGEST_NUMBER,
  readerBox,
  readerScope,
  sharedNow,
  type Box,
  type Scope,
  type StoredBox,
  type TableSummary,
} from '@usual-needle/contract';
import type { Boxes } from '../data/boxes.js';
import type { SharedBox, Sharing } from '../data/sharing.js';
import type { Tables } from '../data/tables.js';
import { KNOWN_MS } from './access.js';
import type { Principal } from './principal.js';
import { roleOf } from './scopes.js';
import { hashOf } from './secrets.js';

/** Boxes that are remembered. */
const REMEMBERED = 1_000;
/** Letters of a secret, at the end of a slug. */
const SECRET = 22;

/** A box, its table, and what its readers may see and do. */
export interface ReadersBox {
  readonly stored: StoredBox;
  /** The box as its readers are told it. */
  readonly told: Box;
  readonly table: TableSummary;
  readonly scope: Scope;
  /** Origins of other sites whose pages may fetch its rows. */
  readonly sites: readonly string[];
}

interface Found extends ReadersBox {
  readonly shared: SharedBox | undefined;
}

/** Gives the slug of a box's link: its name in plain letters, for who reads addresses, and the secret. */
export function slugOf(name: string, secret: string): string {
  const words = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40);
  return words === '' ? secret : `${words}-${secret}`;
}

export class SharedBoxes {
  private readonly known = new LRUCache<string, Promise<{ readonly found: Found | undefined }>>({
    max: REMEMBERED,
    ttl: KNOWN_MS,
  });

  constructor(
    private readonly tables: Pick<Tables, 'find'>,
    private readonly boxes: Boxes,
    private readonly sharing: Sharing,
  ) {}

  /** @returns undefined if the slug opens no box to this principal, for whatever reason */
  async open(slug: string, principal: Principal): Promise<ReadersBox | undefined> {
    const isNumber = /^\d{1,10}$/.test(slug);
    const { found } = await this.remembered(isNumber ? slug : hashOf(slug.slice(-SECRET)), () =>
      isNumber ? this.byNumber(Number(slug)) : this.byLink(slug.slice(-SECRET)),
    );
    if (!found || !isNumber) return found;
    return isOpenTo(found, principal) ? found : undefined;
  }

  /** Sharing, a box or a table was changed here. */
  changed(): void {
    this.known.clear();
  }

  private async remembered(
    key: string,
    find: () => Promise<Found | undefined>,
  ): Promise<{ readonly found: Found | undefined }> {
    const known = this.known.get(key);
    if (known) return known;
    const asked = find().then((found) => ({ found }));
    asked.catch(() => this.known.delete(key));
    this.known.set(key, asked);
    return asked;
  }

  private async byNumber(id: number): Promise<Found | undefined> {
    if (id > LARGEST_NUMBER) return undefined;
    const stored = await this.boxes.find(id);
    return stored && this.whole(stored, await this.sharing.byId(id));
  }

  private async byLink(secret: string): Promise<Found | undefined> {
    const shared = await this.sharing.byLink(secret);
    const stored = shared && (await this.boxes.find(shared.id));
    return stored && this.whole(stored, shared);
  }

  private async whole(stored: StoredBox, shared: SharedBox | undefined): Promise<Found | undefined> {
    const table = await this.tables.find(stored.tableId);
    if (!table) return undefined;
    const { columns } = table;
    const { share, lostLock } = sharedNow(shared?.share, stored.box, columns);
    const scope = readerScope(stored.box, columns, share, lostLock);
    return { stored, told: readerBox(stored.box, columns, scope), table, shared, scope, sites: share.sites ?? [] };
  }
}

/** Tells whether a box opens by its number: for who keeps its table, and for those it is shared with by name or as everyone. */
function isOpenTo({ shared, stored }: Found, principal: Principal): boolean {
  if (roleOf(principal, stored.tableId)) return true;
  if (principal.is !== 'person' || !shared) return false;
  if (principal.token?.tables?.includes(stored.tableId) === false) return false;
  return shared.share.everyone || shared.share.people.includes(principal.id);
}
