/**
 * One column of one segment. Cells are kept as distinct values and a code a row. The index is built once over the cells
 * as they were; a row whose cell has changed since is *stale*: the index is not asked about it, and its cell is looked at
 * by itself. So a change costs nothing but its own row, and a segment with many is rebuilt.
 */
import { clearBit, dropBits, eachBit, emptyBits, fullBits, hasBit, setBit, type Bits } from './bits.js';
import { Cell, foldedFaces } from './cell.js';
import { isValued, valueOf, type ColumnSpec } from './kinds.js';
import { foldForPattern, isAscii, isBlank, isEven, isUnitWise, LOOSE, type FoldSetting } from '../text/index.js';
import { TextPool } from './text-pool.js';
import { Vocabulary } from './vocabulary.js';

/** Verdicts on distinct values: 0 is not known yet, or no. */
export const PASSED = 2;
const FAILED = 1;

/** Bits of `ColumnSegment.lies`. */
export const Lies = {
  /** The raw text is what a pattern runs over. */
  forPattern: 1,
  /** Each UTF-16 unit of the folded text is one character of the shown text. */
  unitForUnit: 2,
  /** Of a number or date: its folded faces differ by case only from those that a pattern runs over. */
  evenFaces: 4,
} as const;

function howItLies(raw: string, folded: TextPool, code: number): number {
  if (isBlank(raw)) return 0;
  const plain = isAscii(raw) || foldForPattern(raw, LOOSE) === raw;
  const even = folded.end(code) - folded.starts[code] === raw.length && isUnitWise(raw);
  return (plain ? Lies.forPattern : 0) | (even ? Lies.unitForUnit : 0);
}

export class ColumnSegment {
  readonly codes: Uint16Array;
  /** Distinct raw texts. */
  readonly raw: TextPool;
  /** Folded faces of each distinct value. */
  readonly folded: TextPool;
  private builtVocabulary: Vocabulary | undefined;
  private builtValues: Float64Array | undefined;
  private builtLies: Uint8Array | undefined;
  private builtPlain: { readonly rows: Bits | undefined } | undefined;
  private readonly foldedFaces = new Map<string, Map<number, readonly string[]>>();
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
      const valued = isValued(this.spec);
      if (!valued) return this.builtValues.fill(NaN);
      for (let i = 0; i < this.valueCount; i++) this.builtValues[i] = valueOf(this.raw.at(i), this.spec) ?? NaN;
    }
    return this.builtValues;
  }

  /** Per distinct value, which of its texts can be read where they lie; see `Lies`. */
  get lies(): Uint8Array {
    if (!this.builtLies) {
      this.builtLies = new Uint8Array(this.valueCount);
      const valued = isValued(this.spec);
      for (let i = 0; i < this.valueCount; i++) {
        const raw = this.raw.at(i);
        if (!valued) this.builtLies[i] = howItLies(raw, this.folded, i);
        // Every shown form is even ASCII too.
        else if (isEven(raw) && raw !== '') this.builtLies[i] = Lies.evenFaces;
      }
    }
    return this.builtLies;
  }

  /**
   * Rows whose cell, as indexed, is ASCII text: its tokens are stretches of it that differ by case at most, and each unit of
   * them is one character. Undefined for numbers and dates, which have a shown form of their own.
   */
  get plainRows(): Bits | undefined {
    return (this.builtPlain ??= { rows: this.findPlainRows() }).rows;
  }

  private findPlainRows(): Bits | undefined {
    if (isValued(this.spec)) return undefined;
    if (isAscii(this.raw.joined)) return fullBits(this.rowCount);
    const verdicts = new Uint8Array(this.valueCount);
    for (let code = 0; code < verdicts.length; code++) if (isAscii(this.raw.at(code))) verdicts[code] = PASSED;
    return this.rowsOf(verdicts) ?? emptyBits(this.rowCount);
  }

  /** The faces a pattern runs over, of a distinct value; remembered, since they are for the few that do not lie plain. */
  patternFaces(code: number, setting: FoldSetting): readonly string[] {
    const key = `${setting.case} ${setting.accents}`;
    let faces = this.foldedFaces.get(key);
    if (!faces) this.foldedFaces.set(key, (faces = new Map()));
    let known = faces.get(code);
    if (!known) faces.set(code, (known = this.valueCell(code).patternFaces(setting)));
    return known;
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
   * is asked at most once.
   */
  rowsWhere(test: (code: number) => boolean, candidates?: Bits): Bits | undefined {
    const { codes } = this;
    const verdicts = new Uint8Array(this.valueCount);
    if (!candidates) {
      for (let code = 0; code < verdicts.length; code++) verdicts[code] = test(code) ? PASSED : 0;
      return this.rowsOf(verdicts);
    }
    const rows = emptyBits(this.rowCount);
    let any = false;
    for (let i = 0; i < candidates.length; i++) {
      let word = candidates[i];
      while (word !== 0) {
        const low = word & -word;
        word ^= low;
        const code = codes[(i << 5) + 31 - Math.clz32(low)];
        if (verdicts[code] === 0) verdicts[code] = test(code) ? PASSED : FAILED;
        if (verdicts[code] === PASSED) {
          rows[i] |= low;
          any = true;
        }
      }
    }
    return any ? rows : undefined;
  }

  /** 1 for each distinct value that one of the rows has. */
  valuesOf(rows: Bits): Uint8Array {
    const values = new Uint8Array(this.valueCount);
    eachBit(rows, (row) => (values[this.codes[row]] = 1));
    return values;
  }

  /** `lies` of the wanted values; 0 for the others. */
  liesOf(wanted: Uint8Array): Uint8Array {
    const { lies } = this;
    const asked = new Uint8Array(lies.length);
    for (let code = 0; code < lies.length; code++) if (wanted[code] !== 0) asked[code] = lies[code];
    return asked;
  }

  /** Rows whose distinct value has passed. */
  rowsOf(verdicts: Uint8Array): Bits | undefined {
    const { codes } = this;
    const rows = emptyBits(this.rowCount);
    let any = 0;
    for (let row = 0; row < codes.length; row++) {
      if (verdicts[codes[row]] === PASSED) any = rows[row >>> 5] |= 1 << (row & 31);
    }
    return any === 0 ? undefined : rows;
  }

  /** Bytes held, the index included if it is built. */
  get bytes(): number {
    return this.codes.byteLength + this.raw.bytes + this.folded.bytes + (this.builtVocabulary?.bytes ?? 0);
  }
}
