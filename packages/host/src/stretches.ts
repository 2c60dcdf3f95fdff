/** Long work in stretches, so that whoever waits for an answer meanwhile gets it. */

/** Building goes on after so long, in milliseconds, however many wait for answers. */
const REST_MS = 200;
/** A search runs this long, in milliseconds, before it looks up for others. */
export const STRETCH_MS = 8;

// Of the platform, wherever that is: a thread, a browser's worker, a command.
declare const performance: { now(): number };
declare const setTimeout: (work: () => void, ms: number) => unknown;
declare const setImmediate: ((work: () => void) => unknown) | undefined;

export function turnOfTheLoop(): Promise<void> {
  return new Promise((done) => {
    if (typeof setImmediate === 'function') setImmediate(done);
    else setTimeout(done, 0);
  });
}

/** A turn of the loop; more while `others` wait for answers, but not for ever. */
export async function rest(others: () => boolean): Promise<void> {
  const rested = performance.now();
  do await turnOfTheLoop();
  while (others() && performance.now() - rested < REST_MS);
}

/**
 * Runs steps to their end, looking up every so often.
 * @param others true while somebody waits for an answer: then the work rests
 * @returns undefined if `stopped` said so in between
 */
export async function inStretches<T>(
  steps: Generator<void, T>,
  stopped: () => boolean,
  others: () => boolean = () => false,
): Promise<T | undefined> {
  let looked = performance.now();
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (performance.now() - looked < STRETCH_MS) continue;
    await rest(others);
    looked = performance.now();
    if (stopped()) return undefined;
  }
}
