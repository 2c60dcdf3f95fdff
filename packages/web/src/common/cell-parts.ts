import type { MarkTuple } from '@usual-needle/contract';

/** A stretch of a cell drawn in one way: plain, or marked by a keyword. */
export interface CellPart {
  readonly text: string;
  /** Classes of the stitch; empty for plain text. */
  readonly mark: string;
}

/** The stitch of a keyword, from 1: five, then the same with a heavier line. */
export function stitchOf(keyword: number): string {
  const heavy = Math.floor((keyword - 1) / 5) % 2 === 1;
  return `mark k${((keyword - 1) % 5) + 1}${heavy ? ' heavy' : ''}`;
}

/**
 * Cuts a cell at its marks. Where two keywords overlap, the first one typed is drawn.
 * @param marks of this cell only
 */
export function cellParts(text: string, marks: readonly MarkTuple[]): CellPart[] {
  if (marks.length === 0) return text === '' ? [] : [{ text, mark: '' }];
  const cuts = [...new Set([0, text.length, ...marks.flatMap(([, start, end]) => [start, end])])].sort((a, b) => a - b);
  const parts: CellPart[] = [];
  let before = 0;
  for (let i = 0; i + 1 < cuts.length; i++) {
    const [from, to] = [cuts[i], cuts[i + 1]];
    let keyword = 0;
    for (const [, start, end, number] of marks) {
      if (start <= from && end >= to && (keyword === 0 || number < keyword)) keyword = number;
    }
    const piece = text.slice(from, to);
    if (keyword === before && keyword === 0 && parts.length > 0) {
      parts[parts.length - 1] = { text: parts[parts.length - 1].text + piece, mark: '' };
    } else parts.push({ text: piece, mark: keyword === 0 ? '' : stitchOf(keyword) });
    before = keyword;
  }
  return parts;
}
