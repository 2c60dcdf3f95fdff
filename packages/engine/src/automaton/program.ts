/**
 * A program for a matching machine: instructions that read one character, branch in order of preference, or look at where
 * they are. Patterns and wildcards compile to it; the deterministic automaton and the marker run it.
 *
 * Source: K. Thompson, "Regular expression search algorithm", CACM 11(6), 1968; R. Cox, "Regular Expression Matching: the
 * Virtual Machine Approach", 2009.
 */
import type { CodeRange } from '../notation/index.js';

export const enum Op {
  /** Read a character of set `x`, go on at `y`. */
  Read,
  /** Does what Read does of any character, but only where a character of the shown text begins. */
  ReadFirst,
  /** Does what Read does of any character, but only inside a character of the shown text. */
  ReadInside,
  /** Go on at `x`; failing that, at `y`. */
  Split,
  /** Go on at `y` if assertion `x` holds here. */
  Assert,
  Match,
  Fail,
}

export const enum Look {
  Start,
  End,
  Boundary,
  NoBoundary,
  /** Not between two characters of one word (letters, digits, marks): where a word-wise hit may begin or end. */
  WordEdge,
  /** Where a character of the shown text begins, or at the end. */
  Character,
}

/** Instructions that a program may have: beyond it a pattern is too large. */
export const PROGRAM_LIMIT = 12_000;

export interface Program {
  readonly ops: readonly Op[];
  readonly x: readonly number[];
  readonly y: readonly number[];
  /** Sets that Read refers to: sorted ranges. */
  readonly sets: readonly (readonly CodeRange[])[];
  readonly start: number;
}

/** A pattern or wildcard that needs more instructions than the limit. */
export class TooLarge extends Error {
  constructor() {
    super('This pattern is too large: it asks for more repeats than can be kept track of.');
  }
}

/**
 * Instructions that the patterns and wildcards of one search may have in all: compiling more would keep others waiting. The
 * search that is being compiled is the only one at that time.
 */
export const Budget = {
  left: Infinity,
  /** Runs `work`, within which no more than so many instructions are made. @throws TooLarge */
  of<T>(instructions: number, work: () => T): T {
    Budget.left = instructions;
    try {
      return work();
    } finally {
      Budget.left = Infinity;
    }
  },
};

/** A loose end of a fragment: an instruction's `x` or `y` that is still to be told where to go. */
export type End = number;

/** The same loose end of a fragment's copy. @param by how much farther its instructions are */
export function movedEnd(end: End, by: number): End {
  return end + 2 * by;
}

export class ProgramBuilder {
  private readonly ops: Op[] = [];
  private readonly x: number[] = [];
  private readonly y: number[] = [];
  private readonly sets: (readonly CodeRange[])[] = [];
  private readonly setNumbers = new Map<string, number>();

  add(op: Op, x = 0, y = 0): number {
    if (this.ops.length >= PROGRAM_LIMIT || --Budget.left < 0) throw new TooLarge();
    this.ops.push(op);
    this.x.push(x);
    this.y.push(y);
    return this.ops.length - 1;
  }

  /** How many instructions there are. */
  get size(): number {
    return this.ops.length;
  }

  /** Adds the instructions from `from` up to `to` once more, with what they say of each other. @returns how much farther they are */
  again(from: number, to: number): number {
    const by = this.ops.length - from;
    const moved = (target: number): number => (target >= from ? target + by : target);
    for (let at = from; at < to; at++) {
      const op = this.ops[at];
      this.add(op, op === Op.Split ? moved(this.x[at]) : this.x[at], moved(this.y[at]));
    }
    return by;
  }

  set(ranges: readonly CodeRange[]): number {
    const key = ranges.join(';');
    let number = this.setNumbers.get(key);
    if (number === undefined) {
      number = this.sets.length;
      this.sets.push(ranges);
      this.setNumbers.set(key, number);
    }
    return number;
  }

  /** The loose end at an instruction's `y` (or `x`, if `first`). */
  end(instruction: number, first = false): End {
    return instruction * 2 + (first ? 1 : 0);
  }

  connect(ends: readonly End[], target: number): void {
    for (const end of ends) (end & 1 ? this.x : this.y)[end >>> 1] = target;
  }

  done(start: number): Program {
    return { ops: this.ops, x: this.x, y: this.y, sets: this.sets, start };
  }
}
