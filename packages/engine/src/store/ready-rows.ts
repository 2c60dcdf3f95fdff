/** Rows that a vocabulary keeps ready, of what would take long to merge: see `vocabulary.ts`. */
import { emptyBits, type Bits } from './bits.js';
import { GRAM_BUCKETS, gramsInBucket, type GramIndex } from './gram-index.js';
import { StepMeter, type Steps } from '../steps.js';
import type { TextPool } from './text-pool.js';

/** Tokens of a letter beyond which its rows take less room, and less time, than their list. */
const MANY_TOKENS = 2_048;
/** Letters of tokens that are looked at in one step. */
const A_STEP = 1 << 15;

/** The part of the vocabulary that is asked. */
interface Postings {
  readonly tokens: TextPool;
  readonly rowCount: number;
  rowsOfToken(token: number): number;
  addRows(token: number, target: Bits): void;
}

export class ReadyRows {
  constructor(
    private readonly of: Postings,
    private readonly grams: GramIndex | undefined,
    /** Rows of each letter, and of each gram of two or three, that has many; written to. */
    private readonly ready: Map<string, Bits>,
    /** Tokens of each letter that is in few of them; written to. */
    private readonly letters: Map<string, Uint32Array>,
  ) {}

  /** Rows of each gram of up to three letters that would take long to merge: those with many postings. */
  *gather(): Steps<void> {
    const many = Math.max(1_024, this.of.rowCount >>> 2);
    yield* this.gatherLetters(many);
    yield;
    if (this.grams) yield* this.gatherIndexed(this.grams, many);
    else this.gatherScanned(many);
  }

  /** Gathers, of every letter there is, its rows, or the few tokens that it is in. */
  private *gatherLetters(many: number): Steps<void> {
    const { tokens } = this.of;
    const weights = new Map<number, number>();
    const seen = new Map<number, number>();
    const each = function* (visit: (unit: number, token: number) => void): Steps<void> {
      seen.clear();
      const meter = new StepMeter(A_STEP);
      for (let token = 0; token < tokens.size; token++) {
        const end = tokens.end(token);
        if (meter.fills(end - tokens.starts[token])) yield;
        for (let at = tokens.starts[token]; at < end; at++) {
          const unit = tokens.joined.charCodeAt(at);
          if (seen.get(unit) === token) continue;
          seen.set(unit, token);
          visit(unit, token);
        }
      }
    };
    const counts = new Map<number, number>();
    yield* each((unit, token) => {
      weights.set(unit, (weights.get(unit) ?? 0) + this.of.rowsOfToken(token));
      counts.set(unit, (counts.get(unit) ?? 0) + 1);
    });
    const sets = new Map<number, Bits>();
    const lists = new Map<number, number[]>();
    for (const [unit, weight] of weights) {
      if (weight > many || counts.get(unit)! > MANY_TOKENS) sets.set(unit, emptyBits(this.of.rowCount));
      else lists.set(unit, []);
    }
    yield* each((unit, token) => {
      const set = sets.get(unit);
      if (set) this.of.addRows(token, set);
      else lists.get(unit)!.push(token);
    });
    for (const [unit, set] of sets) this.ready.set(String.fromCharCode(unit), set);
    for (const [unit, list] of lists) this.letters.set(String.fromCharCode(unit), Uint32Array.from(list));
  }

  /** Gathers the grams that are in the buckets that hold much. */
  private *gatherIndexed(grams: GramIndex, many: number): Steps<void> {
    const { tokens } = this.of;
    for (let bucket = 0; bucket < GRAM_BUCKETS; bucket++) {
      let weight = 0;
      for (let i = grams.starts[bucket]; i < grams.starts[bucket + 1]; i++)
        weight += this.of.rowsOfToken(grams.tokens[i]);
      if (weight <= many) continue;
      const sets = new Map<string, Bits>();
      for (let i = grams.starts[bucket]; i < grams.starts[bucket + 1]; i++) {
        const token = grams.tokens[i];
        for (const gram of gramsInBucket(tokens.at(token), bucket)) {
          let set = sets.get(gram);
          if (!set) sets.set(gram, (set = emptyBits(this.of.rowCount)));
          this.of.addRows(token, set);
        }
      }
      // A rare gram that shares the bucket is kept too: that costs a set, and looking it up is free.
      for (const [gram, set] of sets) this.ready.set(gram, set);
      yield;
    }
  }

  private gatherScanned(many: number): void {
    const holders = new Map<string, number[]>();
    for (let token = 0; token < this.of.tokens.size; token++) {
      const text = this.of.tokens.at(token);
      const grams = new Set<string>();
      for (let i = 1; i < text.length; i++) {
        grams.add(text.slice(i - 1, i + 1));
        if (i > 1) grams.add(text.slice(i - 2, i + 1));
      }
      for (const gram of grams) {
        const list = holders.get(gram);
        if (list) list.push(token);
        else holders.set(gram, [token]);
      }
    }
    for (const [gram, list] of holders) {
      if (list.reduce((sum, token) => sum + this.of.rowsOfToken(token), 0) <= many) continue;
      const set = emptyBits(this.of.rowCount);
      for (const token of list) this.of.addRows(token, set);
      this.ready.set(gram, set);
    }
  }
}
