/**
 * How long a search may go on before others are looked to. Reading the values of a segment can take long where there is
 * nothing to look up and much to follow; so whoever reads them one by one asks here, now and then, whether to stop. What was
 * read by then is kept by whoever asked for it, and reading goes on from there.
 */

// Of the platform, wherever that is.
declare const performance: { now(): number };

/** Letters read between two looks at the clock. */
const LETTERS = 16_384;

let until = Infinity;
let letters = 0;

/** Thrown out of the reading of a segment whose time is up. Nothing is wrong: it is asked again, and goes on. */
export class TimeIsUp extends Error {}

/** Runs `work`, within which `spend` may say that time is up. @param milliseconds from now on */
export function within<T>(milliseconds: number, work: () => T): T {
  const before = until;
  until = performance.now() + milliseconds;
  try {
    return work();
  } finally {
    until = before;
  }
}

/** Tells how many letters were read since the last call. @throws TimeIsUp */
export function spend(read: number): void {
  letters += read + 64;
  if (letters < LETTERS) return;
  letters = 0;
  rest();
}

/** Looks at the clock after work that took some time in one piece. @throws TimeIsUp */
export function rest(): void {
  if (performance.now() > until) throw new TimeIsUp();
}
