/** Whether a first row names the columns or is a row like those after it. */
import { fits, isBlank, WAYS } from '@usual-needle/engine';
import type { Row } from './mend.js';

/** A name is no number, date or answer, and has no line break; and most columns have one. */
export function looksLikeHeader(rows: readonly Row[]): boolean {
  const [first, ...others] = rows;
  const names = first.map((cell) => cell.trim());
  if (names.some((name) => WAYS.some((way) => !isBlank(name) && fits(name, way)) || name.includes('\n'))) return false;
  return others.length === 0 || names.filter((name) => name !== '').length * 2 > names.length;
}
