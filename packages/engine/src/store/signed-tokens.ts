/** The tokens of a vocabulary that have signs between their letters, by those letters alone: `lp-405` as `lp405`. */
import { isWordCharacter } from '../text/index.js';
import type { PackReader, PackWriter } from './pack.js';
import { TextPool } from './text-pool.js';

const BARE = /^[0-9a-z]*$/;

/** The letters and digits of a folded text. */
export function lettersOf(folded: string): string {
  if (BARE.test(folded)) return folded;
  let only = '';
  for (const character of folded) if (isWordCharacter(character.codePointAt(0)!)) only += character;
  return only;
}

export class SignedTokens {
  private constructor(
    private readonly letters: TextPool,
    private readonly tokens: Uint32Array,
  ) {}

  static of(tokens: TextPool): SignedTokens {
    const texts: string[] = [];
    const numbers: number[] = [];
    for (let token = 0; token < tokens.size; token++) {
      const text = tokens.at(token);
      const letters = lettersOf(text);
      if (letters === text) continue;
      texts.push(letters);
      numbers.push(token);
    }
    return new SignedTokens(TextPool.of(texts), Uint32Array.from(numbers));
  }

  pack(to: PackWriter): void {
    this.letters.pack(to);
    to.numbers(this.tokens);
  }

  static unpacked(from: PackReader): SignedTokens {
    return new SignedTokens(TextPool.unpacked(from), from.u32());
  }

  /** Numbers of the tokens whose letters, put together, contain these. */
  containing(letters: string): number[] {
    return this.letters.containing(letters).map((at) => this.tokens[at]);
  }

  get bytes(): number {
    return this.letters.bytes + this.tokens.byteLength;
  }
}
