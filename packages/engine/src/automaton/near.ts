/**
 * Near spelling: an automaton that accepts the words within a distance of a given one. An insertion, a deletion, a change or
 * a swap of neighbours costs one (optimal string alignment). A state is the last two rows of the distance table, cut off
 * above the distance; there are few, and each is worked out once.
 *
 * Over a list of words it reads only those that could be near: which letters a word has is kept as bits, and each letter
 * that it lacks, or has besides, costs one.
 *
 * Source: L. Boytsov, "Indexing methods for approximate dictionary searching", JEA 16, 2011 (optimal string alignment);
 * K. Schulz, S. Mihov, "Fast string correction with Levenshtein automata", IJDAR 5, 2002.
 */

/** Distance allowed for a word of so many letters. */
export function allowedDistance(letters: number): number {
  return letters <= 2 ? 0 : letters <= 5 ? 1 : 2;
}

/** Many words, for looking through. */
interface WordPool {
  /** The words, one after the other. */
  readonly joined: string;
  /** Where each starts in `joined`, and where the last ends; each ends one before the next. */
  readonly starts: Uint32Array;
  /** `letterBits` of each. */
  readonly bits: Uint32Array;
  /** All bits that any word of a block of `BLOCK` words has. */
  readonly blockBits: Uint32Array;
}

/** Words looked at as one before they are looked at singly: sorted, so that numbers lie with numbers. */
export const BLOCK = 64;
/** Bits of what is neither a to z nor a digit, and may take two UTF-16 units. */
const OTHERS = (1 << 31) | 1;

/** Bits 1 to 26 for a to z; 27 to 30 for digits; the rest shares two. */
function letterBit(unit: number): number {
  if (unit >= 0x61 && unit <= 0x7a) return unit & 31;
  if (unit >= 0x30 && unit <= 0x39) return 27 + (unit & 3);
  return unit & 1 ? 31 : 0;
}

/** Tells which letters a word has, as bits; letters may share one. */
export function letterBits(word: string): number {
  let bits = 0;
  for (let i = 0; i < word.length; i++) bits |= 1 << letterBit(word.charCodeAt(i));
  return bits >>> 0;
}

const UNKNOWN = -2;
const DEAD = -1;

interface NearState {
  readonly row: readonly number[];
  readonly rowBefore: readonly number[] | undefined;
  /** Letter read last, as its number among the word's own; 0 for any other. */
  readonly letter: number;
}

export class NearAutomaton {
  readonly distance: number;
  private readonly bits: number;
  private readonly letters: readonly number[];
  private readonly numbers = new Map<number, number>();
  private readonly states: NearState[] = [];
  private readonly known = new Map<string, number>();
  private readonly steps: number[][] = [];

  /** @param word folded */
  constructor(word: string, distance?: number) {
    this.bits = letterBits(word);
    const points = [...word].map((letter) => letter.codePointAt(0)!);
    this.distance = distance ?? allowedDistance(points.length);
    for (const point of points) if (!this.numbers.has(point)) this.numbers.set(point, this.numbers.size + 1);
    this.letters = points.map((point) => this.numbers.get(point)!);
    const cut = this.distance + 1;
    this.state({
      row: Array.from({ length: points.length + 1 }, (_, i) => Math.min(i, cut)),
      rowBefore: undefined,
      letter: 0,
    });
  }

  private state(state: NearState): number {
    const key = `${state.row.join(',')};${state.rowBefore?.join(',') ?? ''};${state.letter}`;
    let number = this.known.get(key);
    if (number === undefined) {
      number = this.states.length;
      this.states.push(state);
      this.steps.push(new Array<number>(this.numbers.size + 1).fill(UNKNOWN));
      this.known.set(key, number);
    }
    return number;
  }

  /** The state after reading a letter; -1 if no word can be reached any more. */
  step(from: number, codePoint: number): number {
    const letter = this.numbers.get(codePoint) ?? 0;
    let to = this.steps[from][letter];
    if (to === UNKNOWN) this.steps[from][letter] = to = this.next(this.states[from], letter);
    return to;
  }

  private next({ row, rowBefore, letter: last }: NearState, letter: number): number {
    const cut = this.distance + 1;
    const next = [Math.min(row[0] + 1, cut)];
    for (let j = 1; j < row.length; j++) {
      let cost = Math.min(row[j] + 1, next[j - 1] + 1, row[j - 1] + (this.letters[j - 1] === letter ? 0 : 1));
      if (
        rowBefore &&
        j > 1 &&
        last !== 0 &&
        letter !== 0 &&
        this.letters[j - 2] === letter &&
        this.letters[j - 1] === last
      ) {
        cost = Math.min(cost, rowBefore[j - 2] + 1);
      }
      next.push(Math.min(cost, cut));
    }
    // A swap can still bring a row back from its predecessor, so both have to be out of reach.
    if (next.every((cost) => cost === cut) && row.every((cost) => cost === cut)) return DEAD;
    return this.state({ row: next, rowBefore: row, letter });
  }

  /** The distance of what was read, or Infinity if it is more than allowed. */
  distanceAt(state: number): number {
    if (state === DEAD) return Infinity;
    const distance = this.states[state].row[this.letters.length];
    return distance > this.distance ? Infinity : distance;
  }

  /** @returns the distance, or Infinity if it is more than allowed */
  distanceOf(word: string): number {
    let state = 0;
    for (const letter of word) {
      state = this.step(state, letter.codePointAt(0)!);
      if (state === DEAD) return Infinity;
    }
    return this.distanceAt(state);
  }

  /**
   * Visits the accepted words of a list. A word is passed over unread if it lacks more of the letters than the distance
   * allows, or has more others, or is too short or too long: each costs one. So is a block of words that all lack too many.
   */
  over({ joined, starts, bits, blockBits }: WordPool, visit: (word: number, distance: number) => void): void {
    const { distance: most } = this;
    const count = starts.length - 1;
    const shortest = this.letters.length - most;
    const longest = this.letters.length + most;
    for (let block = 0; block < blockBits.length; block++) {
      if (moreThan(most, this.bits & ~blockBits[block])) continue;
      const end = Math.min(count, (block + 1) * BLOCK);
      for (let word = block * BLOCK; word < end; word++) {
        const has = bits[word];
        if (moreThan(most, this.bits & ~has) || moreThan(most, has & ~this.bits)) continue;
        const length = starts[word + 1] - 1 - starts[word];
        if (length < shortest || (length > longest && (has & OTHERS) === 0)) continue;
        const distance = this.distanceOf(joined.substring(starts[word], starts[word] + length));
        if (distance !== Infinity) visit(word, distance);
      }
    }
  }
}

/** Tells whether more than `most` bits are set. */
function moreThan(most: number, bits: number): boolean {
  let rest = bits;
  for (let i = 0; i < most && rest !== 0; i++) rest &= rest - 1;
  return rest !== 0;
}
