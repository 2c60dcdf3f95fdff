/**
 * Sets of row numbers in one segment, a bit a row. Every function works on whole 32-bit words; sets that are combined
 * have the same length. An absent set (`undefined`) is used by callers for "no row", which is the commonest answer.
 *
 * The loops take four words at a time, which halves their time: V8 looks at each round anew where an array lies.
 */
import { wordsOf, type WholeBytes } from './bytes.js';

export type Bits = Uint32Array;

export function emptyBits(size: number): Bits {
  return new Uint32Array((size + 31) >>> 5);
}

/** All of 0 … size-1. */
export function fullBits(size: number): Bits {
  const bits = emptyBits(size).fill(0xffffffff);
  if (size & 31) bits[bits.length - 1] = 0xffffffff >>> (32 - (size & 31));
  return bits;
}

/** Puts the lowest bits of four bytes, each 1 or 0, side by side: the product has them at its top. */
function nibble(word: number): number {
  return Math.imul(word, 0x01020408) >>> 24;
}

/** The members told by a byte each, 1 or 0. */
export function bitsOf(bytes: WholeBytes): Bits {
  const bits = emptyBits(bytes.length);
  const words = wordsOf(bytes);
  const whole = words.length & ~7;
  for (let i = 0; i < whole; i += 8) {
    bits[i >>> 3] =
      nibble(words[i]) |
      (nibble(words[i + 1]) << 4) |
      (nibble(words[i + 2]) << 8) |
      (nibble(words[i + 3]) << 12) |
      (nibble(words[i + 4]) << 16) |
      (nibble(words[i + 5]) << 20) |
      (nibble(words[i + 6]) << 24) |
      (nibble(words[i + 7]) << 28);
  }
  for (let i = whole; i < words.length; i++) bits[i >>> 3] |= nibble(words[i]) << ((i & 7) << 2);
  return bits;
}

export function setBit(bits: Bits, at: number): void {
  bits[at >>> 5] |= 1 << (at & 31);
}

export function clearBit(bits: Bits, at: number): void {
  bits[at >>> 5] &= ~(1 << (at & 31));
}

export function hasBit(bits: Bits, at: number): boolean {
  return ((bits[at >>> 5] >>> (at & 31)) & 1) !== 0;
}

/** Adds some of a list of members. */
export function addMembers(members: Uint16Array, from: number, to: number, target: Bits): void {
  let at = from;
  for (; at + 3 < to; at += 4) {
    const a = members[at];
    const b = members[at + 1];
    const c = members[at + 2];
    const d = members[at + 3];
    target[a >>> 5] |= 1 << (a & 31);
    target[b >>> 5] |= 1 << (b & 31);
    target[c >>> 5] |= 1 << (c & 31);
    target[d >>> 5] |= 1 << (d & 31);
  }
  for (; at < to; at++) target[members[at] >>> 5] |= 1 << (members[at] & 31);
}

/** target |= other */
export function addBits(target: Bits, other: Bits): void {
  const whole = target.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    target[i] |= other[i];
    target[i + 1] |= other[i + 1];
    target[i + 2] |= other[i + 2];
    target[i + 3] |= other[i + 3];
  }
  for (let i = whole; i < target.length; i++) target[i] |= other[i];
}

/** Members of any of some sets; undefined of none. A single set is given as it is. */
export function unionOf(sets: readonly Bits[]): Bits | undefined {
  if (sets.length < 2) return sets[0];
  const all = sets[0].slice();
  for (let i = 1; i < sets.length; i++) addBits(all, sets[i]);
  return all;
}

/** target &= other */
export function keepBits(target: Bits, other: Bits): void {
  const whole = target.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    target[i] &= other[i];
    target[i + 1] &= other[i + 1];
    target[i + 2] &= other[i + 2];
    target[i + 3] &= other[i + 3];
  }
  for (let i = whole; i < target.length; i++) target[i] &= other[i];
}

/** target &= ~other */
export function dropBits(target: Bits, other: Bits): void {
  const whole = target.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    target[i] &= ~other[i];
    target[i + 1] &= ~other[i + 1];
    target[i + 2] &= ~other[i + 2];
    target[i + 3] &= ~other[i + 3];
  }
  for (let i = whole; i < target.length; i++) target[i] &= ~other[i];
}

/** Counts, in each four bits of the answer, how many of them and of the same four of another word are set. */
function onesByFour(a: number, b: number): number {
  const pairsOfA = a - ((a >>> 1) & 0x55555555);
  const pairsOfB = b - ((b >>> 1) & 0x55555555);
  return (
    (pairsOfA & 0x33333333) +
    ((pairsOfA >>> 2) & 0x33333333) +
    (pairsOfB & 0x33333333) +
    ((pairsOfB >>> 2) & 0x33333333)
  );
}

/** Gives, in each eight bits of the answer, the sum of its halves. */
function sumOfHalves(fours: number): number {
  return (fours & 0x0f0f0f0f) + ((fours >>> 4) & 0x0f0f0f0f);
}

function sumOfBytes(bytes: number): number {
  return Math.imul(bytes, 0x01010101) >>> 24;
}

/** Tells how many bits of a word are set. */
export function ones(word: number): number {
  return sumOfBytes(sumOfHalves(onesByFour(word, 0)));
}

/** Tells how many bits of four words are set. */
function onesOfFour(a: number, b: number, c: number, d: number): number {
  return sumOfBytes(sumOfHalves(onesByFour(a, b)) + sumOfHalves(onesByFour(c, d)));
}

export function countBits(bits: Bits): number {
  const whole = bits.length & ~3;
  let count = 0;
  for (let i = 0; i < whole; i += 4) count = (count + onesOfFour(bits[i], bits[i + 1], bits[i + 2], bits[i + 3])) | 0;
  for (let i = whole; i < bits.length; i++) count += ones(bits[i]);
  return count;
}

/** Size of the intersection, without building it. */
export function countCommon(a: Bits, b: Bits): number {
  const whole = a.length & ~3;
  let count = 0;
  for (let i = 0; i < whole; i += 4)
    count = (count + onesOfFour(a[i] & b[i], a[i + 1] & b[i + 1], a[i + 2] & b[i + 2], a[i + 3] & b[i + 3])) | 0;
  for (let i = whole; i < a.length; i++) count += ones(a[i] & b[i]);
  return count;
}

/** Tells how many members are at `from` or above, and below `end`. */
export function countBetween(bits: Bits, from: number, end: number): number {
  if (end <= from) return 0;
  const [first, last] = [from >>> 5, (end - 1) >>> 5];
  let count = 0;
  for (let i = first; i <= last; i++) {
    let word = bits[i];
    if (i === first) word &= 0xffffffff << (from & 31);
    if (i === last && end & 31) word &= 0xffffffff >>> (32 - (end & 31));
    count += ones(word);
  }
  return count;
}

export function isEmpty(bits: Bits): boolean {
  for (let i = 0; i < bits.length; i++) if (bits[i] !== 0) return false;
  return true;
}

/** Calls `visit` for each member, in rising order. */
export function eachBit(bits: Bits, visit: (at: number) => void): void {
  for (let i = 0; i < bits.length; i++) {
    let word = bits[i];
    while (word !== 0) {
      const low = word & -word;
      visit((i << 5) + (31 - Math.clz32(low)));
      word ^= low;
    }
  }
}

/** The members from the `skip`-th on, at most `take`. */
export function pickBits(bits: Bits, skip: number, take: number): number[] {
  const picked: number[] = [];
  for (let i = 0; i < bits.length && picked.length < take; i++) {
    let word = bits[i];
    if (word === 0) continue;
    const count = ones(word);
    if (skip >= count) {
      skip -= count;
      continue;
    }
    while (word !== 0 && picked.length < take) {
      const low = word & -word;
      if (skip > 0) skip--;
      else picked.push((i << 5) + (31 - Math.clz32(low)));
      word ^= low;
    }
  }
  return picked;
}

/** The smallest member at or after `from`, or -1. */
export function nextBit(bits: Bits, from: number): number {
  for (let i = from >>> 5; i < bits.length; i++) {
    const word = i === from >>> 5 ? bits[i] & (0xffffffff << (from & 31)) : bits[i];
    if (word !== 0) return (i << 5) + (31 - Math.clz32(word & -word));
  }
  return -1;
}

/** The largest member at or before `from`, or -1. */
export function previousBit(bits: Bits, from: number): number {
  if (from < 0) return -1;
  for (let i = Math.min(from >>> 5, bits.length - 1); i >= 0; i--) {
    const keep = 31 - (from & 31);
    const word = i === from >>> 5 ? bits[i] & (0xffffffff >>> keep) : bits[i];
    if (word !== 0) return (i << 5) + (31 - Math.clz32(word));
  }
  return -1;
}
