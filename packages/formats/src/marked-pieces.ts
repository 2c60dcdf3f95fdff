/** A text cut where its marks begin and end; where two lie one over the other, the first goes on. */
import type { MarkTuple } from '@usual-needle/contract';

/** A stretch of a text. @property keyword the one that it was hit by, if it was */
interface MarkedPiece {
  readonly text: string;
  readonly keyword?: number;
}

/** @param marks of this text alone, in the order in which they begin */
export function markedPieces(text: string, marks: readonly MarkTuple[]): MarkedPiece[] {
  const pieces: MarkedPiece[] = [];
  let at = 0;
  for (const [, start, end, keyword] of marks) {
    if (end <= at) continue;
    const from = Math.max(at, start);
    if (from > at) pieces.push({ text: text.slice(at, from) });
    pieces.push({ text: text.slice(from, end), keyword });
    at = end;
  }
  if (at < text.length) pieces.push({ text: text.slice(at) });
  return pieces;
}
