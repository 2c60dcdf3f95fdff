/** Work on the server's own thread, which others wait for: it goes on a little at a time. */
import { setImmediate } from 'node:timers/promises';

/** The time that others wait, in milliseconds. */
const STRETCH_MS = 4;

/** The same, with a turn of the loop in between whenever so much time has gone by: what is there at once would be gone through in one go. */
export async function* inTurns<T>(some: AsyncIterable<T>): AsyncGenerator<T, void, undefined> {
  let looked = performance.now();
  for await (const one of some) {
    yield one;
    if (performance.now() - looked < STRETCH_MS) continue;
    await setImmediate();
    looked = performance.now();
  }
}
