/**
 * Texts at the start or the end of a cell: most values are told by their first or last chunk, which need not be read through
 * to see how it begins or ends.
 */
import type { Where } from '../notation/index.js';
import {
  FACE_BREAK_CHUNK,
  SHARED_CHUNKS,
  Trait,
  type ChunkPool,
  type Chunks,
  type WholeBytes,
} from '../store/index.js';
import { isAscii, type FoldSetting } from '../text/index.js';
import { foldedUnit } from './folded-chunks.js';
import { HIT, NO, YES } from './verdicts.js';

type AtEnds = 'start of the cell' | 'end of the cell' | 'whole cell';

function isAtEnds(where: Where): where is AtEnds {
  return where === 'start of the cell' || where === 'end of the cell' || where === 'whole cell';
}

export class EndsReader {
  private readonly sought: Uint8Array;
  private readonly folded: Uint8Array;
  private readonly atEnd: boolean;
  private readonly whole: boolean;
  private sharedPool: ChunkPool | undefined;
  /** Of each shared chunk, what is told by it. */
  private shared = new Uint8Array(0);

  /** @param needle folded @returns undefined if it cannot be told by single chunks */
  static of(needle: string, where: Where, setting: FoldSetting): EndsReader | undefined {
    return isAtEnds(where) && isAscii(needle) ? new EndsReader(needle, where, setting) : undefined;
  }

  private constructor(needle: string, where: AtEnds, setting: FoldSetting) {
    this.sought = Uint8Array.from(needle, (letter) => letter.charCodeAt(0));
    this.folded = Uint8Array.from({ length: 128 }, (_, unit) => foldedUnit(unit, setting));
    this.atEnd = where === 'end of the cell';
    this.whole = where === 'whole cell';
  }

  /**
   * @param asked YES for each value that is asked; if all could be told, the others become NO. Else it becomes HIT or NO, or stays
   * YES where that could not be told
   * @returns whether all could be told
   */
  judge(chunks: Chunks, asked: WholeBytes): boolean {
    const { sequence, starts, own, single } = chunks;
    if (single && (own.sharedTraits & Trait.even) !== 0) {
      this.judgeSingle(own, asked);
      return true;
    }
    // Where few chunks come again and again, those that tell something are sooner looked for.
    if (sequence instanceof Uint16Array && 2 * own.size > asked.length) {
      this.learn(chunks.shared.pool);
      if (sequence.includes(FACE_BREAK_CHUNK)) this.judgeParted(sequence, starts, own, asked);
      else this.judgeWhole(sequence, starts, own, asked);
    }
    return false;
  }

  /** Values that are one chunk each. */
  private judgeSingle({ units, starts, traits }: ChunkPool, asked: WholeBytes): void {
    const { sought, folded, atEnd, whole } = this;
    const { length } = sought;
    for (let value = 0; value < asked.length; value++) {
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

  private learn(pool: ChunkPool): void {
    if (this.sharedPool === pool) return;
    this.sharedPool = pool;
    this.shared = new Uint8Array(pool.size);
    for (let i = 0; i < this.shared.length; i++) this.shared[i] = this.toldBy(pool, i);
  }

  /** What is told of a value by the chunk that it begins with, or ends: HIT, NO, or YES if that cannot be told by it alone. */
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

  /** Values with one face. */
  private judgeWhole(sequence: Uint16Array, starts: Uint32Array, own: ChunkPool, asked: WholeBytes): void {
    const { atEnd } = this;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] !== YES) continue;
      const from = starts[value];
      const to = starts[value + 1];
      if (from === to) {
        asked[value] = NO;
        continue;
      }
      asked[value] = this.toldAt(sequence[atEnd ? to - 1 : from], own, to - from > 1);
    }
  }

  /** As `toldBy`, of any chunk. @param more whether it is not the only one of its face */
  private toldAt(chunk: number, own: ChunkPool, more: boolean): number {
    const verdict = chunk < SHARED_CHUNKS ? this.shared[chunk] : this.toldBy(own, chunk - SHARED_CHUNKS);
    // The whole cell is more than its first chunk if there is another.
    return verdict === HIT && this.whole && more ? YES : verdict;
  }

  /** Values with two faces: a hit in either counts. */
  private judgeParted(sequence: Uint16Array, starts: Uint32Array, own: ChunkPool, asked: WholeBytes): void {
    const { atEnd } = this;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] !== YES) continue;
      const to = starts[value + 1];
      let told = NO;
      for (let from = starts[value], i = from; i <= to; i++) {
        if (i < to && sequence[i] !== FACE_BREAK_CHUNK) continue;
        if (from < i) told |= this.toldAt(sequence[atEnd ? i - 1 : from], own, i - from > 1);
        from = i + 1;
      }
      asked[value] = told >= HIT ? HIT : told;
    }
  }
}
