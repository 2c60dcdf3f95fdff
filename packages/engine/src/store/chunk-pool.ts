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

/** Kinds of ASCII units, each a bit: a letter in either case, two digits, anything else. */
const UNIT_KINDS = Uint32Array.from({ length: 128 }, (_, unit) => {
  const letter = (unit | 0x20) - 0x61;
  if (letter >= 0 && letter < 26 && unit >= 0x41) return 1 << letter;
  const digit = unit - 0x30;
  return digit >= 0 && digit < 10 ? 1 << (26 + (digit >> 1)) : 1 << 31;
});

const EVEN = /^[^ \t-\r]+[ \t-\r]?$/;

function traitsOf(chunk: string): number {
  const spaced = isSpace(chunk.charCodeAt(chunk.length - 1)) ? Trait.spaced : 0;
  if (!isAscii(chunk)) return spaced;
  return spaced | (EVEN.test(chunk) ? Trait.ascii | Trait.even : Trait.ascii);
}

function kindsOf(units: Uint8Array, starts: Uint32Array): Uint32Array {
  return new Uint32Array(starts.length - 1).map((_, chunk) => {
    let kinds = 0;
    for (let i = starts[chunk]; i < starts[chunk + 1] - 1; i++) kinds |= UNIT_KINDS[units[i] & 127];
    return kinds;
  });
}

/** How many units of each text are those that the one before it begins with. */
function sharesOf(units: Uint8Array, starts: Uint32Array): Uint8Array {
  const shares = new Uint8Array(starts.length - 1);
  for (let text = 1; text < shares.length; text++) {
    const before = starts[text - 1];
    const at = starts[text];
    const most = Math.min(at - before, starts[text + 1] - at, 256) - 1;
    let count = 0;
    while (count < most && units[before + count] === units[at + count]) count++;
    shares[text] = count;
  }
  return shares;
}

export class ChunkPool {
  /** Traits of each chunk, by its number less `first`. */
  readonly traits: Uint8Array;
  /** Traits that every chunk has. */
  readonly sharedTraits: number;
  /** Units of chunk `first + i`, if it is ASCII: from `starts[i]` up to one before `starts[i + 1]`. */
  readonly units: Uint8Array;
  /** Bits of `UNIT_KINDS` of all units of each chunk, if it is ASCII. */
  readonly kinds: Uint32Array;
  readonly unitKinds = UNIT_KINDS;
  /** Of each trait, how many chunks have it. */
  private readonly having = new Uint32Array(Trait.spaced + 1);

  private constructor(
    private readonly texts: TextPool,
    readonly first: number,
    traits: Uint8Array,
    units: Uint8Array,
    kinds: Uint32Array,
    /** How many units of each are those that the one before it begins with. */
    readonly shares: Uint8Array,
  ) {
    this.traits = traits;
    this.units = units;
    this.kinds = kinds;
    let shared = 255;
    for (let i = 0; i < traits.length; i++) {
      const one = traits[i];
      shared &= one;
      this.having[one & Trait.ascii]++;
      this.having[one & Trait.even]++;
      this.having[one & Trait.spaced]++;
    }
    this.sharedTraits = shared;
  }

  static of(chunks: readonly string[], first: number): ChunkPool {
    const texts = TextPool.of(chunks);
    const { joined } = texts;
    const units = new Uint8Array(joined.length);
    for (let at = 0; at < joined.length; at++) units[at] = joined.charCodeAt(at);
    return new ChunkPool(
      texts,
      first,
      Uint8Array.from(chunks, traitsOf),
      units,
      kindsOf(units, texts.starts),
      sharesOf(units, texts.starts),
    );
  }

  pack(to: PackWriter): void {
    to.count(this.first);
    this.texts.pack(to);
    to.numbers(this.traits);
    to.numbers(this.units);
    to.numbers(this.kinds);
    to.numbers(this.shares);
  }

  static unpacked(from: PackReader): ChunkPool {
    const first = from.count();
    return new ChunkPool(TextPool.unpacked(from), first, from.bytes(), from.bytes(), from.u32(), from.bytes());
  }

  /** How many chunks do not have a trait. */
  countLacking(trait: number): number {
    return this.size - this.having[trait];
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
    return (
      this.texts.bytes + this.traits.byteLength + this.units.byteLength + this.kinds.byteLength + this.shares.byteLength
    );
  }
}
