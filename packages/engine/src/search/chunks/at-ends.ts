/**
 * Texts at the start or the end of a cell: most values are told by their first or last chunk, which need not be read through
 * to see how it begins or ends.
 */
import type { Where } from '../../notation/index.js';
import { FACE_BREAK_CHUNK, Trait, type ChunkPool, type Chunks, type WholeBytes, wordsOf } from '../../store/index.js';
import { isAscii, type FoldSetting } from '../../text/index.js';
import { foldedUnit } from './folded-chunks.js';
import { LastLetters } from './last-letters.js';
import { countYes, HIT, NO, YES } from './verdicts.js';

type AtEnds = 'start of the cell' | 'end of the cell' | 'whole cell';

function isAtEnds(where: Where): where is AtEnds {
  return where === 'start of the cell' || where === 'end of the cell' || where === 'whole cell';
}

/** The count of chunk numbers that two bytes can hold. */
const ALL_CHUNKS = 1 << 16;
const EACH_YES = 0x01010101;
/** Where no more than one value in so many is asked, they are not told by their last letters first. */
const FEW_ASKED = 8;
/** Where no more than one in so many of a segment's own chunks is asked for, each is looked at when it comes. */
const FEW_OWN = 4;

/** Tells whether each value is one chunk, all of which are read unit by unit. */
function isSingle({ single, own }: Chunks): boolean {
  return single && (own.sharedTraits & Trait.even) !== 0;
}

export class EndsReader {
  private readonly sought: Uint8Array;
  private readonly folded: Uint8Array;
  private readonly atEnd: boolean;
  private readonly whole: boolean;
  private readonly lastLetters: LastLetters | undefined;
  /** Tables, by the chunks that a column's segments share, of what is told by each chunk that a value may begin with, or end. */
  private readonly tables = new WeakMap<ChunkPool, Uint8Array>();
  /** The table of the column in question; see `toldBy`. */
  private told: Uint8Array = new Uint8Array(0);

  /** @param needle folded @returns undefined if it cannot be told by single chunks */
  static of(needle: string, where: Where, setting: FoldSetting): EndsReader | undefined {
    return isAtEnds(where) && isAscii(needle) && !needle.includes('\0')
      ? new EndsReader(needle, where, setting)
      : undefined;
  }

  private constructor(needle: string, where: AtEnds, setting: FoldSetting) {
    this.sought = Uint8Array.from(needle, (letter) => letter.charCodeAt(0));
    this.folded = Uint8Array.from({ length: 128 }, (_, unit) => foldedUnit(unit, setting));
    this.atEnd = where === 'end of the cell';
    this.whole = where === 'whole cell';
    if (this.atEnd) this.lastLetters = new LastLetters(this.sought, this.folded);
  }

  /** Tells whether values are sooner told than those looked for that may hit. */
  tellsAll(chunks: Chunks): boolean {
    return isSingle(chunks) && this.lastLetters?.enough === true;
  }

  /**
   * @param asked YES for each value that is asked; if all could be told, the others become NO. Else it becomes HIT or NO, or stays
   * YES where that could not be told
   * @returns whether all could be told
   */
  judge(chunks: Chunks, asked: WholeBytes): boolean {
    const { sequence, starts, own } = chunks;
    if (isSingle(chunks)) {
      if (this.sought.some((unit) => (own.unitGroups[unit] & own.anyKinds) === 0)) {
        asked.fill(NO);
        return true;
      }
      const last = FEW_ASKED * countYes(asked) > asked.length ? this.lastLetters : undefined;
      last?.keep(own.lasts, asked);
      if (!last?.enough) this.judgeSingle(own, asked);
      return true;
    }
    // Where few chunks come again and again, those that tell something are sooner looked for.
    if (sequence instanceof Uint16Array && 2 * own.size > asked.length) {
      this.learnShared(chunks.shared.pool, own.end);
      const learnt = FEW_OWN * countYes(asked) > own.size;
      if (learnt) this.learn(own);
      const known = learnt ? own.end : own.first;
      if (sequence.includes(FACE_BREAK_CHUNK)) this.judgeParted(sequence, starts, own, known, asked);
      else if (learnt && !this.whole) this.judgeLearnt(sequence, starts, asked);
      else this.judgeWhole(sequence, starts, own, known, asked);
    }
    return false;
  }

  /** Values that are one chunk each. */
  private judgeSingle({ units, starts, traits }: ChunkPool, asked: WholeBytes): void {
    const { sought, folded, atEnd, whole } = this;
    const { length } = sought;
    const words = wordsOf(asked);
    for (let value = 0; value < asked.length; value++) {
      if ((value & 3) === 0 && (words[value >>> 2] & EACH_YES) === 0) {
        value += 3;
        continue;
      }
      if (asked[value] !== YES) continue;
      const start = starts[value];
      let end = starts[value + 1] - 1;
      if ((traits[value] & Trait.spaced) !== 0) end--;
      let from = atEnd ? end - length : start;
      if (end - start < length || (whole && end - start !== length)) {
        asked[value] = NO;
        continue;
      }
      for (let i = 0; i < length; i++, from++) {
        if (folded[units[from]] !== sought[i]) {
          asked[value] = NO;
          break;
        }
      }
    }
  }

  /** @param end one past the largest number of a chunk */
  private learnShared(pool: ChunkPool, end: number): void {
    const known = this.tables.get(pool);
    this.told = known && known.length >= end ? known : new Uint8Array(Math.min(2 * end, ALL_CHUNKS));
    if (this.told === known) return;
    this.tables.set(pool, this.told);
    this.learn(pool);
  }

  private learn(pool: ChunkPool): void {
    const { sought, lastLetters } = this;
    const told = this.told.subarray(pool.first, pool.end);
    if (lastLetters) {
      lastLetters.tell(pool.lasts, told);
      for (let i = 0; i < told.length; i++) if (told[i] === YES) told[i] = this.toldBy(pool, i);
    } else {
      told.fill(NO);
      const begin = pool.byGroup.beginning(pool.unitGroups[sought[0]], pool.size) ?? [];
      for (const i of begin) told[i] = this.toldBy(pool, i);
    }
    for (const i of pool.uneven) told[i] = YES;
  }

  /** Gives what is told of a value by the chunk that it begins with, or ends: HIT, NO, or YES if that cannot be told by it alone. */
  private toldBy({ units, starts, traits }: ChunkPool, chunk: number): number {
    const { sought, folded, atEnd, whole } = this;
    const trait = traits[chunk];
    if ((trait & Trait.even) === 0) return YES;
    const { length } = sought;
    const start = starts[chunk];
    // A space at the end of the cell is not part of the text as it is searched; a chunk has one at most.
    const end = starts[chunk + 1] - 1 - (atEnd && (trait & Trait.spaced) !== 0 ? 1 : 0);
    const size = end - start;
    let of = atEnd && size < length ? length - size : 0;
    const to = size < length ? of + size : length;
    for (let at = atEnd ? end - to + of : start; of < to; at++, of++) if (folded[units[at]] !== sought[of]) return NO;
    if (!whole) return size < length ? YES : HIT;
    // The one unit more may be a space with nothing after it.
    return size === length ? HIT : size > length + 1 ? NO : YES;
  }

  /** Does what `judgeWhole` does, where all chunks are told of: without a branch, since which values are asked, and hit, is not to be guessed. */
  private judgeLearnt(sequence: Uint16Array, starts: Uint32Array, asked: WholeBytes): void {
    const { told, atEnd } = this;
    const end = sequence.length - 1;
    for (let value = 0; value < asked.length; value++) {
      const from = starts[value];
      const to = starts[value + 1];
      const filled = (from - to) >> 31;
      const at = atEnd ? to + filled : from;
      asked[value] = told[sequence[at < end ? at : end]] & filled & -asked[value];
    }
  }

  /** Gives what is told by a chunk. @param known chunks below it are told of by table */
  private toldAt(chunk: number, own: ChunkPool, known: number): number {
    return chunk < known ? this.told[chunk] : this.toldBy(own, chunk - own.first);
  }

  /** Values with one face. @param known see `toldAt` */
  private judgeWhole(
    sequence: Uint16Array,
    starts: Uint32Array,
    own: ChunkPool,
    known: number,
    asked: WholeBytes,
  ): void {
    const { atEnd, whole } = this;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] !== YES) continue;
      const from = starts[value];
      const to = starts[value + 1];
      if (from === to) {
        asked[value] = NO;
        continue;
      }
      const chunk = sequence[atEnd ? to - 1 : from];
      const verdict = this.toldAt(chunk, own, known);
      asked[value] = whole && verdict === HIT && to - from > 1 ? YES : verdict;
    }
  }

  /** Values with several faces: a hit in any counts. */
  private judgeParted(
    sequence: Uint16Array,
    starts: Uint32Array,
    own: ChunkPool,
    known: number,
    asked: WholeBytes,
  ): void {
    const { atEnd, whole, told } = this;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] !== YES) continue;
      const to = starts[value + 1];
      const first = starts[value];
      if (to === first + 1 && sequence[first] < known) {
        asked[value] = told[sequence[first]];
        continue;
      }
      let either = NO;
      for (let from = first, i = from; i <= to; i++) {
        if (i < to && sequence[i] !== FACE_BREAK_CHUNK) continue;
        if (from < i) {
          const chunk = sequence[atEnd ? i - 1 : from];
          const verdict = this.toldAt(chunk, own, known);
          // The whole cell is more than its first chunk if there is another.
          either |= whole && verdict === HIT && i - from > 1 ? YES : verdict;
        }
        from = i + 1;
      }
      asked[value] = either >= HIT ? HIT : either;
    }
  }
}
