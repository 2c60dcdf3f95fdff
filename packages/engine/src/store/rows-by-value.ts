/**
 * The rows of each distinct value of a column: as sets where values are few, as lists where they are many. Where a search ends
 * with few values, theirs are put together; else it is sooner to go through the rows.
 */
import { addMembers, bitsOf, dropBits, emptyBits, fullBits, type Bits } from './bits.js';
import { countOnes, wordsOf, type WholeBytes } from './bytes.js';
import type { PackReader, PackWriter } from './pack.js';
import { rowsOfEach, rowsOfFew, rowsOfPassed } from './value-rows.js';

/** The most distinct values for which the rows of each are a set: putting them together is quicker than going through the rows. */
const FEW_VALUES = 64;
/** If no more than one value in so many passes, lists are put together. */
const FEW_PASS = 12;

const EACH = 0x01010101;

interface Lists {
  /** Rows of value `v`, rising: `rows[starts[v]]` up to `rows[starts[v + 1]]`. */
  readonly starts: Uint32Array;
  /** A segment has at most 65,536 rows. */
  readonly rows: Uint16Array;
}

function listsOf(codes: Uint16Array, values: number): Lists {
  const starts = new Uint32Array(values + 1);
  for (let row = 0; row < codes.length; row++) starts[codes[row] + 1]++;
  for (let value = 0; value < values; value++) starts[value + 1] += starts[value];
  const next = starts.slice();
  const rows = new Uint16Array(codes.length);
  for (let row = 0; row < codes.length; row++) rows[next[codes[row]]++] = row;
  return { starts, rows };
}

export class RowsByValue {
  private builtSets: Bits[] | undefined;
  private builtLists: Lists | undefined;

  /** @param codes of each row, its value */
  constructor(
    private readonly codes: Uint16Array,
    private readonly values: number,
  ) {}

  /** Whether values are so few that all are sooner judged than some told apart. */
  get few(): boolean {
    return this.values <= FEW_VALUES;
  }

  /** Values that are all distinct are the rows. */
  private get distinct(): boolean {
    return this.values === this.codes.length;
  }

  build(): void {
    if (this.few) void this.sets;
    else if (!this.distinct) void this.lists;
  }

  private get sets(): readonly Bits[] {
    return (this.builtSets ??= rowsOfEach(this.codes, this.values));
  }

  private get lists(): Lists {
    return (this.builtLists ??= listsOf(this.codes, this.values));
  }

  /** Rows of the values that passed; undefined of none. @param passed 1 for those, else 0 */
  of(passed: WholeBytes): Bits | undefined {
    const { codes } = this;
    if (this.few) return rowsOfFew(this.sets, passed, codes.length);
    const count = countOnes(passed);
    if (count === 0) return undefined;
    if (this.distinct) return bitsOf(passed);
    if (FEW_PASS * count <= this.values) return this.ofLists(passed, 0);
    if (FEW_PASS * (this.values - count) > this.values) return rowsOfPassed(codes, passed);
    const rows = fullBits(codes.length);
    dropBits(rows, this.ofLists(passed, EACH));
    return rows;
  }

  /** Rows of the values that passed, or, where `turned` is EACH, of the others. */
  private ofLists(passed: WholeBytes, turned: number): Bits {
    const { starts, rows } = this.lists;
    const words = wordsOf(passed);
    const all = emptyBits(this.codes.length);
    for (let i = 0; i < words.length; i++) {
      for (let word = words[i] ^ turned; word !== 0; word &= word - 1) {
        const value = (i << 2) + ((31 - Math.clz32(word & -word)) >>> 3);
        // What fills up the last word is no value.
        if (value < this.values) addMembers(rows, starts[value], starts[value + 1], all);
      }
    }
    return all;
  }

  pack(to: PackWriter): void {
    this.build();
    to.count(this.few ? this.values : 0);
    if (this.few) for (const rows of this.sets) to.numbers(rows);
    else if (!this.distinct) {
      to.numbers(this.lists.starts);
      to.numbers(this.lists.rows);
    }
  }

  static unpacked(from: PackReader, codes: Uint16Array, values: number): RowsByValue {
    const one = new RowsByValue(codes, values);
    const sets = from.count();
    if (sets > 0) one.builtSets = Array.from({ length: sets }, () => from.u32());
    else if (!one.few && !one.distinct) one.builtLists = { starts: from.u32(), rows: from.u16() };
    return one;
  }

  get bytes(): number {
    const { builtSets: sets = [], builtLists: lists } = this;
    const each = sets.reduce((sum, { byteLength }) => sum + byteLength, 0);
    return each + (lists ? lists.starts.byteLength + lists.rows.byteLength : 0);
  }
}
