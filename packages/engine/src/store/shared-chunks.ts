/**
 * Chunks that come again and again in a column, numbered alike in all its segments; see `chunks.ts`. It only grows, and not
 * beyond its limit, so that what was learnt of a chunk in one segment holds in the next.
 */
import { TextMap } from '../text/index.js';
import { ChunkPool } from './chunk-pool.js';
import type { PackReader, PackWriter } from './pack.js';

/** Stands between the chunks of a value's faces; is no text. */
export const FACE_BREAK_CHUNK = 0;
/** Numbers below it are shared ones. */
export const SHARED_CHUNKS = 1 << 14;

// No chunk is called so: a chunk begins with spaces only if it is nothing else.
const FACE_BREAK_NAME = ' face break';

export class SharedChunks {
  private readonly numbers = new TextMap<number>();
  private known = ChunkPool.of([FACE_BREAK_NAME], FACE_BREAK_CHUNK);

  constructor() {
    this.numbers.set(FACE_BREAK_NAME, FACE_BREAK_CHUNK);
  }

  get pool(): ChunkPool {
    return this.known;
  }

  numberOf(chunk: string): number | undefined {
    return this.numbers.get(chunk);
  }

  pack(to: PackWriter): void {
    this.known.pack(to);
  }

  static unpacked(from: PackReader): SharedChunks {
    const shared = new SharedChunks();
    shared.known = ChunkPool.unpacked(from);
    for (let chunk = 1; chunk < shared.known.end; chunk++) shared.numbers.set(shared.known.at(chunk), chunk);
    return shared;
  }

  /** Takes in new chunks while there is room. */
  add(chunks: Iterable<string>): void {
    for (const chunk of chunks) {
      if (this.numbers.size === SHARED_CHUNKS) break;
      this.numbers.set(chunk, this.numbers.size);
    }
    this.known = ChunkPool.of([...this.numbers.keys()], FACE_BREAK_CHUNK);
  }
}
