/**
 * The alphabet of a program: code points that no instruction tells apart are one letter. A handful of letters stand for all
 * of Unicode, so a deterministic automaton can have a table.
 */
import { isWordCharacter } from '../text/index.js';
import { LAST_CODE_POINT, type CodeRange } from '../notation/index.js';
import { Look, Op, type Program } from './program.js';

/** The properties of a letter that assertions ask for, as bits. */
const ASCII_WORD = 1;
const ANY_WORD = 2;
/** Stands in place of a letter's bits where there is none: the text begins or ends there. */
export const NO_LETTER = 4;

const ASCII_WORDS: CodeRange[] = [
  [0x30, 0x39],
  [0x41, 0x5a],
  [0x5f, 0x5f],
  [0x61, 0x7a],
];

function contains(ranges: readonly CodeRange[], codePoint: number): boolean {
  let low = 0;
  let high = ranges.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (ranges[middle][1] < codePoint) low = middle + 1;
    else high = middle;
  }
  return low < ranges.length && ranges[low][0] <= codePoint;
}

export class Alphabet {
  readonly size: number;
  /** Where a program asks for words as `isWordCharacter` has them, each letter is two: this far apart, the farther is a word's. */
  private readonly wordsApart: number;
  /** Bits of each letter, as far as the program looks at them. */
  readonly bits: Uint8Array;
  private readonly starts: Uint32Array;
  private readonly letterOfInterval: Uint16Array;
  /** 1 where set `s` holds letter `l`, at `s * size + l`. */
  private readonly members: Uint8Array;
  /** Letters of the first 256 code points. */
  readonly first: Uint16Array;
  private rest: Uint16Array | undefined;

  constructor(program: Program) {
    const looks = new Set(program.ops.flatMap((op, i) => (op === Op.Assert ? [program.x[i]] : [])));
    const asciiWords = looks.has(Look.Boundary) || looks.has(Look.NoBoundary) ? ASCII_WORDS : [];
    const sets = [...program.sets, asciiWords];
    const cuts = new Set<number>([0]);
    for (const ranges of sets) {
      for (const [low, high] of ranges) {
        cuts.add(low);
        cuts.add(high + 1);
      }
    }
    cuts.delete(LAST_CODE_POINT + 1);
    this.starts = Uint32Array.from([...cuts].sort((a, b) => a - b));
    this.letterOfInterval = new Uint16Array(this.starts.length);
    const letters = new Map<string, number>();
    const samples: number[] = [];
    this.starts.forEach((codePoint, interval) => {
      let signature = '';
      for (const ranges of sets) signature += contains(ranges, codePoint) ? '1' : '0';
      let letter = letters.get(signature);
      if (letter === undefined) {
        letter = letters.size;
        letters.set(signature, letter);
        samples.push(codePoint);
      }
      this.letterOfInterval[interval] = letter;
    });
    this.wordsApart = looks.has(Look.WordEdge) ? letters.size : 0;
    this.size = letters.size + this.wordsApart;
    this.members = new Uint8Array(program.sets.length * this.size);
    this.bits = new Uint8Array(this.size);
    for (let letter = 0; letter < this.size; letter++) {
      const codePoint = samples[letter % letters.size];
      program.sets.forEach((ranges, set) => {
        if (contains(ranges, codePoint)) this.members[set * this.size + letter] = 1;
      });
      this.bits[letter] = (contains(asciiWords, codePoint) ? ASCII_WORD : 0) | (letter >= letters.size ? ANY_WORD : 0);
    }
    this.first = Uint16Array.from({ length: 256 }, (_, codePoint) => this.search(codePoint));
  }

  has(set: number, letter: number): boolean {
    return this.members[set * this.size + letter] === 1;
  }

  letter(codePoint: number): number {
    if (codePoint < 256) return this.first[codePoint];
    if (codePoint > 0xffff) return this.search(codePoint);
    this.rest ??= new Uint16Array(0x10000);
    return (this.rest[codePoint] ||= this.search(codePoint) + 1) - 1;
  }

  private search(codePoint: number): number {
    let low = 0;
    let high = this.starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >>> 1;
      if (this.starts[middle] <= codePoint) low = middle;
      else high = middle - 1;
    }
    return this.letterOfInterval[low] + (this.wordsApart > 0 && isWordCharacter(codePoint) ? this.wordsApart : 0);
  }
}

/** Tells whether an assertion holds between two letters, given by their bits. @param character a shown character begins here */
export function holds(look: Look, before: number, after: number, character: boolean): boolean {
  switch (look) {
    case Look.Start:
      return before === NO_LETTER;
    case Look.End:
      return after === NO_LETTER;
    case Look.Boundary:
      return (before & ASCII_WORD) !== (after & ASCII_WORD);
    case Look.NoBoundary:
      return (before & ASCII_WORD) === (after & ASCII_WORD);
    case Look.WordEdge:
      return (before & after & ANY_WORD) === 0;
    case Look.Character:
      return character;
  }
}
