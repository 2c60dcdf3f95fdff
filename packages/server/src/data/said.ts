/**
 * The last file's word on a row, where the row says something else by now: the third of the three things that a refresh
 * compares. A cell that was edited by hand remembers it until the file says the same as the cell, or the edit is taken back.
 *
 * Kept are only the cells that differ, as a JSON object from places of columns to texts; mostly there are none. Nothing here reads or
 * writes.
 */
import type { ChangeKind, RowChange } from '@usual-needle/contract';

/** The cells of a row as the last file said them, by their places. */
export type Said = Readonly<Record<string, string>>;

/** A row of a change as the log keeps it: with what the last file said of the row before and after the change, where that matters. */
export interface LoggedRow extends RowChange {
  readonly said?: { readonly before: Said | null; readonly after: Said | null };
}

/** A row as it is now. */
export interface RowSaid {
  readonly cells: readonly string[];
  readonly said: string | null;
}

/** Changes that take back what was done before, and with it what a file had said. */
const TAKES_BACK: ReadonlySet<ChangeKind> = new Set(['refreshed', 'undone']);

export function readSaid(text: string | null | undefined): Said | null {
  return text === null || text === undefined ? null : (JSON.parse(text) as Said);
}

/** Leaves out the cells that say what the file said. @returns null if there are no others */
export function saidOf(entries: Iterable<readonly [string, string]>, cells: readonly string[]): Said | null {
  const differing = [...entries].filter(([place, text]) => (cells[Number(place)] ?? '') !== text);
  return differing.length === 0 ? null : Object.fromEntries(differing);
}

/** Gives what the last file said of one cell. */
export function saidAt(said: Said | null, cells: readonly string[], place: number): string {
  return said?.[place] ?? cells[place] ?? '';
}

/** Follows an edit by hand: cells that it changed remember what the file said. @param before null for a row that no file had */
export function afterEdit(before: readonly string[] | null, said: Said | null, after: readonly string[]): Said | null {
  const entries: [string, string][] = [];
  for (let place = 0; place < Math.max(after.length, before?.length ?? 0); place++)
    entries.push([String(place), before ? saidAt(said, before, place) : '']);
  return saidOf(entries, after);
}

/**
 * Follows the undoing of a change. Where it was a refresh, the file before it counts again: so the same file can be brought once more.
 * @param undone what was done to the row @param kind what the change that is undone was
 */
export function afterUndo(undone: LoggedRow, kind: ChangeKind, now: RowSaid | undefined, back: RowChange): Said | null {
  if (back.after === null) return null;
  if (!now) return undone.said?.before ?? null;
  const said = readSaid(now.said);
  const kept = afterEdit(now.cells, said, back.after);
  const before = undone.before;
  if (!TAKES_BACK.has(kind) || !before) return kept;
  const entries = new Map(Object.entries(kept ?? {}));
  for (let place = 0; place < back.after.length; place++) {
    const then = saidAt(undone.said?.before ?? null, before, place);
    const since = saidAt(undone.said?.after ?? null, undone.after ?? before, place);
    if (then !== since) entries.set(String(place), then);
  }
  return saidOf(entries, back.after);
}
