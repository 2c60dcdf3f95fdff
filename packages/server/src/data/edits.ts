/**
 * The effect of an edit by hand, and of an undo, on rows as they are now. Cell by cell: what somebody else did to another cell of the row
 * stands, what they did to the same cell is a clash. Nothing here reads or writes; `changes.ts` does.
 */
import type { Clash, EditRequest, RowChange } from '@usual-needle/contract';
import { CannotEdit } from './refusals.js';

/** A row as it is now. */
export interface RowNow {
  readonly cells: readonly string[];
  /** Number of the last change of it. */
  readonly version: number;
}

interface EditPlan {
  readonly rowChanges: readonly RowChange[];
  /** Cells and rows that somebody else changed; `who` and `at` are not known here. */
  readonly clashes: readonly Clash[];
}

/** The part of an edit that is about one row: that cells of it change, or that it goes. */
type AskedOfRow =
  { readonly was: readonly (string | null)[]; readonly now: readonly (string | null)[] } | { readonly seen: number };

/** An edit as it is asked, each row once. */
interface AskedEdit {
  readonly columns: readonly string[];
  readonly rows: ReadonlyMap<number, AskedOfRow>;
  readonly added: readonly (readonly string[])[];
}

/** @throws CannotEdit where a row is named twice */
export function askedEdit({ columns, changed = [], removed = [], added = [] }: EditRequest): AskedEdit {
  const rows = new Map<number, AskedOfRow>([
    ...changed.map(({ id, was, now }) => [id, { was, now }] as const),
    ...removed.map(({ id, seen }) => [id, { seen }] as const),
  ]);
  if (rows.size < changed.length + removed.length) throw new CannotEdit('A row is named twice.');
  return { columns, rows, added };
}

const UNKNOWN = { who: null, at: null };

/** Cells of before a column was added are without its cell. */
function whole(cells: readonly string[], width: number): string[] {
  return Array.from({ length: Math.max(width, cells.length) }, (_, i) => cells[i] ?? '');
}

/**
 * @param places of the request's columns in a row @param width columns of the table
 * @param next id of the next new row
 */
export function planEdit(
  { columns, rows, added }: AskedEdit,
  places: readonly number[],
  width: number,
  now: ReadonlyMap<number, RowNow>,
  next: number,
): EditPlan {
  const rowChanges: RowChange[] = [];
  const clashes: Clash[] = [];
  for (const [id, asked] of rows) {
    const row = now.get(id);
    if ('seen' in asked) {
      // Who removed it, too, did what was asked.
      if (!row) continue;
      if (row.version > asked.seen) clashes.push({ id, column: null, was: null, theirs: '', yours: null, ...UNKNOWN });
      else rowChanges.push({ id, before: row.cells, after: null });
      continue;
    }
    const { was, now: wanted } = asked;
    if (!row) {
      clashes.push({ id, column: null, was: null, theirs: null, yours: null, ...UNKNOWN });
      continue;
    }
    const cells = whole(row.cells, width);
    const after = [...cells];
    places.forEach((place, i) => {
      const yours = wanted[i] ?? null;
      if (yours === null || cells[place] === yours) return;
      const seen = was[i] ?? null;
      if (seen !== null && cells[place] !== seen)
        clashes.push({ id, column: columns[i], was: seen, theirs: cells[place], yours, ...UNKNOWN });
      else after[place] = yours;
    });
    if (after.some((cell, i) => cell !== cells[i])) rowChanges.push({ id, before: row.cells, after });
  }
  for (const [i, given] of added.entries()) {
    const cells = new Array<string>(width).fill('');
    places.forEach((place, at) => (cells[place] = given[at] ?? ''));
    rowChanges.push({ id: next + i, before: null, after: cells });
  }
  return { rowChanges, clashes };
}

/** The plan of undoing a change, and how many of its rows it cannot be done to, since later changes stand on them. */
interface UndoPlan {
  readonly rowChanges: readonly RowChange[];
  readonly stuck: readonly number[];
}

/** Cell by cell: what was changed in other cells of a row since stays. */
export function planUndo(done: readonly RowChange[], now: ReadonlyMap<number, RowNow>): UndoPlan {
  const rowChanges: RowChange[] = [];
  const stuck: number[] = [];
  for (const { id, before, after } of done) {
    const row = now.get(id);
    if (after === null) {
      if (row || before === null) stuck.push(id);
      else rowChanges.push({ id, before: null, after: before });
      continue;
    }
    if (!row) {
      stuck.push(id);
      continue;
    }
    const width = Math.max(row.cells.length, after.length, before?.length ?? 0);
    const [cells, made] = [whole(row.cells, width), whole(after, width)];
    if (before === null) {
      if (cells.some((cell, i) => cell !== made[i])) stuck.push(id);
      else rowChanges.push({ id, before: row.cells, after: null });
      continue;
    }
    const back = whole(before, width);
    const changed = back.flatMap((cell, i) => (cell === made[i] ? [] : [i]));
    if (changed.some((i) => cells[i] !== made[i])) stuck.push(id);
    else
      rowChanges.push({ id, before: row.cells, after: cells.map((cell, i) => (changed.includes(i) ? back[i] : cell)) });
  }
  return { rowChanges, stuck };
}
