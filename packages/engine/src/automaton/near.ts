/**
 * Near spelling: an automaton that accepts the words within a distance of a given one. An insertion, a deletion, a change or
 * a swap of neighbours costs one (optimal string alignment). A state is the last two rows of the distance table, cut off
 * above the distance; there are few, and each is worked out once.
 *
 * Over a sorted list of words it runs as over a tree: what two neighbours have in common is read once, and a beginning that
 * leads nowhere is passed over with all that share it.
 *
 * Source: L. Boytsov, "Indexing methods for approximate dictionary searching", JEA 16, 2011 (optimal string alignment);
 * K. Schulz, S. Mihov, "Fast string correction with Levenshtein automata", IJDAR 5, 2002.
 */

/** Distance allowed for a word of so many letters. */
export function allowedDistance(letters: number): number {
  return letters <= 2 ? 0 : letters <= 5 ? 1 : 2;
}

/** A sorted list of words. */
export interface SortedWords {
  /** The words, one after the other. */
  readonly joined: string;
  /** Where each starts in `joined`, and where the last ends; each ends one before the next. */
  readonly starts: Uint32Array;
  /** How many units each has in common with the one before it. */
  readonly common: Uint16Array;
  /** `letterBits` of each. */
  readonly bits: Uint32Array;
}

/** Which letters a word has, as bits; letters may share one. */
export function letterBits(word: string): number {
  let bits = 0;
  for (let i = 0; i < word.length; i++) bits |= 1 << (word.charCodeAt(i) & 31);
  return bits >>> 0;
}

const UNKNOWN = -2;
const DEAD = -1;

interface State {
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
  private readonly states: State[] = [];
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

  private state(state: State): number {
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

  private next({ row, rowBefore, letter: last }: State, letter: number): number {
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
   * Visits the accepted words of a sorted list. A word that lacks more of the letters than the distance allows is passed
   * over unread: each letter it lacks costs one.
   */
  over({ joined, starts, common, bits }: SortedWords, visit: (word: number, distance: number) => void): void {
    const path: number[] = [0];
    let shared = 0;
    let dead = Infinity;
    for (let word = 0; word + 1 < starts.length; word++) {
      shared = Math.min(shared, common[word]);
      if (shared >= dead || lacking(this.bits & ~bits[word]) > this.distance) continue;
      const length = starts[word + 1] - 1 - starts[word];
      let depth = Math.min(shared, path.length - 1);
      // Never between the two halves of one character.
      if (depth > 0 && (joined.charCodeAt(starts[word] + depth) & 0xfc00) === 0xdc00) depth--;
      let state = path[depth];
      path.length = depth + 1;
      dead = Infinity;
      shared = Infinity;
      while (depth < length) {
        const unit = joined.charCodeAt(starts[word] + depth);
        const pair = (unit & 0xfc00) === 0xd800 && depth + 1 < length;
        state = this.step(state, pair ? joined.codePointAt(starts[word] + depth)! : unit);
        depth += pair ? 2 : 1;
        if (state === DEAD) {
          dead = depth;
          break;
        }
        if (pair) path.push(path[path.length - 1]);
        path.push(state);
      }
      if (dead === Infinity) {
        const distance = this.distanceAt(state);
        if (distance !== Infinity) visit(word, distance);
      }
    }
  }
}

function lacking(bits: number): number {
  let count = 0;
  for (let rest = bits; rest !== 0; rest &= rest - 1) count++;
  return count;
}
