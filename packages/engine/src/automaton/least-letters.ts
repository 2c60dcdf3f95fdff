import { Op, type Program } from './program.js';

/**
 * Tells how many letters a text has at least in which a program matches; Infinity if it matches in none. A shorter one need not be read,
 * which tells most cells where a pattern counts to more than they have.
 */
export function leastLetters({ ops, x, y, start }: Program): number {
  const seen = new Uint8Array(ops.length);
  // Instructions that are reached having read nothing, then those having read one letter, and so on.
  let now = [start];
  for (let letters = 0; now.length > 0; letters++) {
    const next: number[] = [];
    for (let at = now.pop(); at !== undefined; at = now.pop()) {
      if (seen[at]) continue;
      seen[at] = 1;
      switch (ops[at]) {
        case Op.Match:
          return letters;
        case Op.Split:
          now.push(x[at], y[at]);
          break;
        case Op.Assert:
          now.push(y[at]);
          break;
        case Op.Fail:
          break;
        default:
          next.push(y[at]);
      }
    }
    now = next;
  }
  return Infinity;
}
