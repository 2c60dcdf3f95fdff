/** A set of numbers of which it is soon told how many come before one, and which one has so many before it. */
import { countBetween, countBits, firstAtLeast, ones, type Bits } from '../../store/index.js';

/** Every how many numbers the count before is noted, so that a far one is soon found. */
const NOTED = 4_096;

/** Notes that do for the first member. */
const NOTHING_BEFORE = Uint32Array.of(0, 1);

export class CountedSet {
  private builtNotes: Uint32Array | undefined;

  constructor(readonly bits: Bits) {}

  /** How many members there are before every `NOTED`th number, and at the end. */
  private get notes(): Uint32Array {
    if (this.builtNotes) return this.builtNotes;
    const words = NOTED >>> 5;
    const count = Math.ceil(this.bits.length / words);
    const notes = new Uint32Array(count + 1);
    for (let i = 0; i < count; i++) notes[i + 1] = notes[i] + countBits(this.bits.subarray(i * words, (i + 1) * words));
    return (this.builtNotes = notes);
  }

  /** Tells how many members are below a number. */
  before(number: number): number {
    const note = Math.floor(number / NOTED);
    return this.notes[note] + countBetween(this.bits, note * NOTED, number);
  }

  /** The members from the one on that has so many before it, rising. */
  from(place: number, limit: number): number[] {
    const { bits } = this;
    const members: number[] = [];
    // The first of them are found without a count.
    const notes = place === 0 ? NOTHING_BEFORE : this.notes;
    if (place < 0 || place >= notes[notes.length - 1]) return members;
    const note = firstAtLeast(notes, place + 1) - 1;
    let skip = place - notes[note];
    for (let i = (note * NOTED) >>> 5; i < bits.length && members.length < limit; i++) {
      let word = bits[i];
      if (skip > 0) {
        const count = ones(word);
        if (skip >= count) {
          skip -= count;
          continue;
        }
        for (; skip > 0; skip--) word &= word - 1;
      }
      for (; word !== 0 && members.length < limit; word &= word - 1)
        members.push((i << 5) + 31 - Math.clz32(word & -word));
    }
    return members;
  }
}
