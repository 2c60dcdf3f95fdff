/** Keys of two tables are one where they fold alike, with nothing around them. */
import { fold } from './fold.js';

/** @returns the key that a cell says; '' for a blank cell, which is nobody's key */
export function keyOf(cell: string): string {
  return fold(cell.trim());
}
