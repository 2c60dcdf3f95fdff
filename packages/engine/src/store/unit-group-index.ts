/**
 * An index of the texts that have a unit of some group, or begin with one: a set for each group, a bit a text. Where few texts have one that
 * matters, the others are not even looked at.
 */

import { countBits } from './bits.js';
import type { PackReader, PackWriter } from './pack.js';

/** Kinds of units: see `ChunkPool`. */
const GROUPS = 32;

export class UnitGroupIndex {
  /** @param sets those of texts that have a unit of each group, then those of texts that begin with one; each so many words */
  private constructor(
    private readonly sets: Uint32Array,
    private readonly words: number,
  ) {}

  /**
   * @param groups of each text, those of all its units
   * @param units, starts see `ChunkPool`
   * @param unitGroups of each ASCII unit, its group
   */
  static of(groups: Uint32Array, units: Uint8Array, starts: Uint32Array, unitGroups: Uint32Array): UnitGroupIndex {
    const words = (groups.length + 31) >>> 5;
    const sets = new Uint32Array(2 * GROUPS * words);
    for (let text = 0; text < groups.length; text++) {
      const bit = 1 << (text & 31);
      for (let left = groups[text]; left !== 0; left &= left - 1)
        sets[(31 - Math.clz32(left & -left)) * words + (text >>> 5)] |= bit;
      const first = unitGroups[units[starts[text]] & 127];
      sets[(GROUPS + 31 - Math.clz32(first)) * words + (text >>> 5)] |= bit;
    }
    return new UnitGroupIndex(sets, words);
  }

  pack(to: PackWriter): void {
    to.numbers(this.sets);
  }

  static unpacked(from: PackReader): UnitGroupIndex {
    const sets = from.u32();
    return new UnitGroupIndex(sets, sets.length / (2 * GROUPS));
  }

  /** The texts that have a unit of any of some groups; undefined if they are more than `most`. */
  having(groups: number, most: number): Uint32Array | undefined {
    return this.ofAny(groups, 0, most);
  }

  /** The texts that begin with one. */
  beginning(groups: number, most: number): Uint32Array | undefined {
    return this.ofAny(groups, GROUPS, most);
  }

  private ofAny(groups: number, row: number, most: number): Uint32Array | undefined {
    const { words, sets } = this;
    const any = new Uint32Array(words);
    for (let left = groups; left !== 0; left &= left - 1) {
      let from = (row + 31 - Math.clz32(left & -left)) * words;
      for (let i = 0; i < words; i++) any[i] |= sets[from++];
    }
    const count = countBits(any);
    if (count > most) return undefined;
    const texts = new Uint32Array(count);
    for (let i = 0, at = 0; i < words; i++)
      for (let word = any[i] | 0; word !== 0; word &= word - 1) texts[at++] = (i << 5) + 31 - Math.clz32(word & -word);
    return texts;
  }

  get bytes(): number {
    return this.sets.byteLength;
  }
}
