/**
 * Whether a first row names the columns or is a row like those after it. One way for whoever reads a file, by HTTP, by the command or
 * on the screen: mostly a first row is a header, so it is none only where it goes on as the rows after it do.
 */
import { fits, isBlank, WAYS } from '@usual-needle/engine';
import type { FileRow } from './mend.js';

/** Rows that are looked at. */
const LOOKED_AT = 50;
const YEAR = /^(?:1[89]|20|21)\d\d$/;

/** Gives what one column says: that its first cell heads it, that it is one of its cells, or nothing. */
function says(first: string, others: readonly string[]): 'heads' | 'goes on' | 'nothing' {
  const filled = others.filter((cell) => !isBlank(cell));
  if (isBlank(first) || filled.length === 0) return 'nothing';
  const ways = WAYS.filter((way) => filled.every((cell) => fits(cell, way)));
  if (ways.length === 0) return WAYS.some((way) => fits(first, way)) ? 'heads' : 'nothing';
  if (!ways.some((way) => fits(first, way))) return 'heads';
  // A year heads what is counted by years.
  return YEAR.test(first.trim()) && !filled.every((cell) => YEAR.test(cell.trim())) ? 'heads' : 'goes on';
}

export function looksLikeHeader(rows: readonly FileRow[]): boolean {
  const [first, ...rest] = rows.slice(0, LOOKED_AT);
  const names = first.map((cell) => cell.trim());
  if (rest.length === 0) return true;
  const told = names.map((name, i) =>
    says(
      name,
      rest.map((row) => row[i] ?? ''),
    ),
  );
  if (told.includes('heads')) return true;
  return !told.includes('goes on') && !names.some((name) => name.includes('\n'));
}
