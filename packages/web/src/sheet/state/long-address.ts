/**
 * Text that is too long for an address is kept in the browser, under a name that the address has in its place: servers and proxies refuse
 * long addresses, and a reload would be one.
 */
import { newId } from '../../services/ids';

/** Letters of a query that go into an address. */
export const LONGEST_QUERY = 4_000;

const KEY = 'usual-needle long';
/** The most that are kept; the oldest go. */
const MOST = 20;
/** The part of an address that has the name. */
const KEPT_AS = 'kept-as';

function names(): string[] {
  return (JSON.parse(localStorage.getItem(KEY) ?? '[]') as unknown[]).filter((name) => typeof name === 'string');
}

/** @returns a query as short as an address takes; the same one where it is short enough, or where the browser keeps nothing */
export function shortQuery(query: string): string {
  if (query.length <= LONGEST_QUERY) return query;
  try {
    const all = names();
    const known = all.find((name) => localStorage.getItem(`${KEY} ${name}`) === query);
    const name = known ?? newId();
    if (known === undefined) {
      localStorage.setItem(`${KEY} ${name}`, query);
      const kept = [...all, name];
      for (const old of kept.splice(0, Math.max(0, kept.length - MOST))) localStorage.removeItem(`${KEY} ${old}`);
      localStorage.setItem(KEY, JSON.stringify(kept));
    }
    return `${KEPT_AS}=${name}`;
  } catch {
    return '';
  }
}

/** The query that an address stands for; undefined if this browser does not have it. */
export function wholeQuery(query: string): string | undefined {
  const name = new URLSearchParams(query).get(KEPT_AS);
  if (name === null) return query;
  try {
    return localStorage.getItem(`${KEY} ${name}`) ?? undefined;
  } catch {
    return undefined;
  }
}
