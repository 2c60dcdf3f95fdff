/** Distinct chunks, numbered from `first` on; see `chunks.ts`. */
import { isAscii, isSpace } from '../text/index.js';
import { UnitGroupIndex } from './unit-group-index.js';
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
const UNIT_GROUPS = Uint32Array.from({ length: 128 }, (_, unit) => {
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

function groupsOf(units: Uint8Array, starts: Uint32Array): Uint32Array {
  return new Uint32Array(starts.length - 1).map((_, chunk) => {
    let groups = 0;
    for (let i = starts[chunk]; i < starts[chunk + 1] - 1; i++) groups |= UNIT_GROUPS[units[i] & 127];
    return groups;
  });
}

/** Tells how many units of each text are those that the one before it begins with. */
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

/** The last two units of each text that is even, but for the space after it. */
function lastsOf(units: Uint8Array, starts: Uint32Array, traits: Uint8Array): Uint16Array {
  const lasts = new Uint16Array(traits.length);
  for (let text = 0; text < traits.length; text++) {
    if ((traits[text] & Trait.even) === 0) continue;
    const last = starts[text + 1] - ((traits[text] & Trait.spaced) !== 0 ? 3 : 2);
    lasts[text] = units[last] | (last > starts[text] ? units[last - 1] << 7 : 0);
  }
  return lasts;
}

export class ChunkPool {
  /** Traits of each chunk, by its number less `first`. */
  readonly traits: Uint8Array;
  /** Traits that every chunk has. */
  readonly sharedTraits: number;
  /** Units of chunk `first + i`, if it is ASCII: from `starts[i]` up to one before `starts[i + 1]`. */
  readonly units: Uint8Array;
  /** Bits of `UNIT_GROUPS` of all units of each chunk, if it is ASCII. */
  readonly groups: Uint32Array;
  readonly unitGroups = UNIT_GROUPS;
  /** Bits of `UNIT_GROUPS` of all units of all ASCII chunks. */
  readonly anyKinds: number;
  private builtIndex: UnitGroupIndex | undefined;
  private builtUneven: Uint32Array | undefined;
  /** The count of the chunks that have each trait. */
  private readonly having = new Uint32Array(Trait.spaced + 1);

  private constructor(
    private readonly texts: TextPool,
    readonly first: number,
    traits: Uint8Array,
    units: Uint8Array,
    groups: Uint32Array,
    /** How many units of each are those that the one before it begins with. */
    readonly shares: Uint8Array,
    /** The last unit, but for a space, of each that is even, and in the bits from 7 on the unit before it, if there is one. */
    readonly lasts: Uint16Array,
  ) {
    this.traits = traits;
    this.units = units;
    this.groups = groups;
    let shared = 255;
    let any = 0;
    for (let i = 0; i < traits.length; i++) {
      const one = traits[i];
      shared &= one;
      if ((one & Trait.ascii) !== 0) any |= groups[i];
      this.having[one & Trait.ascii]++;
      this.having[one & Trait.even]++;
      this.having[one & Trait.spaced]++;
    }
    this.sharedTraits = shared;
    this.anyKinds = any;
  }

  static of(chunks: readonly string[], first: number): ChunkPool {
    const texts = TextPool.of(chunks);
    const { joined } = texts;
    const units = new Uint8Array(joined.length);
    for (let at = 0; at < joined.length; at++) units[at] = joined.charCodeAt(at);
    const traits = Uint8Array.from(chunks, traitsOf);
    const { starts } = texts;
    return new ChunkPool(
      texts,
      first,
      traits,
      units,
      groupsOf(units, starts),
      sharesOf(units, starts),
      lastsOf(units, starts, traits),
    );
  }

  pack(to: PackWriter): void {
    to.count(this.first);
    this.texts.pack(to);
    to.numbers(this.traits);
    to.numbers(this.units);
    to.numbers(this.groups);
    to.numbers(this.shares);
    to.numbers(this.lasts);
    to.count(this.builtIndex ? 1 : 0);
    this.builtIndex?.pack(to);
  }

  static unpacked(from: PackReader): ChunkPool {
    const first = from.count();
    const pool = new ChunkPool(
      TextPool.unpacked(from),
      first,
      from.bytes(),
      from.bytes(),
      from.u32(),
      from.bytes(),
      from.u16(),
    );
    if (from.count() === 1) pool.builtIndex = UnitGroupIndex.unpacked(from);
    return pool;
  }

  /** The places of the chunks that are not even. */
  get uneven(): Uint32Array {
    if (this.builtUneven) return this.builtUneven;
    const places = new Uint32Array(this.countLacking(Trait.even));
    for (let i = 0, count = 0; i < this.size; i++) if ((this.traits[i] & Trait.even) === 0) places[count++] = i;
    return (this.builtUneven = places);
  }

  /** Tells how many chunks do not have a trait. */
  countLacking(trait: number): number {
    return this.size - this.having[trait];
  }

  /** The ASCII chunks by the groups of their units; the others may come in it, too. */
  get byGroup(): UnitGroupIndex {
    return (this.builtIndex ??= UnitGroupIndex.of(this.groups, this.units, this.starts, UNIT_GROUPS));
  }

  get starts(): Uint32Array {
    return this.texts.starts;
  }

  get size(): number {
    return this.texts.size;
  }

  /** The place after the last number. */
  get end(): number {
    return this.first + this.size;
  }

  at(chunk: number): string {
    return this.texts.at(chunk - this.first);
  }

  get bytes(): number {
    return (
      this.texts.bytes +
      this.traits.byteLength +
      this.units.byteLength +
      this.groups.byteLength +
      this.shares.byteLength +
      this.lasts.byteLength +
      (this.builtIndex?.bytes ?? 0) +
      (this.builtUneven?.byteLength ?? 0)
    );
  }
}
