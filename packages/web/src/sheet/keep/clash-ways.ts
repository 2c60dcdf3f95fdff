/** The ways out of a clash, as the edit that is made of the one that was refused. */
import type { Clash, EditRequest } from '@usual-needle/contract';

interface Clashed {
  readonly request: EditRequest;
  readonly clashes: readonly Clash[];
}

/** Writes one's own all the same, over what the others wrote. @param seen the last change that its keeper has been told of */
export function mineOf({ request, clashes }: Clashed, seen: number): EditRequest {
  const theirs = new Map(clashes.map((one) => [`${one.id} ${one.column}`, one.theirs]));
  // A row that has gone cannot be written to, and one that is to go is removed as it is now.
  const gone = new Set(clashes.filter((one) => one.theirs === null).map(({ id }) => id));
  const changed = (request.changed ?? [])
    .filter(({ id }) => !gone.has(id))
    .map((row) => ({
      ...row,
      was: row.was.map((was, i) => theirs.get(`${row.id} ${request.columns[i]}`) ?? was),
    }));
  const removed = (request.removed ?? []).map((row) => ({ ...row, seen }));
  return { ...request, changed, removed };
}

/** Gives what of it does not clash; undefined if all of it does. */
export function besideTheirs({ request, clashes }: Clashed): EditRequest | undefined {
  const lost = new Set(clashes.map((one) => `${one.id} ${one.column}`));
  const rows = new Set(clashes.filter((one) => one.column === null).map(({ id }) => id));
  const changed = (request.changed ?? [])
    .filter(({ id }) => !rows.has(id))
    .map((row) => ({
      ...row,
      now: row.now.map((now, i) => (lost.has(`${row.id} ${request.columns[i]}`) ? null : now)),
    }))
    .filter(({ now }) => now.some((one) => one !== null));
  const removed = (request.removed ?? []).filter(({ id }) => !rows.has(id));
  const left = changed.length + removed.length + (request.added ?? []).length;
  return left > 0 ? { ...request, changed, removed } : undefined;
}
