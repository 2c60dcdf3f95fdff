/** Grams of two and three letters, hashed, and the tokens that each is in: which tokens may contain a text is told by its rarest. */
import type { Steps } from '../steps.js';
import type { TextPool } from './text-pool.js';

export const GRAM_BUCKETS = 1 << 15;

function hashPair(a: number, b: number): number {
  return (Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b)) >>> 17;
}

function hashTriple(a: number, b: number, c: number): number {
  return (Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b) ^ Math.imul(c, 0xc2b2ae35) ^ 0x27d4eb2f) >>> 17;
}

/** Hashed grams to rising token numbers, in compressed rows: bucket `b` holds `tokens[starts[b] … starts[b+1]-1]`. */
export interface GramIndex {
  readonly starts: Uint32Array;
  readonly tokens: Uint32Array;
}

function eachGramBucket(tokens: TextPool, visit: (bucket: number, token: number) => void): void {
  const { joined, starts } = tokens;
  const seen = new Uint32Array(GRAM_BUCKETS);
  const see = (bucket: number, token: number): void => {
    if (seen[bucket] === token + 1) return;
    seen[bucket] = token + 1;
    visit(bucket, token);
  };
  for (let token = 0; token < tokens.size; token++) {
    const end = tokens.end(token);
    let a = 0;
    let b = joined.charCodeAt(starts[token]);
    for (let at = starts[token] + 1; at < end; at++) {
      const c = joined.charCodeAt(at);
      see(hashPair(b, c), token);
      if (at - 2 >= starts[token]) see(hashTriple(a, b, c), token);
      a = b;
      b = c;
    }
  }
}

/** The grams of a token that fall into a bucket, each once. */
export function gramsInBucket(text: string, bucket: number): string[] {
  const found: string[] = [];
  const put = (gram: string): void => {
    if (!found.includes(gram)) found.push(gram);
  };
  for (let i = 1; i < text.length; i++) {
    const [a, b, c] = [text.charCodeAt(i - 2), text.charCodeAt(i - 1), text.charCodeAt(i)];
    if (hashPair(b, c) === bucket) put(text.slice(i - 1, i + 1));
    if (i > 1 && hashTriple(a, b, c) === bucket) put(text.slice(i - 2, i + 1));
  }
  return found;
}

export function* indexGrams(tokens: TextPool): Steps<GramIndex> {
  const starts = new Uint32Array(GRAM_BUCKETS + 1);
  eachGramBucket(tokens, (bucket) => starts[bucket + 1]++);
  yield;
  for (let i = 0; i < GRAM_BUCKETS; i++) starts[i + 1] += starts[i];
  const next = starts.slice();
  const entries = new Uint32Array(starts[GRAM_BUCKETS]);
  eachGramBucket(tokens, (bucket, token) => (entries[next[bucket]++] = token));
  return { starts, tokens: entries };
}

/** Tokens of the rarest gram of a text of two letters or more. */
export function tokensOfRarest(grams: GramIndex, needle: string): Uint32Array {
  let best = -1;
  let fewest = Infinity;
  const consider = (bucket: number): void => {
    const size = grams.starts[bucket + 1] - grams.starts[bucket];
    if (size < fewest) {
      fewest = size;
      best = bucket;
    }
  };
  if (needle.length === 2) consider(hashPair(needle.charCodeAt(0), needle.charCodeAt(1)));
  for (let i = 2; i < needle.length; i++) {
    consider(hashTriple(needle.charCodeAt(i - 2), needle.charCodeAt(i - 1), needle.charCodeAt(i)));
  }
  return grams.tokens.subarray(grams.starts[best], grams.starts[best + 1]);
}
