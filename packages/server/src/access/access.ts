/**
 * Finding who asks. A cookie leads to a sign-in, which ends on the server; what was found is remembered for two seconds, so that a person who is
 * disabled, or whose role is taken away, is somebody else everywhere within that time, on every server of the same database.
 */
import type { IncomingMessage } from 'node:http';
import { LRUCache } from 'lru-cache';
import type { Logger } from 'pino';
import type { People, SignedIn } from '../data/people.js';
import type { Tokens } from '../data/tokens.js';
import { asMadeUp, MADE_UP, madeUpOf } from './made-up.js';
import { NOBODY, setPrincipal, THIS_MACHINE, type Principal } from './principal.js';
import { hashOf } from './secrets.js';

/** A principal is looked up anew after so long, in milliseconds. */
export const KNOWN_MS = 2_000;

/** Sign-ins that are remembered. */
const REMEMBERED = 10_000;

/** How the server is reached, as far as it says who asks. */
export interface Reached {
  /** True where only this machine can reach it. */
  readonly loopback: boolean;
  /** True where everybody may do everything, since whoever runs the server said so. */
  readonly open: boolean;
  /** True where a proxy in front of the server says by which scheme it is reached. */
  readonly proxy?: boolean;
}

export class Access {
  private readonly known = new LRUCache<string, Promise<Principal>>({ max: REMEMBERED, ttl: KNOWN_MS });

  constructor(
    readonly people: People,
    readonly tokens: Tokens,
    readonly reached: Reached,
    private readonly log: Logger,
    /** Gives the numbers of the demo's tables. */
    private readonly demoTables: () => Promise<readonly number[]>,
  ) {}

  /** Finds whom a request comes from, and notes it for `principalOf`. */
  async identify(request: IncomingMessage): Promise<Principal> {
    const principal = await this.find(request);
    setPrincipal(request, principal);
    return principal;
  }

  private async find(request: IncomingMessage): Promise<Principal> {
    if (this.reached.open) return THIS_MACHINE;
    // A program says who it asks for; the cookie of a browser is not looked at then.
    const token = bearerOf(request);
    if (token !== undefined) return this.byToken(token);
    const secret = cookieOf(request);
    const person = secret === undefined ? NOBODY : await this.signedIn(secret);
    if (person.is === 'person') return person;
    if (!this.isFromHere(request) || (await this.people.areMade())) return NOBODY;
    const madeUp = madeUpOf(request);
    if (!madeUp) return THIS_MACHINE;
    return this.remembered(`made up ${madeUp.host}`, async () => {
      const tables = await this.demoTables();
      return tables.length > 0 ? asMadeUp(madeUp, tables) : NOBODY;
    });
  }

  /** The made-up people as whom the demo can be looked at: while it is there, nobody was made, and the page is on this machine. */
  async madeUpPeople(request: IncomingMessage): Promise<typeof MADE_UP> {
    if (this.reached.open || !this.isFromHere(request) || (await this.people.areMade())) return [];
    return (await this.demoTables()).length > 0 ? MADE_UP : [];
  }

  /** Tells whether a request comes from this machine: not one that a proxy on it passes on for somebody else. */
  private isFromHere({ headers }: IncomingMessage): boolean {
    const isPassedOn = headers['x-forwarded-for'] !== undefined || headers.forwarded !== undefined;
    return this.reached.loopback && this.reached.proxy !== true && !isPassedOn;
  }

  private signedIn(secret: string): Promise<Principal> {
    return this.remembered(`cookie ${secret}`, async () => {
      const person = await this.people.signedIn(secret);
      return person ? this.cameBy(person) : NOBODY;
    });
  }

  private byToken(secret: string): Promise<Principal> {
    return this.remembered(`token ${secret}`, async () => {
      const found = await this.tokens.find(secret);
      const person = found && (await this.people.byId(found.personId));
      if (!person) return NOBODY;
      const { id, name, kind, tables } = found;
      this.tokens.wasUsed(id).catch((error: unknown) => this.log.warn({ err: error }, 'a use was not noted'));
      return { ...this.cameBy(person), token: { name, kind, tables } };
    });
  }

  private cameBy(person: SignedIn): Principal & { is: 'person' } {
    this.people.wasHere(person.id).catch((error: unknown) => this.log.warn({ err: error }, 'a visit was not noted'));
    return { is: 'person', ...person };
  }

  /** @param by the way that somebody came and what they came with, so that what comes one way is never taken for another */
  private remembered(by: string, find: () => Promise<Principal>): Promise<Principal> {
    const key = hashOf(by);
    const known = this.known.get(key);
    if (known) return known;
    const found = find();
    found.catch(() => this.known.delete(key));
    this.known.set(key, found);
    return found;
  }

  /** Access was changed here: nobody is who they were a moment ago. */
  changed(): void {
    this.known.clear();
  }

  /** The address that a request comes from; behind a proxy the last one that the proxy has added. */
  addressOf(request: IncomingMessage): string {
    const told = this.reached.proxy ? [request.headers['x-forwarded-for'] ?? []].flat().join(',') : '';
    return told.split(',').at(-1)?.trim() || (request.socket.remoteAddress ?? '');
  }

  /** Tells whether a request came over HTTPS. */
  isSecure(request: IncomingMessage): boolean {
    if ('encrypted' in request.socket) return true;
    return this.reached.proxy === true && request.headers['x-forwarded-proto'] === 'https';
  }
}

/** Gives the token that a request comes with (RFC 6750); undefined without one. */
export function bearerOf({ headers }: IncomingMessage): string | undefined {
  // Of another kind it is for a proxy in front of the server.
  const [is, token] = /^bearer(?: +(.*))?$/i.exec(headers.authorization ?? '') ?? [];
  return is === undefined ? undefined : (token ?? '').trim();
}

/** Names of the cookie: a `__Host-` one is taken by browsers only over HTTPS, from this host and for all of it. */
const COOKIES = ['__Host-usual-needle', 'usual-needle'] as const;

/** Gives what the cookie of a sign-in holds; undefined without one. */
export function cookieOf(request: IncomingMessage): string | undefined {
  return cookieNamed(request, ...COOKIES);
}

/** Gives what the first cookie of some names holds; undefined without one. */
export function cookieNamed({ headers }: IncomingMessage, ...names: readonly string[]): string | undefined {
  for (const part of (headers.cookie ?? '').split(';')) {
    const at = part.indexOf('=');
    if (names.includes(part.slice(0, at).trim())) return part.slice(at + 1).trim() || undefined;
  }
  return undefined;
}

/** The header that sets the cookie of a sign-in, or takes it away. */
export function cookieHeader(secret: string | undefined, secure: boolean, days: number): string {
  const age = secret === undefined ? 0 : days * 24 * 60 * 60;
  const [name, more] = secure ? [COOKIES[0], '; Secure'] : [COOKIES[1], ''];
  return `${name}=${secret ?? ''}; Path=/; HttpOnly; SameSite=Lax; Max-Age=${age}${more}`;
}
