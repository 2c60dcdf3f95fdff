/**
 * Many short texts in one string. A million separate strings cost more in headers and pointers than in letters; one
 * joined string costs its letters and four bytes a text, and can be scanned in one go.
 */
import type { PackReader, PackWriter } from './pack.js';

const SEPARATOR = '\n';

/** Letters that are scanned in the time that one text takes which is looked at by itself. */
const SCANNED_FOR_ONE = 256;

export class TextPool {
  private knownLongest: number | undefined;

  private constructor(
    /** All texts, each followed by the separator. */
    readonly joined: string,
    /** Where text `i` starts; one entry more than there are texts. */
    readonly starts: Uint32Array,
  ) {}

  static of(texts: readonly string[]): TextPool {
    const starts = new Uint32Array(texts.length + 1);
    let at = 0;
    for (let i = 0; i < texts.length; i++) {
      starts[i] = at;
      at += texts[i].length + 1;
    }
    starts[texts.length] = at;
    // Joined in one go: a string that is put together piece by piece is slower to read ever after.
    return new TextPool(texts.length === 0 ? '' : [...texts, ''].join(SEPARATOR), starts);
  }

  pack(to: PackWriter): void {
    to.text(this.joined);
    to.numbers(this.starts);
  }

  static unpacked(from: PackReader): TextPool {
    return new TextPool(from.text(), from.u32());
  }

  get size(): number {
    return this.starts.length - 1;
  }

  at(index: number): string {
    return this.joined.substring(this.starts[index], this.starts[index + 1] - 1);
  }

  /** UTF-16 units of the longest text. */
  get longest(): number {
    if (this.knownLongest === undefined) {
      let longest = 0;
      for (let i = 0; i < this.size; i++) longest = Math.max(longest, this.end(i) - this.starts[i]);
      this.knownLongest = longest;
    }
    return this.knownLongest;
  }

  /** The place after the last letter of text `index`. */
  end(index: number): number {
    return this.starts[index + 1] - 1;
  }

  /** Finds, of sorted texts, one past the last of those that begin so, which lie from `from` on. */
  endOfBeginning(beginning: string, from: number): number {
    let low = from;
    let high = this.size;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.joined.startsWith(beginning, this.starts[middle])) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Counts, of sorted texts, those before `text`. */
  lowerBound(text: string): number {
    let low = 0;
    let high = this.size;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.at(middle) < text) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /**
   * Finds those of the texts `candidates` (rising) that contain `needle`. Few are looked at one by one. Else it is one forward
   * scan: a hit beyond the text in hand also tells which texts to pass over.
   */
  containing(needle: string, candidates?: Uint32Array): number[] {
    const found: number[] = [];
    const { joined, starts } = this;
    if (candidates === undefined) {
      let text = 0;
      for (let hit = joined.indexOf(needle); hit >= 0; hit = joined.indexOf(needle, starts[text])) {
        text = this.textAt(hit, text);
        found.push(text++);
        if (text >= this.size) break;
      }
      return found;
    }
    if (candidates.length < joined.length / SCANNED_FOR_ONE) {
      for (let i = 0; i < candidates.length; i++)
        if (this.at(candidates[i]).includes(needle)) found.push(candidates[i]);
      return found;
    }
    let hit = -1;
    for (let i = 0; i < candidates.length; i++) {
      const text = candidates[i];
      if (hit < starts[text]) {
        hit = joined.indexOf(needle, starts[text]);
        if (hit < 0) break;
      }
      if (hit < starts[text + 1]) found.push(text);
    }
    return found;
  }

  /** The text that holds offset `at`; `from` is a text at or before it. Gallops, since hits come in order. */
  private textAt(at: number, from: number): number {
    const { starts } = this;
    let step = 1;
    let high = from;
    while (high < this.size && starts[high + 1] <= at) {
      high += step;
      step <<= 1;
    }
    if (high === from) return from;
    let low = Math.max(from, high - (step >>> 1));
    high = Math.min(high, this.size - 1);
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (starts[middle + 1] <= at) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Bytes held, counting a letter as one byte where the engine can store it so. */
  get bytes(): number {
    return this.joined.length * (/[^\x00-\xff]/.test(this.joined) ? 2 : 1) + this.starts.byteLength;
  }
}
