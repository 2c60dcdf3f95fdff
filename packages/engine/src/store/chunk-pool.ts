/** Distinct chunks, numbered from `first` on; see `chunks.ts`. */
import { isAscii, isSpace } from '../text/index.js';
import { TextPool } from './text-pool.js';

/** Bits of `ChunkPool.traits`. */
export const Trait = {
  /** Every UTF-16 unit is below 128. */
  ascii: 1,
  /** ASCII with letters or signs and at most one space after them: folding changes it unit by unit. */
  even: 2,
  /** A space is at its end; only the last letters and signs of a text are a chunk without one. */
  spaced: 4,
} as const;

const EVEN = /^[^ \t-\r]+[ \t-\r]?$/;

function traitsOf(chunk: string): number {
  const spaced = isSpace(chunk.charCodeAt(chunk.length - 1)) ? Trait.spaced : 0;
  if (!isAscii(chunk)) return spaced;
  return spaced | (EVEN.test(chunk) ? Trait.ascii | Trait.even : Trait.ascii);
}

export class ChunkPool {
  private readonly texts: TextPool;
  /** Traits of each chunk, by its number less `first`. */
  readonly traits: Uint8Array;
  /** Traits that every chunk has. */
  readonly sharedTraits: number;
  /** Units of chunk `first + i`, if it is ASCII: from `starts[i]` up to one before `starts[i + 1]`. */
  readonly units: Uint8Array;

  constructor(
    chunks: readonly string[],
    readonly first: number,
  ) {
    this.texts = TextPool.of(chunks);
    this.traits = Uint8Array.from(chunks, traitsOf);
    this.sharedTraits = this.traits.reduce((shared, traits) => shared & traits, 255);
    const { joined } = this.texts;
    this.units = new Uint8Array(joined.length);
    for (let at = 0; at < joined.length; at++) this.units[at] = joined.charCodeAt(at);
  }

  get starts(): Uint32Array {
    return this.texts.starts;
  }

  get size(): number {
    return this.texts.size;
  }

  /** One past the last number. */
  get end(): number {
    return this.first + this.size;
  }

  at(chunk: number): string {
    return this.texts.at(chunk - this.first);
  }

  get bytes(): number {
    return this.texts.bytes + this.traits.byteLength + this.units.byteLength;
  }
}
