/**
 * Rows as they go from thread to thread: all their cells in one text, and where each ends. So a few large things are copied, and not
 * a string for each cell.
 */
import type { MarkTuple, TakenRow } from '@usual-needle/contract';

export interface PackedRows {
  readonly ids: Float64Array;
  /** The cells, one after the other, row by row. */
  readonly text: string;
  /** The place in the text where each cell ends. */
  readonly ends: Uint32Array;
  /** The marks of each row, where they are wanted. */
  readonly marks?: readonly (readonly MarkTuple[])[];
}

export function packed(rows: readonly TakenRow[]): PackedRows {
  const width = rows.at(0)?.cells.length ?? 0;
  const ends = new Uint32Array(rows.length * width);
  const cells: string[] = [];
  let end = 0;
  for (const row of rows)
    for (const cell of row.cells) {
      end += cell.length;
      ends[cells.push(cell) - 1] = end;
    }
  const marks = rows.at(0)?.marks && rows.map((row) => row.marks ?? []);
  return { ids: Float64Array.from(rows, ({ id }) => id), text: cells.join(''), ends, ...(marks && { marks }) };
}

export function unpacked({ ids, text, ends, marks }: PackedRows): TakenRow[] {
  const width = ids.length === 0 ? 0 : ends.length / ids.length;
  const rows: TakenRow[] = [];
  let start = 0;
  for (let row = 0; row < ids.length; row++) {
    const cells: string[] = [];
    for (let i = row * width; i < (row + 1) * width; i++) {
      cells.push(text.substring(start, ends[i]));
      start = ends[i];
    }
    rows.push(marks ? { id: ids[row], cells, marks: marks[row] } : { id: ids[row], cells });
  }
  return rows;
}

/** The parts that are handed over, and not copied. */
export function handedOver({ ids, ends }: PackedRows): ArrayBufferLike[] {
  return [ids.buffer, ends.buffer];
}
