/**
 * The rows that have been seen, by 128 bits of each: two rows that differ are taken for the same once in more files than there will
 * ever be, and a million rows take 32 MB.
 *
 * Source: A. Appleby, MurmurHash3 (the mixing of bits).
 */
import type { FileRow } from './mend.js';

const WORDS = 4;

/** Mixes a unit into a word of a hash. */
function mixed(word: number, unit: number, by: number): number {
  const turned = Math.imul(word ^ unit, by);
  return turned ^ (turned >>> 15);
}

export class RowSet {
  private slots = new Uint32Array(1_024 * WORDS);
  private size = 0;
  private readonly hash = new Uint32Array(WORDS);

  /** Adds a row. @returns false if it has been added before */
  add(cells: FileRow): boolean {
    this.hashOf(cells);
    const [a, b, c, d] = this.hash;
    if (!this.put(a, b, c, d)) return false;
    if (++this.size * 2 * WORDS > this.slots.length) this.grow();
    return true;
  }

  private hashOf(cells: FileRow): void {
    let [a, b, c, d] = [0x9747b28c, 0x3c6ef372, 0xa54ff53a, 0x510e527f];
    const take = (unit: number): void => {
      a = mixed(a, unit, 0xcc9e2d51);
      b = mixed(b ^ a, unit, 0x1b873593);
      c = mixed(c ^ b, unit, 0x85ebca6b);
      d = mixed(d ^ c, unit, 0xc2b2ae35);
    };
    for (const cell of cells) {
      // How long each is tells where it ends.
      take(cell.length);
      for (let i = 0; i < cell.length; i++) take(cell.charCodeAt(i));
    }
    take(cells.length);
    // Nothing is where all four are zero.
    this.hash.set([a, b, c, d | 1]);
  }

  private put(a: number, b: number, c: number, d: number): boolean {
    const { slots } = this;
    const mask = slots.length / WORDS - 1;
    for (let slot = b & mask; ; slot = (slot + 1) & mask) {
      const at = slot * WORDS;
      if (slots[at + 3] === 0) {
        slots[at] = a;
        slots[at + 1] = b;
        slots[at + 2] = c;
        slots[at + 3] = d;
        return true;
      }
      if (slots[at] === a && slots[at + 1] === b && slots[at + 2] === c && slots[at + 3] === d) return false;
    }
  }

  private grow(): void {
    const before = this.slots;
    this.slots = new Uint32Array(before.length * 2);
    for (let at = 0; at < before.length; at += WORDS)
      if (before[at + 3] !== 0) this.put(before[at], before[at + 1], before[at + 2], before[at + 3]);
  }
}
