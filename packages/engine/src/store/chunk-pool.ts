/** Distinct chunks, numbered from `first` on; see `chunks.ts`. */
import { isAscii, isSpace } from '../text/index.js';
import type { PackReader, PackWriter } from './pack.js';
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
  /** Traits of each chunk, by its number less `first`. */
  readonly traits: Uint8Array;
  /** Traits that every chunk has. */
  readonly sharedTraits: number;
  /** Units of chunk `first + i`, if it is ASCII: from `starts[i]` up to one before `starts[i + 1]`. */
  readonly units: Uint8Array;

  private constructor(
    private readonly texts: TextPool,
    readonly first: number,
    traits: Uint8Array,
    units: Uint8Array,
  ) {
    this.traits = traits;
    this.units = units;
    this.sharedTraits = traits.reduce((shared, one) => shared & one, 255);
  }

  static of(chunks: readonly string[], first: number): ChunkPool {
    const texts = TextPool.of(chunks);
    const { joined } = texts;
    const units = new Uint8Array(joined.length);
    for (let at = 0; at < joined.length; at++) units[at] = joined.charCodeAt(at);
    return new ChunkPool(texts, first, Uint8Array.from(chunks, traitsOf), units);
  }

  pack(to: PackWriter): void {
    to.count(this.first);
    this.texts.pack(to);
    to.numbers(this.traits);
    to.numbers(this.units);
  }

  static unpacked(from: PackReader): ChunkPool {
    const first = from.count();
    return new ChunkPool(TextPool.unpacked(from), first, from.bytes(), from.bytes());
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
