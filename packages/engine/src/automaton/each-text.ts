/**
 * The loops that read many short texts, letter by letter. V8 knows where an array lies that a function closes over which was
 * made but once, and reads from it several times as fast as from one that it is handed: so what is read is copied to such
 * arrays first, a block of texts at a time. It has to come by them before a loop begins, and by nothing that was imported.
 */

/** Many texts of ASCII units. */
export interface Texts {
  readonly units: Uint8Array;
  /** Where in `units` each begins; it ends one before the next. */
  readonly starts: Uint32Array;
  /** The groups of all units of each text. */
  readonly groups: Uint32Array;
  /** The group of each ASCII unit, a bit. */
  readonly unitGroups: Uint32Array;
  /** How many units of each are those that the one before it begins with; of more than 255, 255. */
  readonly shares: Uint8Array;
}

/** Texts of a block, and units of all of them. */
const MOST_TEXTS = 1_024;
const MOST_UNITS = 1 << 15;
/** Entries of a table of states. */
export const MOST_ENTRIES = 1 << 15;
/** Says of a state that it has not been looked for what moves it, or whether it matches at the end of a text. */
export const NOT_TRIED = -2;
/** The same as `MATCHED` of `lazy-states.ts`. */
const MATCHED = -1;

/** Where reading has come to something that is not known yet. */
interface Halt {
  /** The state in question. */
  state: number;
  /** The letter that it is not known to lead anywhere by; -1 if it is not known what moves it. */
  letter: number;
  /** The letters of the text that have been read; for `read`, the states of the path that are known. */
  depth: number;
  /** Letters that have been read; rises. */
  read: number;
}

function makeReader() {
  const UNITS = new Uint8Array(MOST_UNITS);
  const STARTS = new Uint32Array(MOST_TEXTS + 1);
  const GROUPS = new Uint32Array(MOST_TEXTS);
  const SHARES = new Uint8Array(MOST_TEXTS);
  const WHICH = new Uint8Array(MOST_TEXTS);
  const LETTERS = new Uint16Array(128);
  const TABLE = new Int32Array(MOST_ENTRIES);
  /** The groups of units that lead elsewhere from each state. */
  const MOVING = new Int32Array(MOST_ENTRIES);
  /** A 1 for each state in which a text that ends matches, else 0. */
  const ENDS = new Int8Array(MOST_ENTRIES);
  const REACHED = new Int32Array(MOST_TEXTS);
  /** States of the text that was read last, from before its first unit on. */
  const PATH = new Int32Array(MOST_UNITS + 1);
  const HALT: Halt = { state: 0, letter: 0, depth: 0, read: 0 };

  /**
   * Takes the next texts: what is known of the path goes on to be known as far as the first text begins as the one before it.
   * @returns how many of the texts from `from` on make a block; 0 if there is none so short
   */
  const take = (texts: Texts, asked: Uint8Array, from: number): number => {
    let to = Math.min(from + MOST_TEXTS, asked.length);
    const base = texts.starts[from];
    while (texts.starts[to] - base > MOST_UNITS) to = (from + to) >>> 1;
    UNITS.set(texts.units.subarray(base, texts.starts[to]));
    STARTS.set(texts.starts.subarray(from, to + 1));
    GROUPS.set(texts.groups.subarray(from, to));
    SHARES.set(texts.shares.subarray(from, to));
    WHICH.set(asked.subarray(from, to));
    HALT.depth = Math.min(HALT.depth, texts.shares[from]);
    return to - from;
  };

  /**
   * @param first, count texts of the block that are read
   * @param bit those whose byte has it
   * @param known so many states of the path are known of the first text: where it has come to a halt, it goes on
   * @returns `count`, or the text that it has come to a halt in
   */
  const read = (first: number, count: number, bit: number, known: number): number => {
    const units = UNITS;
    const starts = STARTS;
    const groups = GROUPS;
    const shares = SHARES;
    const which = WHICH;
    const letters = LETTERS;
    const table = TABLE;
    const moving = MOVING;
    const reached = REACHED;
    const path = PATH;
    const halt = HALT;
    const base = starts[0];
    let depth = known | 0;
    let passed = 0;
    for (let text = first | 0; text < count; text++) {
      if (text > first && shares[text] < depth) depth = shares[text];
      if ((which[text] & bit) === 0) continue;
      let state = path[depth];
      // Where nothing in a text leads out of a state, the text need not be read on.
      if (moving[state] === NOT_TRIED) {
        halt.state = state;
        halt.letter = -1;
        halt.depth = depth;
        halt.read += passed;
        return text;
      }
      passed++;
      if ((groups[text] & moving[state]) === 0) {
        reached[text] = state;
        continue;
      }
      let at = starts[text] - base + depth;
      const end = starts[text + 1] - base - 1;
      let next = 0;
      for (; at < end; at++) {
        next = table[state + letters[units[at]]];
        if (next < 0) break;
        state = next;
        path[++depth] = state;
        passed++;
      }
      if (at < end && next !== MATCHED) {
        halt.state = state;
        halt.letter = letters[units[at]];
        halt.depth = depth;
        halt.read += passed;
        return text;
      }
      reached[text] = at < end ? MATCHED : state;
    }
    halt.depth = depth;
    halt.read += passed;
    return count;
  };

  /**
   * Does what `read` does, where it is known what is reached from another state: mostly both come to the same after a letter or two.
   * @param from the state to read from @param other the one that what is reached is known of
   * @param known so many letters of the first text have been read, where it has come to a halt
   */
  const readBeside = (
    first: number,
    count: number,
    bit: number,
    from: number,
    other: number,
    known: number,
  ): number => {
    const units = UNITS;
    const starts = STARTS;
    const groups = GROUPS;
    const which = WHICH;
    const letters = LETTERS;
    const table = TABLE;
    const reached = REACHED;
    const halt = HALT;
    const moving = MOVING;
    const base = starts[0];
    const moves = moving[from];
    let passed = 0;
    for (let text = first | 0; text < count; text++) {
      if ((which[text] & bit) === 0) continue;
      passed++;
      if ((groups[text] & moves) === 0) {
        reached[text] = from;
        continue;
      }
      const start = starts[text] - base;
      const end = starts[text + 1] - base - 1;
      let at = start;
      let state = from | 0;
      if (text === first && known > 0) {
        at += known;
        ({ state } = halt);
      } else {
        let beside = other | 0;
        for (; at < end && state !== beside; at++) {
          const letter = letters[units[at]];
          const next = table[state + letter];
          const nextBeside = table[beside + letter];
          if ((next | nextBeside) < 0) break;
          state = next;
          beside = nextBeside;
          passed++;
        }
        if (state === beside) continue;
      }
      let next = 0;
      for (; at < end; at++) {
        next = table[state + letters[units[at]]];
        if (next < 0) break;
        state = next;
        passed++;
      }
      if (at < end && next !== MATCHED) {
        halt.state = state;
        halt.letter = letters[units[at]];
        halt.depth = at - start;
        halt.read += passed;
        return text;
      }
      reached[text] = at < end ? MATCHED : state;
    }
    halt.depth = 0;
    halt.read += passed;
    return count;
  };

  /**
   * Leaves the byte of those texts that were read and match, and takes it from the others.
   * @returns `count`, or the text of whose state it is not known whether it matches at the end of a text; then `halt` has it
   */
  const judge = (first: number, count: number, bit: number): number => {
    const which = WHICH;
    const reached = REACHED;
    const ends = ENDS;
    const halt = HALT;
    for (let text = first | 0; text < count; text++) {
      if ((which[text] & bit) === 0) continue;
      const state = reached[text];
      if (state < 0) continue;
      const end = ends[state];
      if (end === NOT_TRIED) {
        halt.state = state;
        return text;
      }
      if (end === 0) which[text] = 0;
    }
    return count;
  };

  return {
    which: WHICH,
    ends: ENDS,
    judge,
    letters: LETTERS,
    table: TABLE,
    moving: MOVING,
    reached: REACHED,
    path: PATH,
    halt: HALT,
    take,
    read,
    readBeside,
  };
}

export const reader = makeReader();
