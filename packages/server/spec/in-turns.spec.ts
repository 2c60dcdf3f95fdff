import { inTurns } from '../dist/imports/in-turns.js';

async function* ready(count: number): AsyncGenerator<number> {
  for (let i = 0; i < count; i++) yield i;
}

function busy(milliseconds: number): void {
  const until = performance.now() + milliseconds;
  while (performance.now() < until);
}

describe('work on the server’s own thread', () => {
  it('lets others have their turn, although all of it is there at once, and leaves nothing out', async () => {
    const done: number[] = [];
    const seen: number[] = [];
    const look = (): void => {
      seen.push(done.length);
      if (done.length < 60) setImmediate(look);
    };
    setImmediate(look);
    for await (const one of inTurns(ready(60))) {
      busy(1);
      done.push(one);
    }
    expect(done).toEqual(Array.from({ length: 60 }, (_, i) => i));
    // Every few milliseconds, where without it there is one look: at the end.
    expect(seen.filter((count) => count > 0 && count < 60).length).toBeGreaterThan(4);
  });

  it('ends what it goes through when it is left, and passes on what that throws', async () => {
    let ended = false;
    async function* watched(): AsyncGenerator<number> {
      try {
        yield* ready(10);
        throw new Error('torn');
      } finally {
        ended = true;
      }
    }
    for await (const one of inTurns(watched())) if (one === 3) break;
    expect(ended).toBeTrue();
    const all = async (): Promise<void> => {
      for await (const one of inTurns(watched())) void one;
    };
    await expectAsync(all()).toBeRejectedWithError('torn');
  });
});
