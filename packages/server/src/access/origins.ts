/**
 * The pages that may talk to the server: its own, and no other. A page of another site can make a browser send requests here,
 * and by a name of its own that leads to this machine (rebinding) even read the answers; so both the name that the server is
 * called by and the page that calls are looked at, on every route and for the standing connection.
 *
 * Source: RFC 6454 (the Origin header); RFC 9110, 7.2 (Host) and 15.5.20 (421); Fetch Metadata Request Headers (W3C).
 */
import { hostname } from 'node:os';
import { isIP } from 'node:net';
import type { IncomingHttpHeaders } from 'node:http';
import { MADE_UP } from './made-up.js';

const LOOPBACK = new Set(['localhost', '127.0.0.1', '::1']);
/** Endings that nobody can have a name under on the internet. */
const LOCAL_ENDINGS = ['.local', '.lan', '.internal', '.intranet', '.home.arpa', '.localdomain', '.test'];

export interface Refused {
  readonly status: 403 | 421;
  readonly title: string;
  readonly detail: string;
}

function nameOf(host: string): string | undefined {
  const match = /^(\[[0-9a-fA-F:.]+\]|[^:[\]/@\s]+)(?::\d{1,5})?$/.exec(host);
  return match?.[1]
    .replace(/^\[|\]$/g, '')
    .toLowerCase()
    .replace(/\.$/, '');
}

export class Origins {
  private readonly names: ReadonlySet<string>;
  private readonly loopback: boolean;

  /**
   * @param listening address that the server listens on
   * @param names further names that it may be called by
   */
  constructor(listening: string, names: readonly string[]) {
    this.loopback = LOOPBACK.has(listening) || listening.startsWith('127.');
    this.names = new Set(
      [...names, ...(this.loopback ? [] : [hostname(), listening])].map((name) => name.toLowerCase()),
    );
  }

  /** True where only this machine can reach the server. */
  get isLoopback(): boolean {
    return this.loopback;
  }

  private isOwn(name: string): boolean {
    if (LOOPBACK.has(name) || this.names.has(name)) return true;
    if (this.loopback && MADE_UP.some(({ host }) => host === name)) return true;
    // On loopback only loopback's own names are ours. Elsewhere an address is no name, so it cannot be led astray, and a name
    // that exists only in a local network cannot be had by a stranger.
    if (this.loopback) return false;
    return isIP(name) !== 0 || !name.includes('.') || LOCAL_ENDINGS.some((ending) => name.endsWith(ending));
  }

  /** @returns why a request is refused; undefined if it is not. @param page a page is asked for, which others may link to */
  refusal(headers: IncomingHttpHeaders, page: boolean): Refused | undefined {
    const host = headers.host ?? '';
    const name = nameOf(host);
    if (name === undefined || !this.isOwn(name)) {
      const detail = `It may be called “${name ?? host}” only if it is started with --name ${name ?? 'NAME'}.`;
      return { status: 421, title: 'This server does not go by that name', detail };
    }
    const { origin } = headers;
    const foreign = { status: 403, title: 'Another site may not ask this', detail: 'Nothing was changed.' } as const;
    if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`)
      return page ? undefined : foreign;
    const site = headers['sec-fetch-site'];
    if (!page && (site === 'cross-site' || site === 'same-site')) return foreign;
    return undefined;
  }
}
