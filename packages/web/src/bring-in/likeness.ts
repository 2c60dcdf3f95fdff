/** Pairs of letters that follow each other in a word, folded. */
function pairs(text: string): Map<string, number> {
  const letters = text
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '');
  const found = new Map<string, number>();
  for (let i = 0; i + 1 < letters.length; i++) {
    const pair = letters.slice(i, i + 2);
    found.set(pair, (found.get(pair) ?? 0) + 1);
  }
  return found;
}

/**
 * Tells how alike two names are, from 0 to 1: twice the pairs of letters that they share, of all that they have.
 *
 * Source: L. R. Dice, Measures of the amount of ecologic association between species, Ecology 26 (1945).
 */
export function likeness(a: string, b: string): number {
  const [of, in_] = [pairs(a), pairs(b)];
  const count = (some: Map<string, number>): number => [...some.values()].reduce((sum, one) => sum + one, 0);
  const all = count(of) + count(in_);
  if (all === 0) return 0;
  let shared = 0;
  for (const [pair, times] of of) shared += Math.min(times, in_.get(pair) ?? 0);
  return (2 * shared) / all;
}
