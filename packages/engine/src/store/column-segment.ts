/**
 * One column of one segment. Cells are kept as distinct values and a code a row. The index is built once over the cells
 * as they were; a row whose cell has changed since is *stale*: the index is not asked about it, and its cell is looked at
 * by itself. So a change costs nothing but its own row, and a segment with many is rebuilt.
 */
import { clearBit, dropBits, emptyBits, eachBit, hasBit, setBit, type Bits } from './bits.js';
import { Cell, foldedFaces } from './cell.js';
import { valueOf, type ColumnSpec } from './kinds.js';
import { isAscii, isBlank } from '../text/index.js';
import { TextPool } from './text-pool.js';
import { Vocabulary } from './vocabulary.js';

function isFilledAscii(text: string): boolean {
  return isAscii(text) && !isBlank(text);
}

export class ColumnSegment {
  readonly codes: Uint16Array;
  /** Distinct raw texts. */
  readonly raw: TextPool;
  /** Folded faces of each distinct value. */
  readonly folded: TextPool;
  private builtVocabulary: Vocabulary | undefined;
  private builtValues: Float64Array | undefined;
  private builtPlain: Uint8Array | undefined;
  private readonly changed = new Map<number, string>();
  private staleRows: Bits | undefined;

  constructor(
    readonly spec: ColumnSpec,
    cells: readonly string[],
  ) {
    this.codes = new Uint16Array(cells.length);
    const numbers = new Map<string, number>();
    for (let row = 0; row < cells.length; row++) {
      const cell = cells[row];
      let code = numbers.get(cell);
      if (code === undefined) {
        code = numbers.size;
        numbers.set(cell, code);
      }
      this.codes[row] = code;
    }
    const values = [...numbers.keys()];
    this.raw = TextPool.of(values);
    this.folded = TextPool.of(values.map((value) => foldedFaces(value, spec)));
  }

  get rowCount(): number {
    return this.codes.length;
  }

  /** Distinct values at the time of building. */
  get valueCount(): number {
    return this.raw.size;
  }

  get vocabulary(): Vocabulary {
    return (this.builtVocabulary ??= Vocabulary.of(this.folded, this.codes, this.rowCount));
  }

  /** Numbers, or days since 1970-01-01, of the distinct values; NaN where there is none. */
  get values(): Float64Array {
    if (!this.builtValues) {
      this.builtValues = new Float64Array(this.valueCount);
      for (let i = 0; i < this.valueCount; i++) this.builtValues[i] = valueOf(this.raw.at(i), this.spec) ?? NaN;
    }
    return this.builtValues;
  }

  /**
   * 1 for each distinct value that is its own only face and plain ASCII: what such a value is folded to for a pattern is
   * itself, so it can be read where it lies.
   */
  get plainValues(): Uint8Array {
    if (!this.builtPlain) {
      this.builtPlain = new Uint8Array(this.valueCount);
      const valued = this.spec.kind === 'number' || this.spec.kind === 'date';
      for (let i = 0; i < this.valueCount && !valued; i++) this.builtPlain[i] = isFilledAscii(this.raw.at(i)) ? 1 : 0;
    }
    return this.builtPlain;
  }

  rawText(row: number): string {
    return this.changed.get(row) ?? this.raw.at(this.codes[row]);
  }

  cell(row: number): Cell {
    const changed = this.changed.get(row);
    return changed === undefined ? this.valueCell(this.codes[row]) : new Cell(changed, this.spec);
  }

  valueCell(code: number): Cell {
    return new Cell(this.raw.at(code), this.spec, this.folded.at(code));
  }

  /** Raw texts that the cells have now or had when the segment was built. */
  *currentTexts(): Generator<string> {
    for (let code = 0; code < this.valueCount; code++) yield this.raw.at(code);
    yield* this.changed.values();
  }

  /** Visits the rows whose cell changed since the segment was built, with their raw text. */
  eachChanged(visit: (row: number, raw: string) => void): void {
    for (const [row, raw] of this.changed) visit(row, raw);
  }

  /** Rows whose cell changed since the segment was built. */
  get staleCount(): number {
    return this.changed.size;
  }

  isStale(row: number): boolean {
    return this.staleRows !== undefined && hasBit(this.staleRows, row);
  }

  change(row: number, raw: string): void {
    this.staleRows ??= emptyBits(this.rowCount);
    if (this.raw.at(this.codes[row]) === raw) {
      this.changed.delete(row);
      clearBit(this.staleRows, row);
    } else {
      this.changed.set(row, raw);
      setBit(this.staleRows, row);
    }
  }

  /**
   * Makes an answer of the index true of the cells as they are now.
   * @param indexed rows by the index; written to
   * @param test what the cell of a stale row is asked
   */
  corrected(indexed: Bits | undefined, test: (cell: Cell) => boolean): Bits | undefined {
    if (!this.staleRows || this.changed.size === 0) return indexed;
    const rows = indexed ?? emptyBits(this.rowCount);
    dropBits(rows, this.staleRows);
    for (const [row, raw] of this.changed) if (test(new Cell(raw, this.spec))) setBit(rows, row);
    return rows;
  }

  /**
   * Rows of the distinct values that pass the test, out of `candidates` or, without them, of all rows. Each distinct value
   * is asked once.
   */
  rowsWhere(test: (code: number) => boolean, candidates?: Bits): Bits | undefined {
    const { codes } = this;
    const rows = emptyBits(this.rowCount);
    const verdicts = new Uint8Array(this.valueCount);
    let any = false;
    const visit = (row: number): void => {
      const code = codes[row];
      let verdict = verdicts[code];
      if (verdict === 0) verdicts[code] = verdict = test(code) ? 2 : 1;
      if (verdict === 2) {
        rows[row >>> 5] |= 1 << (row & 31);
        any = true;
      }
    };
    if (candidates) eachBit(candidates, visit);
    else for (let row = 0; row < codes.length; row++) visit(row);
    return any ? rows : undefined;
  }

  /** Bytes held, the index included if it is built. */
  get bytes(): number {
    return this.codes.byteLength + this.raw.bytes + this.folded.bytes + (this.builtVocabulary?.bytes ?? 0);
  }
}
