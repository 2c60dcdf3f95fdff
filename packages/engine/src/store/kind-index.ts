/**
 * An index of the texts that have a unit of some kind, or begin with one: a set for each kind, a bit a text. Where few texts have one that
 * matters, the others are not even looked at.
 */

import { countBits } from './bits.js';
import type { PackReader, PackWriter } from './pack.js';

/** Kinds of units: see `ChunkPool`. */
const KINDS = 32;

export class KindIndex {
  /** @param sets those of texts that have a unit of each kind, then those of texts that begin with one; each so many words */
  private constructor(
    private readonly sets: Uint32Array,
    private readonly words: number,
  ) {}

  /**
   * @param kinds of each text, those of all its units
   * @param units, starts see `ChunkPool`
   * @param unitKinds of each ASCII unit, its kind
   */
  static of(kinds: Uint32Array, units: Uint8Array, starts: Uint32Array, unitKinds: Uint32Array): KindIndex {
    const words = (kinds.length + 31) >>> 5;
    const sets = new Uint32Array(2 * KINDS * words);
    for (let text = 0; text < kinds.length; text++) {
      const bit = 1 << (text & 31);
      for (let left = kinds[text]; left !== 0; left &= left - 1)
        sets[(31 - Math.clz32(left & -left)) * words + (text >>> 5)] |= bit;
      const first = unitKinds[units[starts[text]] & 127];
      sets[(KINDS + 31 - Math.clz32(first)) * words + (text >>> 5)] |= bit;
    }
    return new KindIndex(sets, words);
  }

  pack(to: PackWriter): void {
    to.numbers(this.sets);
  }

  static unpacked(from: PackReader): KindIndex {
    const sets = from.u32();
    return new KindIndex(sets, sets.length / (2 * KINDS));
  }

  /** The texts that have a unit of any of some kinds; undefined if they are more than `most`. */
  having(kinds: number, most: number): Uint32Array | undefined {
    return this.ofAny(kinds, 0, most);
  }

  /** The texts that begin with one. */
  beginning(kinds: number, most: number): Uint32Array | undefined {
    return this.ofAny(kinds, KINDS, most);
  }

  private ofAny(kinds: number, row: number, most: number): Uint32Array | undefined {
    const { words, sets } = this;
    const any = new Uint32Array(words);
    for (let left = kinds; left !== 0; left &= left - 1) {
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
