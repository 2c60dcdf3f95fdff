/**
 * The readers of a program that may follow each other, as words of bits. A reader is an instruction that reads one character; it follows
 * another if it can be reached from behind it without reading. Long counted repeats make sets of thousands that follow each
 * reader, so they are kept in three ways that each take some operations a word, whatever the counts:
 *
 * - _skips_: a reader after which the next one in order can come as well, whenever it can come itself. Of a set that has it, the
 *   next one is told by carrying: `x?x?x?` is one addition.
 * - _shifts_: readers that are followed by the one so many places farther, as most are by the next one, and as those of each
 *   copy of a repeat are by those of the same copy.
 * - _groups_: readers that lead to the same others, as all of `x{0,1000}` do to what comes after it.
 *
 * Source: V. Glushkov, "The abstract theory of automata", 1961 (positions); G. Navarro, M. Raffinot, "Fast and simple character
 * classes and bounded gaps pattern matching", JCB 10(6), 2003 (optional characters by carrying).
 */
import { finished, StepMeter, type Steps } from '../steps.js';
import { type Alphabet, holds } from './alphabet.js';
import { Look, Op, type Program } from './program.js';

/** Readers that lead to the one so many places farther, and those. */
interface Shift {
  readonly by: number;
  readonly mask: Uint32Array;
  readonly targets: Uint32Array;
}

/** Readers that all lead to the same others. */
interface Group {
  readonly mask: Uint32Array;
  readonly targets: Uint32Array;
}

/** The positions that may follow, between two letters. */
export interface Follow {
  /** The readers that can be reached from each instruction, one set after the other; and whether the end can be. */
  readonly reached: Uint32Array;
  readonly ends: Uint8Array;
  /** Readers that come first, without those that are told by the skips. */
  readonly first: Uint32Array;
  readonly skips: Uint32Array;
  readonly shifts: readonly Shift[];
  readonly groups: readonly Group[];
  /** Readers after which the program has matched. */
  readonly matching: Uint32Array;
  /** The program matches without reading. */
  readonly empty: boolean;
}

/** The positions of programs that were worked out before: whoever tests by a program soon marks by it, too. */
const known = new WeakMap<Program, Positions>();

/** Offsets that fewer readers than this share are told by groups. */
const FEW = 3;
/** Words of sets that are worked out in one step; a follower that is looked up is as much work as so many. */
const A_STEP = 1 << 14;
const A_FOLLOWER = 8;

export class Positions {
  /** The instruction of each reader. */
  readonly readers: readonly number[];
  /** The number of each instruction that is a reader; -1 of the others. */
  readonly numbers: Int32Array;
  /** Words of a set of readers. */
  readonly words: number;
  private readonly follows = new Map<number, Follow>();
  /** The follows of a large program that were begun, and whose asker was stopped meanwhile. */
  private readonly begun = new Map<number, Steps<Follow>>();
  /** The readers that take a letter, by letter, and again for letters inside a character. */
  private readonly takes: (Uint32Array | undefined)[] = [];
  /** Flags of what assertions look at: the letter before, the one after, whether a shown character begins. */
  private readonly looksBefore: boolean;
  private readonly looksAfter: boolean;
  private readonly looksAtCharacters: boolean;
  /** Whether some instruction leads without reading to one before it, as loops do. */
  private readonly leadsBack: boolean;

  /** @param insides whether characters may be of several code points; without, readers of what is inside one are left out */
  constructor(
    private readonly program: Program,
    insides = true,
  ) {
    const { ops } = program;
    this.numbers = new Int32Array(ops.length).fill(-1);
    const readers: number[] = [];
    ops.forEach((op, at) => {
      if (op !== Op.Read && op !== Op.ReadFirst && (op !== Op.ReadInside || !insides)) return;
      this.numbers[at] = readers.length;
      readers.push(at);
    });
    this.readers = readers;
    this.words = (readers.length + 32) >>> 5;
    const { x, y } = program;
    const looks = new Set(ops.flatMap((op, at): Look[] => (op === Op.Assert ? [x[at]] : [])));
    this.looksAtCharacters = looks.delete(Look.Character);
    this.looksBefore = [...looks].some((look) => look !== Look.End);
    this.looksAfter = [...looks].some((look) => look !== Look.Start);
    this.leadsBack = ops.some(
      (op, at) => (op === Op.Split && (x[at] <= at || y[at] <= at)) || (op === Op.Assert && y[at] <= at),
    );
  }

  /** The positions of a program, its readers of what is inside characters included. */
  static of(program: Program): Positions {
    let positions = known.get(program);
    if (!positions) known.set(program, (positions = new Positions(program)));
    return positions;
  }

  private key(before: number, after: number, first: boolean): number {
    return (
      (this.looksBefore ? before * 16 : 0) +
      (this.looksAfter ? after * 2 : 0) +
      (this.looksAtCharacters && first ? 1 : 0)
    );
  }

  /** Gives what may follow between two letters. @param before, after bits of the letters, see `Alphabet` @param first see `holds` */
  follow(before: number, after: number, first: boolean): Follow {
    return this.known(before, after, first) ?? finished(this.followSteps(before, after, first));
  }

  /** Gives what `follow` gives, if that was worked out before. */
  known(before: number, after: number, first: boolean): Follow | undefined {
    return this.follows.get(this.key(before, after, first));
  }

  /** Works out what `follow` gives, in steps. Whoever asks again after having been stopped goes on where that one was. */
  *followSteps(before: number, after: number, first: boolean): Steps<Follow> {
    const key = this.key(before, after, first);
    let steps = this.begun.get(key);
    if (!steps) this.begun.set(key, (steps = this.workedSteps(before, after, first)));
    for (;;) {
      const known = this.follows.get(key);
      if (known) return known;
      const step = steps.next();
      if (step.done) {
        this.follows.set(key, step.value);
        this.begun.delete(key);
        return step.value;
      }
      yield;
    }
  }

  /** The readers that take a letter of the program's alphabet. @param first whether a shown character begins with it */
  takers(alphabet: Alphabet, letter: number, first: boolean): Uint32Array {
    const entry = letter * 2 + (first ? 0 : 1);
    let takers = this.takes[entry];
    if (!takers) {
      const { ops, x } = this.program;
      takers = this.takes[entry] = new Uint32Array(this.words);
      for (const [reader, at] of this.readers.entries()) {
        const takes = ops[at] === Op.Read ? alphabet.has(x[at], letter) : first === (ops[at] === Op.ReadFirst);
        if (takes) put(takers, reader);
      }
    }
    return takers;
  }

  private *workedSteps(before: number, after: number, first: boolean): Steps<Follow> {
    const { program, readers, words } = this;
    const count = new StepMeter(A_STEP);
    const { reached, ends } = yield* this.closureSteps(before, after, first, count);
    const of = (instruction: number): Uint32Array => reached.subarray(instruction * words, (instruction + 1) * words);
    const followers = readers.map((at) => of(program.y[at]));
    const start = of(program.start);
    const skips = yield* skipsOf([...followers, start], words, count);
    const matching = new Uint32Array(words);
    readers.forEach((at, reader) => {
      if (ends[program.y[at]] !== 0) put(matching, reader);
    });
    const rest: Uint32Array[] = [];
    for (const set of followers) {
      rest.push(without(set, skips));
      if (count.fills(words)) yield;
    }
    const { shifts, groups } = yield* parted(rest, words, count);
    return {
      reached,
      ends,
      first: without(start, skips),
      skips,
      shifts,
      groups,
      matching,
      empty: ends[program.start] !== 0,
    };
  }

  /** Works out what can be reached from each instruction without reading, itself included: from the last one on, until nothing is new. */
  private *closureSteps(
    before: number,
    after: number,
    first: boolean,
    count: StepMeter,
  ): Steps<Pick<Follow, 'reached' | 'ends'>> {
    const { program, words, numbers } = this;
    const { ops, x, y } = program;
    const reached = new Uint32Array(ops.length * words);
    const ends = new Uint8Array(ops.length);
    for (let isNew = true, isFirst = true; isNew; isFirst = false) {
      isNew = false;
      for (let at = ops.length - 1; at >= 0; at--) {
        const op = ops[at];
        if (count.fills(words)) yield;
        if (op === Op.Split) {
          if (takeIn(reached, ends, words, at, x[at])) isNew = true;
          if (takeIn(reached, ends, words, at, y[at])) isNew = true;
        } else if (op === Op.Assert) {
          if (holds(x[at], before, after, first) && takeIn(reached, ends, words, at, y[at])) isNew = true;
        } else if (!isFirst) continue;
        else if (op === Op.Match) ends[at] = 1;
        else if (numbers[at] >= 0) reached[at * words + (numbers[at] >>> 5)] |= 1 << (numbers[at] & 31);
        // Where all lead on to what stands behind them, nothing is new to those that have been looked at.
      }
      if (isFirst && !this.leadsBack) break;
    }
    return { reached, ends };
  }
}

/** Makes what can be reached from one instruction be reached from another. @returns whether any of it is new */
function takeIn(reached: Uint32Array, ends: Uint8Array, words: number, at: number, from: number): boolean {
  let isNew = 0;
  if (ends[from] > ends[at]) {
    ends[at] = 1;
    isNew = 1;
  }
  const [to, of] = [at * words, from * words];
  for (let word = 0; word < words; word++) {
    const more = reached[of + word] & ~reached[to + word];
    reached[to + word] |= more;
    isNew |= more;
  }
  return isNew !== 0;
}

function put(set: Uint32Array, reader: number): void {
  set[reader >>> 5] |= 1 << (reader & 31);
}

/** Readers with which each set that has them has the next one as well. */
function* skipsOf(sets: readonly Uint32Array[], words: number, count: StepMeter): Steps<Uint32Array> {
  const bad = new Uint32Array(words);
  const come = new Uint32Array(words);
  for (const set of sets) {
    if (count.fills(words)) yield;
    let one = set[0];
    for (let word = 0; word < words; word++) {
      const after = word + 1 < words ? set[word + 1] : 0;
      if (one !== 0) {
        bad[word] |= one & ~((one >>> 1) | (after << 31));
        come[word] |= one;
      }
      one = after;
    }
  }
  return come.map((one, word) => one & ~bad[word]);
}

/** A set without the readers that are told by a skip before them. */
function without(set: Uint32Array, skips: Uint32Array): Uint32Array {
  const left = new Uint32Array(set.length);
  let before = 0;
  for (let word = 0; word < set.length; word++) {
    const one = set[word];
    const skipped = one & skips[word];
    left[word] = one & ~((skipped << 1) | before);
    before = skipped >>> 31;
  }
  return left;
}

function eachIn(set: Uint32Array, visit: (reader: number) => void): void {
  for (let word = 0; word < set.length; word++)
    for (let on = set[word]; on !== 0; on &= on - 1) visit((word << 5) + 31 - Math.clz32(on & -on));
}

/** @param followers of each reader */
function* parted(
  followers: readonly Uint32Array[],
  words: number,
  count: StepMeter,
): Steps<Pick<Follow, 'shifts' | 'groups'>> {
  const offsets = new Map<number, number>();
  for (const [reader, set] of followers.entries()) {
    let found = words;
    eachIn(set, (to) => {
      offsets.set(to - reader, (offsets.get(to - reader) ?? 0) + 1);
      found += A_FOLLOWER;
    });
    if (count.fills(found)) yield;
  }
  const shifts = new Map<number, Uint32Array>();
  const groups = new Map<string, Group>();
  for (const [reader, set] of followers.entries()) {
    let left: Uint32Array | undefined;
    let found = words;
    eachIn(set, (to) => {
      const by = to - reader;
      found += A_FOLLOWER;
      if (by !== 1 && offsets.get(by)! < FEW) return put((left ??= new Uint32Array(words)), to);
      let mask = shifts.get(by);
      if (!mask) shifts.set(by, (mask = new Uint32Array(words)));
      put(mask, reader);
    });
    if (count.fills(found)) yield;
    if (!left) continue;
    const key = left.join();
    let group = groups.get(key);
    if (!group) groups.set(key, (group = { mask: new Uint32Array(words), targets: left }));
    put(group.mask, reader);
  }
  const withTargets = ([by, mask]: readonly [number, Uint32Array]): Shift => {
    const targets = new Uint32Array(words);
    shiftInto(targets, mask, mask, by);
    return { by, mask, targets };
  };
  return { shifts: Array.from(shifts, withTargets), groups: [...groups.values()] };
}

function meet(a: Uint32Array, b: Uint32Array): boolean {
  for (let word = 0; word < a.length; word++) if ((a[word] & b[word]) !== 0) return true;
  return false;
}

/** Puts `set & mask`, so many places farther, or back where `by` is below 0, into `to`. */
function shiftInto(to: Uint32Array, set: Uint32Array, mask: Uint32Array, by: number): void {
  const words = to.length;
  if (by >= 0) {
    const [whole, bits] = [by >>> 5, by & 31];
    let before = 0;
    for (let word = 0; word + whole < words; word++) {
      const on = set[word] & mask[word];
      to[word + whole] |= bits === 0 ? on : (on << bits) | (before >>> (32 - bits));
      before = on;
    }
    return;
  }
  const [whole, bits] = [-by >>> 5, -by & 31];
  let after = 0;
  for (let word = words - 1; word >= whole; word--) {
    const on = set[word] & mask[word];
    to[word - whole] |= bits === 0 ? on : (on >>> bits) | (after << (32 - bits));
    after = on;
  }
}

/** Tells whether the program has matched once these readers have read, by what may follow them. */
export function hasMatched({ matching, empty }: Follow, read: Uint32Array): boolean {
  return empty || meet(matching, read);
}

/** Follows all threads by one letter: the readers that come after `from` and take it. @param to written to */
export function advance(follow: Follow, takers: Uint32Array, from: Uint32Array, to: Uint32Array): void {
  stepOn(follow, from, to);
  for (let word = 0; word < takers.length; word++) to[word] &= takers[word];
}

/** All readers that may come next once `from` have read; what `first` has comes as well. @param to written to */
function stepOn({ first, skips, shifts, groups }: Follow, from: Uint32Array, to: Uint32Array): void {
  to.set(first);
  for (let i = 0; i < shifts.length; i++) shiftInto(to, from, shifts[i].mask, shifts[i].by);
  for (let i = 0; i < groups.length; i++)
    if (meet(groups[i].mask, from)) for (let word = 0; word < to.length; word++) to[word] |= groups[i].targets[word];
  // What is entered before a skip carries through it.
  let carry = 0;
  for (let word = 0; word < to.length; word++) {
    const skip = skips[word];
    if (skip === 0 && carry === 0) continue;
    const sum = ((to[word] & skip) >>> 0) + (skip >>> 0) + carry;
    to[word] |= sum ^ skip;
    carry = sum > 0xffffffff ? 1 : 0;
  }
}

/**
 * All readers after which one of `to` may come, or the program has matched.
 * @param from written to @param room as long, for what is worked out on the way
 */
export function stepBack(
  { skips, shifts, groups, matching }: Follow,
  to: Uint32Array,
  from: Uint32Array,
  room: Uint32Array,
): void {
  // A skip before what comes leads there, too.
  let carry = 0;
  for (let word = to.length - 1; word >= 0; word--) {
    let skip = skips[word];
    let on = to[word] | (carry & skip);
    for (let by = 1; by < 32 && skip !== 0; by <<= 1) {
      on |= skip & (on >>> by);
      skip &= skip >>> by;
    }
    room[word] = on;
    carry = (on & 1) << 31;
  }
  from.set(matching);
  for (let i = 0; i < shifts.length; i++) shiftInto(from, room, shifts[i].targets, -shifts[i].by);
  for (let i = 0; i < groups.length; i++)
    if (meet(groups[i].targets, room))
      for (let word = 0; word < from.length; word++) from[word] |= groups[i].mask[word];
}

/** Tells whether an instruction leads without reading to one of these readers, or to the end. @param at where they begin in `sets` */
export function leadsTo(
  { reached, ends }: Follow,
  instruction: number,
  sets: Uint32Array,
  at: number,
  words: number,
): boolean {
  if (ends[instruction] !== 0) return true;
  for (let word = 0, from = instruction * words; word < words; word++)
    if ((reached[from + word] & sets[at + word]) !== 0) return true;
  return false;
}
