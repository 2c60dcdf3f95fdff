/** The distinct texts that say the same: those that are picked as one value. */
import { keyOf, TextMap } from '../text/index.js';
import type { TextPool } from './text-pool.js';

/** Numbers of the texts, by what they say. */
export function byKey(texts: TextPool): TextMap<number[]> {
  const found = new TextMap<number[]>();
  for (let number = 0; number < texts.size; number++) {
    const key = keyOf(texts.at(number));
    const same = found.get(key);
    if (same) same.push(number);
    else found.set(key, [number]);
  }
  return found;
}
