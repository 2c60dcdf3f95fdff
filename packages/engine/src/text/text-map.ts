/**
 * A map from texts that stays quick whatever the texts are. V8 hashes a string of more than 16,383 units by its length alone, so that
 * in a `Map` long texts of one length are compared with each other, one after the other: some thousand long cells take minutes.
 * Here such texts are told apart by a hash of all their units first.
 *
 * Source: G. Fowler, L. C. Noll, P. Vo, FNV-1a (the hash); V8, `String::kMaxHashCalcLength`.
 */

/** Texts of so many units are hashed here. */
const LONG = 16_000;

function hashOf(text: string, seed: number): number {
  let hash = seed;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash;
}

export class TextMap<V> {
  /** The values by their text, or by the number of a long one: no number is a text. */
  private readonly entries = new Map<string | number, V>();
  private readonly long: string[] = [];
  /** Numbers of the long texts, by hash. */
  private readonly byHash = new Map<number, number[]>();
  private readonly seed = Math.floor(Math.random() * 0x100000000);

  get size(): number {
    return this.entries.size;
  }

  /** @returns undefined of a long text that was never put in */
  private keyOf(text: string): string | number | undefined {
    if (text.length < LONG) return text;
    return this.byHash.get(hashOf(text, this.seed))?.find((number) => this.long[number] === text);
  }

  get(text: string): V | undefined {
    if (text.length < LONG) return this.entries.get(text);
    const key = this.keyOf(text);
    return key === undefined ? undefined : this.entries.get(key);
  }

  has(text: string): boolean {
    const key = this.keyOf(text);
    return key !== undefined && this.entries.has(key);
  }

  set(text: string, value: V): void {
    this.entries.set(this.keyOf(text) ?? this.added(text), value);
  }

  private added(text: string): number {
    const number = this.long.push(text) - 1;
    const hash = hashOf(text, this.seed);
    const same = this.byHash.get(hash);
    if (same) same.push(number);
    else this.byHash.set(hash, [number]);
    return number;
  }

  delete(text: string): void {
    const key = this.keyOf(text);
    if (key !== undefined) this.entries.delete(key);
  }

  /** The texts, in the order in which they were put in. */
  *keys(): Generator<string> {
    for (const key of this.entries.keys()) yield typeof key === 'number' ? this.long[key] : key;
  }

  values(): Iterable<V> {
    return this.entries.values();
  }
}
