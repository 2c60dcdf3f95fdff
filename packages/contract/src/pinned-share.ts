/**
 * Sharing as it is kept: by the columns themselves, and not by what they are called. A name may be another column's by and by; that one is not
 * open to readers because of it.
 */
import { columnAt, type Column } from './column.js';
import type { Box } from './box.js';
import { unshared, type Share } from './share.js';

/** Sharing with the number of each column that it names, in the table's own list, in which a column stays where it is for good. */
export interface PinnedShare extends Share {
  /** Missing where it was kept before there were numbers. */
  readonly at?: Readonly<Record<'columns' | 'searched' | 'editable' | 'locked', readonly number[]>>;
}

/** Pins sharing to the columns that its names mean now. A name that is none is left out. */
export function pinned(share: Share, columns: readonly Column[]): PinnedShare {
  const placesOf = (names: readonly string[]): number[] => [
    ...new Set(names.map((name) => columnAt(columns, name)).filter((at) => at >= 0)),
  ];
  const at = {
    columns: placesOf(share.columns),
    searched: placesOf(share.searched),
    editable: placesOf(share.editable),
    locked: placesOf(share.locked),
  };
  return { ...share, at };
}

/**
 * Gives sharing by the names that its columns have now, and whether a column that was locked is not there any more.
 * @param kept undefined for a box that nobody has been given yet
 */
export function sharedNow(
  kept: PinnedShare | undefined,
  box: Box,
  columns: readonly Column[],
): { share: Share; lostLock: boolean } {
  if (!kept) return { share: unshared(box, columns), lostLock: false };
  const { at, ...share } = kept;
  if (!at) return { share, lostLock: false };
  const isThere = (number: number): boolean => columns[number] !== undefined && columns[number].removed !== true;
  const named = (numbers: readonly number[]): string[] => numbers.filter(isThere).map((number) => columns[number].name);
  return {
    share: {
      ...share,
      columns: named(at.columns),
      searched: named(at.searched),
      editable: named(at.editable),
      locked: named(at.locked),
    },
    lostLock: !at.locked.every(isThere),
  };
}
