/**
 * Where each slot stands in a list of slots. It is kept by blocks of the list: a slot that comes or goes changes the places within
 * its own block, and where the other blocks begin, but not the place of every slot after it.
 */
import { firstAtLeast } from '../store/index.js';

/** Slots in a block at first. */
const BLOCK = 4_096;

export class BlockedOrder {
  private readonly blocks: Uint16Array;
  private readonly within: Uint16Array;
  /** Places at which the blocks begin, and at which the last one ends. */
  private readonly starts: Uint32Array;

  /**
   * @param room slots that there are or may come, in the list or not
   * @param size of a block at first; one that has twice as many is too large. A place within it fits 16 bits.
   */
  constructor(
    list: Uint32Array,
    room: number,
    private readonly size = BLOCK,
  ) {
    this.blocks = new Uint16Array(room);
    this.within = new Uint16Array(room);
    const count = Math.max(1, Math.ceil(list.length / size));
    this.starts = Uint32Array.from({ length: count + 1 }, (_, block) => Math.min(block * size, list.length));
    for (let i = 0; i < list.length; i++) {
      this.blocks[list[i]] = Math.floor(i / size);
      this.within[list[i]] = i % size;
    }
  }

  /** Slots that there is room for. */
  get room(): number {
    return this.blocks.length;
  }

  /** Void for a slot that is not in the list. */
  of(slot: number): number {
    return this.starts[this.blocks[slot]] + this.within[slot];
  }

  private blockAt(place: number): number {
    return Math.min(firstAtLeast(this.starts, place + 1), this.starts.length - 1) - 1;
  }

  private renumber(list: Uint32Array, block: number, from: number): void {
    const { starts, within } = this;
    for (let i = from; i < starts[block + 1]; i++) within[list[i]] = i - starts[block];
  }

  /** Takes a slot out of the list: what was at a place is no longer there. @param list as it is now */
  took(list: Uint32Array, place: number): void {
    const { starts } = this;
    const block = this.blockAt(place);
    for (let later = block + 1; later < starts.length; later++) starts[later]--;
    this.renumber(list, block, place);
  }

  /** There is a slot more at a place. @param list as it is now @returns false if its block is too large now */
  put(list: Uint32Array, place: number): boolean {
    const { starts } = this;
    const block = this.blockAt(place);
    for (let later = block + 1; later < starts.length; later++) starts[later]++;
    this.blocks[list[place]] = block;
    this.renumber(list, block, place);
    return starts[block + 1] - starts[block] < 2 * this.size;
  }
}
