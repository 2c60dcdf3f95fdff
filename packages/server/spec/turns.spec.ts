import fc from 'fast-check';
import { Turns } from '../dist/threads/turns.js';

/** Work that ends when it is told to, and what was done in which order. */
class Bench {
  readonly done: string[] = [];
  readonly outcomes = new Map<string, string>();
  private readonly ends = new Map<string, () => void>();
  private most = 0;
  private going = 0;

  constructor(readonly turns: Turns) {}

  get mostAtOnce(): number {
    return this.most;
  }

  ask(name: string, asker?: string, session?: string): void {
    this.turns
      .run(asker, session, () => {
        this.done.push(name);
        this.most = Math.max(this.most, ++this.going);
        return new Promise<void>((end) =>
          this.ends.set(name, () => {
            this.going--;
            end();
          }),
        );
      })
      .then(
        (notBegun) => this.outcomes.set(name, !notBegun ? 'done' : 'why' in notBegun ? notBegun.why : notBegun.is),
        () => this.outcomes.set(name, 'failed'),
      );
  }

  /** Ends work under way, the oldest first, until all is done. */
  async finish(): Promise<void> {
    for (;;) {
      await new Promise((settled) => setImmediate(settled));
      const [first] = this.ends;
      if (!first) return;
      this.ends.delete(first[0]);
      first[1]();
    }
  }
}

describe('C4: whose question is next', () => {
  let bench: Bench;
  beforeEach(() => (bench = new Bench(new Turns(1))));

  it('askers take turns, however much each of them asks', async () => {
    for (let i = 0; i < 5; i++) bench.ask(`a${i}`, 'a');
    bench.ask('b0', 'b');
    bench.ask('c0', 'c');
    bench.ask('b1', 'b');
    await bench.finish();
    expect(bench.done).toEqual(['a0', 'a1', 'b0', 'c0', 'a2', 'b1', 'a3', 'a4']);
  });

  it('what a session asks anew takes the place of what it asked before, which is never begun', async () => {
    bench.ask('first', 'a');
    bench.ask('a1', 'a', 's');
    bench.ask('b1', 'b', 't');
    bench.ask('a2', 'a', 's');
    bench.ask('a3', 'a', 's');
    expect(bench.turns.waitingNow).toBe(2);
    await bench.finish();
    expect(bench.turns.waitingNow).toBe(0);
    expect(bench.done).toEqual(['first', 'a3', 'b1']);
    expect([bench.outcomes.get('a1'), bench.outcomes.get('a2')]).toEqual(['overtaken', 'overtaken']);
  });

  it('a session without an asker is its own', async () => {
    bench.ask('first');
    bench.ask('s1', undefined, 's');
    bench.ask('t1', undefined, 't');
    bench.ask('s2', undefined, 's');
    await bench.finish();
    expect(bench.done).toEqual(['first', 's2', 't1']);
  });

  it('questions without a session overtake none', async () => {
    for (const name of ['a', 'b', 'c']) bench.ask(name);
    await bench.finish();
    expect(bench.done).toEqual(['a', 'b', 'c']);
  });

  it('one asker has only so many waiting, and others are not told so', async () => {
    bench.ask('first', 'a');
    for (let i = 0; i < 210; i++) bench.ask(`a${i}`, 'a');
    bench.ask('b', 'b');
    expect(bench.turns.waitingNow).toBe(201);
    await bench.finish();
    expect([...bench.outcomes.values()].filter((outcome) => outcome === 'too many').length).toBe(10);
    expect([bench.outcomes.get('a199'), bench.outcomes.get('a200'), bench.outcomes.get('b')]).toEqual([
      'done',
      'too many',
      'done',
    ]);
    expect(bench.done.indexOf('b')).toBeLessThan(3);
  });

  it('who leaves is answered no more, and gives up no place of others', async () => {
    bench.ask('first', 'a');
    bench.ask('a1', 'a');
    bench.ask('b1', 'b');
    bench.turns.leave('a');
    bench.turns.leave('nobody');
    expect(bench.turns.waitingNow).toBe(1);
    await bench.finish();
    expect(bench.done).toEqual(['first', 'b1']);
    expect(bench.outcomes.get('a1')).toBe('overtaken');
  });

  it('work that fails gives its place on', async () => {
    const turns = new Turns(1);
    await expectAsync(turns.run('a', undefined, () => Promise.reject(new Error('broken')))).toBeRejectedWithError(
      'broken',
    );
    expect(await turns.run('b', undefined, () => Promise.resolve(7))).toBe(7);
  });

  it('whatever is asked, no more is under way than may be, and everyone is told something once', async () => {
    const name = fc.constantFrom('a', 'b', 'c');
    const question = fc.record({
      asker: fc.option(name, { nil: undefined }),
      session: fc.option(name, { nil: undefined }),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(question, { maxLength: 30 }),
        fc.integer({ min: 1, max: 4 }),
        async (questions, atOnce) => {
          const one = new Bench(new Turns(atOnce));
          questions.forEach(({ asker, session }, i) => one.ask(`${i}`, asker, session));
          await one.finish();
          expect(one.mostAtOnce).toBeLessThanOrEqual(atOnce);
          expect(one.outcomes.size).toBe(questions.length);
          expect(new Set(one.done).size).toBe(one.done.length);
          for (const [i, outcome] of one.outcomes)
            expect(one.done.includes(i))
              .withContext(i)
              .toBe(outcome === 'done');
          // The newest of each session is never the one that is given up.
          const newest = new Map(questions.map(({ asker, session }, i) => [`${asker} ${session}`, { i, session }]));
          for (const { i, session } of newest.values())
            if (session !== undefined) expect(one.outcomes.get(`${i}`)).toBe('done');
        },
      ),
      { numRuns: 200 },
    );
  });
});
