/** A quick look at the last two letters of a chunk that is to end with some letters: mostly that it does not. */
import type { WholeBytes } from '../../store/index.js';
import { HIT, NO, YES } from './verdicts.js';

/** Two ASCII units side by side: see `ChunkPool.lasts`. */
const PAIRS = 1 << 14;
const BEFORE = 7;

// Four at a time, as in `bits.ts`.

export class LastLetters {
  /** Whether nothing else has to be looked at where all texts are as long as what is sought. */
  readonly enough: boolean;
  /** The verdict of each pair: HIT; NO; or YES if the letters before have to be looked at, or there is but one. */
  private readonly told = new Uint8Array(PAIRS);
  /** Does what `told` does, of texts that are looked at whole: YES and NO. */
  private readonly kept = new Uint8Array(PAIRS);

  /** @param sought folded, without NUL @param folded of each ASCII unit, what it is folded to */
  constructor(sought: Uint8Array, folded: Uint8Array) {
    const { told, kept } = this;
    const { length } = sought;
    this.enough = length <= 2;
    for (let last = 0; last < folded.length; last++) {
      if (folded[last] !== sought[length - 1]) continue;
      for (let before = 0; before < folded.length; before++) {
        const pair = last | (before << BEFORE);
        const fits = length === 1 || folded[before] === sought[length - 2];
        told[pair] = fits ? (this.enough ? HIT : YES) : before === 0 ? YES : NO;
        kept[pair] = fits ? YES : NO;
      }
    }
  }

  /** @param asked of each chunk; becomes NO of those that do not end so, as far as two letters tell */
  keep(lasts: Uint16Array, asked: WholeBytes): void {
    const { kept } = this;
    const whole = asked.length & ~3;
    for (let i = 0; i < whole; i += 4) {
      asked[i] &= kept[lasts[i]];
      asked[i + 1] &= kept[lasts[i + 1]];
      asked[i + 2] &= kept[lasts[i + 2]];
      asked[i + 3] &= kept[lasts[i + 3]];
    }
    for (let i = whole; i < asked.length; i++) asked[i] &= kept[lasts[i]];
  }

  /** @param told HIT, NO or YES of each chunk; written to */
  tell(lasts: Uint16Array, told: Uint8Array): void {
    const { told: table } = this;
    const whole = lasts.length & ~3;
    for (let i = 0; i < whole; i += 4) {
      told[i] = table[lasts[i]];
      told[i + 1] = table[lasts[i + 1]];
      told[i + 2] = table[lasts[i + 2]];
      told[i + 3] = table[lasts[i + 3]];
    }
    for (let i = whole; i < lasts.length; i++) told[i] = table[lasts[i]];
  }
}
