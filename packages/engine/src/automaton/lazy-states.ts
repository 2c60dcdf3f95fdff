/**
 * The states of an automaton, made as texts ask for them: a state is the set of instructions that may be next, and each step
 * is one look into a table. Their memory is bounded, all that a state holds counted: when it is used up, all is thrown away
 * and begun again. Where that happens before the states have paid for themselves, there are too many of them to be made: then
 * texts are read by simulation (`simulation.ts`), in linear time too.
 */
import { Alphabet, holds, NO_LETTER } from './alphabet.js';
import { Look, Op, type Program } from './program.js';
import { leastLetters } from './least-letters.js';
import { Simulation } from './simulation.js';
import { Threads } from './threads.js';

/** Stands in place of a state that has not been made yet. */
export const UNKNOWN = -2;
/** Stands in place of a state once the program has matched, whatever follows. */
export const MATCHED = -1;
/** Stands in place of a state where there are too many to be made: the text has to be read as a whole, by `test`. */
export const OVERGROWN = -3;
/** Bytes that states may take. */
const MEMORY = 16 << 20;
/** Bytes of a state besides its row and its instructions. */
const STATE_BYTES = 160;
/** Letters that have to be read for each state made; see RE2, which gives its automaton up by the same measure. */
const LETTERS_A_STATE = 10;
/** Work on making states, in instructions followed, after which it is judged whether they pay for themselves. */
const FAIR_TRY = 200_000;
/** The fair try of a large program is shorter: each of its states takes long to be made, and others wait meanwhile. */
const LARGE = 500;
const FAIR_TRY_OF_LARGE = 20_000;
/** An instruction is so much more work to name a state by than to follow. */
const NAMING = 3;

/** The state that every text begins in. */
export const START = 0;

interface State {
  /** Instructions to go on from, not yet followed through branches and assertions; sorted. */
  readonly instructions: Uint16Array;
  /** Bits of the letter before. */
  readonly before: number;
}

export class LazyStates {
  protected readonly alphabet: Alphabet;
  /**
   * Entries of a row: one a letter; the same again for letters inside a character of the shown text, where a program asks;
   * and one for the end of the text.
   */
  protected readonly width: number;
  /** How far the letters inside a character lie from the others; 0 if that is all one to the program. */
  protected readonly inside: number;
  /** Whether what is read next may depend on the letter before. */
  readonly looks: boolean;
  private readonly states: State[] = [];
  private readonly rows = new Map<string, number>();
  private readonly matching = new Map<number, boolean>();
  protected table: Int32Array;
  private bytes = 0;
  protected lettersRead = 0;
  private statesMade = 0;
  private work = 0;
  protected simulation: Simulation | undefined;
  /** Reads texts of plain characters part by part, once there are too many states, if the program allows that. */
  threads: Threads | undefined;
  private readonly marks: Uint32Array;
  private mark = 0;
  protected begun = 0;

  /** Letters that a text has at least in which the program matches. */
  readonly least: number;

  constructor(protected readonly program: Program) {
    this.alphabet = new Alphabet(program);
    this.least = leastLetters(program);
    const minds = program.ops.some(
      (op, i) => op === Op.ReadInside || (op === Op.Assert && program.x[i] === Look.Character),
    );
    this.inside = minds ? this.alphabet.size : 0;
    this.width = this.alphabet.size + this.inside + 1;
    this.looks = program.ops.some((op, i) => op === Op.Assert && program.x[i] !== Look.Character);
    this.table = new Int32Array(64 * this.width).fill(UNKNOWN);
    this.marks = new Uint32Array(program.ops.length);
    this.begin();
  }

  /** Rises each time the table is thrown away: states from before then mean nothing. */
  get generation(): number {
    return this.begun;
  }

  /** Whether each state takes long to be made. */
  protected get isLarge(): boolean {
    return this.program.ops.length > LARGE;
  }

  /** True once there are too many states to be made. */
  get overgrown(): boolean {
    return this.simulation !== undefined;
  }

  /** Entries of the table that are of states. */
  get entries(): number {
    return this.states.length * this.width;
  }

  private begin(): void {
    this.bytes = 0;
    this.states.length = 0;
    this.rows.clear();
    this.matching.clear();
    this.table.fill(UNKNOWN);
    this.begun++;
    this.row(Uint16Array.of(this.program.start), this.looks ? NO_LETTER : 0);
  }

  /** Tells whether the states made do not pay for themselves. From then on texts are read by simulation. */
  private outgrows(): boolean {
    if (this.work < (this.isLarge ? FAIR_TRY_OF_LARGE : FAIR_TRY)) return false;
    if (this.lettersRead >= LETTERS_A_STATE * this.statesMade) {
      this.work = 0;
      this.lettersRead = 0;
      this.statesMade = 0;
      return false;
    }
    this.simulation = new Simulation(this.program, this.alphabet);
    this.threads = Threads.of(this.program, this.alphabet);
    this.begun++;
    this.states.length = 0;
    this.rows.clear();
    this.table = new Int32Array(0);
    return true;
  }

  private row(instructions: Uint16Array, before: number): number {
    const key = `${before}:${instructions.join(',')}`;
    let row = this.rows.get(key);
    if (row !== undefined) return row;
    const bytes = STATE_BYTES + 4 * this.width + 2 * instructions.length + 2 * key.length;
    this.work += NAMING * instructions.length + 16;
    this.statesMade++;
    if (this.outgrows()) return OVERGROWN;
    if (this.bytes + bytes > MEMORY && this.states.length > 1) this.begin();
    this.bytes += bytes;
    row = this.states.length * this.width;
    this.states.push({ instructions, before });
    this.rows.set(key, row);
    if (row + this.width > this.table.length) {
      const larger = new Int32Array(Math.max(this.table.length * 2, row + this.width)).fill(UNKNOWN);
      larger.set(this.table);
      this.table = larger;
    }
    return row;
  }

  /**
   * Reading instructions reachable without reading, by what comes next.
   * @param first whether a character of the shown text begins next
   * @returns undefined if the end of the program is reachable
   */
  private closure({ instructions, before }: State, after: number, first: boolean): number[] | undefined {
    const { ops, x, y } = this.program;
    const reading: number[] = [];
    const stack = [...instructions];
    this.mark++;
    while (stack.length > 0) {
      const at = stack.pop()!;
      if (this.marks[at] === this.mark) continue;
      this.marks[at] = this.mark;
      switch (ops[at]) {
        case Op.Match:
          return undefined;
        case Op.Split:
          stack.push(y[at], x[at]);
          break;
        case Op.Assert:
          if (holds(x[at], before, after, first)) stack.push(y[at]);
          break;
        case Op.Read:
          reading.push(at);
          break;
        case Op.ReadFirst:
          if (first) reading.push(at);
          break;
        case Op.ReadInside:
          if (!first) reading.push(at);
          break;
        default:
      }
    }
    return reading;
  }

  /** @param entry a letter, or one `inside` farther */
  protected step(from: number, entry: number): number {
    const { ops, x, y, start } = this.program;
    const first = entry < this.alphabet.size;
    const letter = first ? entry : entry - this.inside;
    const after = this.looks ? this.alphabet.bits[letter] : 0;
    const reading = this.closure(this.states[from / this.width], after, first);
    this.work += reading?.length ?? 0;
    let to = MATCHED;
    if (reading) {
      const next = new Set([start]);
      for (const at of reading) if (ops[at] !== Op.Read || this.alphabet.has(x[at], letter)) next.add(y[at]);
      const { begun } = this;
      to = this.row(Uint16Array.from(next).sort(), after);
      // After a new beginning the state come from has gone, and so has its row.
      if (this.begun !== begun) return to;
    }
    this.table[from + entry] = to;
    return to;
  }

  /** The state after a space, of a reading that begins only there: what any reading that comes by a space can do, too. */
  afterSpace(): number {
    const before = this.looks ? this.alphabet.bits[this.alphabet.first[0x20]] : 0;
    return this.overgrown ? OVERGROWN : this.row(Uint16Array.of(this.program.start), before);
  }

  /** Tells whether the program has matched after a state if a character of the shown text begins there, whichever it is. */
  matchesBefore(state: number): boolean {
    let matches = this.matching.get(state);
    if (matches === undefined) {
      const letters = this.looks ? new Set([NO_LETTER, ...this.alphabet.bits]) : [0];
      matches = [...letters].every((after) => !this.closure(this.states[state / this.width], after, true));
      this.matching.set(state, matches);
    }
    return matches;
  }

  /** Gives what `run` reads the ASCII units as, if each is taken for what `as` makes of it. */
  lettersOf(as: (unit: number) => number): Uint16Array {
    return Uint16Array.from({ length: 128 }, (_, unit) => this.alphabet.first[as(unit)]);
  }

  /** Tells whether the program has matched if the text ends after a state, which is not OVERGROWN. */
  matchesAtEnd(state: number): boolean {
    if (state === MATCHED) return true;
    const end = state + this.width - 1;
    if (this.table[end] === UNKNOWN)
      this.table[end] = this.closure(this.states[state / this.width], NO_LETTER, true) ? START : MATCHED;
    return this.table[end] === MATCHED;
  }
}
