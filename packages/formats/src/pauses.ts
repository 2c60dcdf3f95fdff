/** Work that goes through a file in small steps, which rests now and then so that whoever shares the thread gets their turn. */

// Of the platform, wherever that is.
declare const performance: { now(): number };
declare function setTimeout(work: () => void, milliseconds: number): unknown;

/** The time that others wait, in milliseconds. */
const STRETCH_MS = 8;

export class Pauses {
  private since = performance.now();

  /** True if others have waited long enough. */
  get isDue(): boolean {
    return performance.now() - this.since >= STRETCH_MS;
  }

  /** Lets the others have their turn. */
  async rest(): Promise<void> {
    await new Promise<void>((done) => setTimeout(done, 0));
    this.since = performance.now();
  }
}

/** Goes through steps to their end, resting now and then. @returns what they return */
export async function paused<T>(steps: Generator<unknown, T>): Promise<T> {
  const pauses = new Pauses();
  for (;;) {
    const next = steps.next();
    if (next.done) return next.value;
    if (pauses.isDue) await pauses.rest();
  }
}
