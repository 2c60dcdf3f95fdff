/** Values of a column that are nearly the same, as `Non fiction` and `Non-fiction`: found while its cells pass by. */
import { fold, ownText } from '@usual-needle/engine';

/** Distinct values that are kept of a column; one that has more is not looked at. */
const VALUES = 1_000;
const LENGTH = 60;
/** Pairs that are told of a column; as many can be sent. */
const PAIRS = 200;
/** Bytes that all pairs of a file may take in an address, which is how they are sent. */
export const SPELLINGS_ROOM = 8_000;
/** Bytes that a pair takes there besides its letters. */
const AROUND = 24;

/** A spelling, and the one that is to be written in its place. */
export type Spelling = readonly [written: string, instead: string];

/** Gives what values are nearly the same by: their letters and digits alone. Numbers and signs are told apart as they are. */
function likeness(value: string): string {
  return /\p{L}/u.test(value) ? fold(value).replace(/[^\p{L}\p{N}]+/gu, '') : '';
}

/** Bytes that a text takes in an address, at most. */
function bytesIn(text: string): number {
  let bytes = 0;
  for (let i = 0; i < text.length; i++) bytes += text.charCodeAt(i) > 0x7f ? 9 : /[A-Za-z0-9]/.test(text[i]) ? 1 : 3;
  return bytes;
}

export class Spellings {
  /** How many cells have each value; undefined where they are too many, or too long. */
  private counts: Map<string, number> | undefined = new Map();
  /** The values by what they are nearly the same by. */
  private readonly groups = new Map<string, string[]>();

  add(cell: string): void {
    if (!this.counts) return;
    const value = cell.trim();
    if (value === '') return;
    const count = this.counts.get(value);
    if (count !== undefined) this.counts.set(value, count + 1);
    else if (value.length > LENGTH || this.counts.size === VALUES) {
      this.counts = undefined;
      this.groups.clear();
    } else this.addValue(this.counts, ownText(value));
  }

  private addValue(counts: Map<string, number>, value: string): void {
    counts.set(value, 1);
    const key = likeness(value);
    if (key === '') return;
    const group = this.groups.get(key);
    if (group) group.push(value);
    else this.groups.set(key, [value]);
  }

  /**
   * Finds the rarer spellings, each with the one that most cells have, the most frequent groups first.
   * @param room bytes that they may take in an address
   * @returns them, how many cells have them, and how many bytes they take
   */
  alike(room: number): { readonly pairs: readonly Spelling[]; readonly cells: number; readonly bytes: number } {
    const count = (value: string): number => this.counts?.get(value) ?? 0;
    const pairs: Spelling[] = [];
    let [cells, bytes] = [0, 0];
    const several = [...this.groups.values()].filter(({ length }) => length > 1);
    const weight = (group: readonly string[]): number => group.reduce((sum, value) => sum + count(value), 0);
    for (const group of several.sort((a, b) => weight(b) - weight(a))) {
      const [usual, ...others] = [...group].sort((a, b) => count(b) - count(a));
      for (const written of others) {
        const more = bytesIn(written) + bytesIn(usual) + AROUND;
        if (bytes + more > room || pairs.length === PAIRS) return { pairs, cells, bytes };
        bytes += more;
        pairs.push([written, usual]);
        cells += count(written);
      }
    }
    return { pairs, cells, bytes };
  }
}
