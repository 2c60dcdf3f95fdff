import { answered, OVERTAKEN, type Bytes, type Outcome } from '@usual-needle/host';
import { AnsweredTogether } from '../dist/threads/answered-together.js';
import { ThreadGone } from '../dist/threads/thread-gone.js';
import { Together, type Answered, type TableQuestion } from '../dist/threads/together.js';
import type { NotBegun } from '../dist/threads/turns.js';

const WHOLE = { visible: 'every column', searchable: 'every column' } as unknown as TableQuestion['scope'];
const question = (id: number, session?: string): TableQuestion => ({
  scope: WHOLE,
  id,
  request: { question: { threaded: [] }, session },
});

const bytes = (text: string): Bytes => new TextEncoder().encode(text);

/** A thread whose searches end when they are told to; those of an even number at once. */
class Bench {
  readonly begun: number[] = [];
  readonly messages: string[] = [];
  /** Milliseconds that the thread is busy with each, by a clock that only they move. */
  busyMs = 0;
  private clock = 0;
  private readonly ends = new Map<number, (told: Outcome<Bytes> | Error) => void>();
  private readonly thread = new AnsweredTogether(
    ({ id }) => {
      this.begun.push(id);
      this.clock += this.busyMs;
      if (id % 2 === 0) return Promise.resolve(answered(bytes(`even ${id}`)));
      return new Promise((done, fail) =>
        this.ends.set(id, (told) => (told instanceof Error ? fail(told) : done(told))),
      );
    },
    () => this.clock,
  );
  turn: (session: string | undefined, work: () => Promise<void>) => Promise<void | NotBegun> = (_, work) => work();

  together(): Together {
    const noted = async (answered: Promise<Answered>): Promise<Answered> => {
      const some = await answered;
      this.messages.push(some.answered.map(([place]) => place).join(' '));
      return some;
    };
    return new Together({
      turn: (session, work) => this.turn(session, work),
      put: (questions) => noted(this.thread.put(questions)),
      rest: (of) => noted(this.thread.fetch(of)),
    });
  }

  end(id: number, told: Outcome<Bytes> | Error): void {
    this.ends.get(id)!(told);
  }
}

/** Longer than an answer waits for others to go with. */
const AWHILE_MS = 40;
const awhile = (): Promise<void> => new Promise((done) => setTimeout(done, AWHILE_MS));
const valueOf = (outcome: Outcome<Bytes>): unknown =>
  outcome.is === 'answered'
    ? Buffer.from(outcome.value).toString()
    : outcome.is === 'failed'
      ? outcome.why
      : outcome.is;

describe('questions that are put together', () => {
  it('are answered by one message where none takes its time', async () => {
    const bench = new Bench();
    const together = bench.together();
    const answers = [2, 4, 6].map((id) => together.ask(question(id))!.then(valueOf));
    expect(bench.begun).toEqual([]);
    await together.put();
    expect(await Promise.all(answers)).toEqual(['even 2', 'even 4', 'even 6']);
    expect(bench.messages).toEqual(['0 1 2']);
  });

  it('are not held up by one that takes its time', async () => {
    const bench = new Bench();
    const together = bench.together();
    const answers = [3, 4, 6].map((id) => together.ask(question(id))!.then(valueOf));
    const put = together.put();
    expect(await Promise.all(answers.slice(1))).toEqual(['even 4', 'even 6']);
    await awhile();
    expect(bench.messages).toEqual(['1 2']);
    bench.end(3, answered(bytes('late')));
    expect(await answers[0]).toBe('late');
    await put;
    expect(bench.messages).toEqual(['1 2', '0']);
  });

  it('fail each by itself', async () => {
    const bench = new Bench();
    const together = bench.together();
    const answers = [3, 5, 4].map((id) => together.ask(question(id))!.then(valueOf));
    const put = together.put();
    await awhile();
    bench.end(3, new Error('broken'));
    bench.end(5, { is: 'loading', rowsRead: 0 });
    await put;
    expect(await Promise.all(answers)).toEqual(['unforeseen', 'loading', 'even 4']);
  });

  it('are begun a few at a time, each once', async () => {
    const bench = new Bench();
    const together = bench.together();
    const ids = [1, 3, 5, 7, 9, 11];
    const answers = ids.map((id) => together.ask(question(id))!.then(valueOf));
    const put = together.put();
    await awhile();
    expect(bench.begun).toEqual([1, 3, 5, 7]);
    for (const id of ids) {
      bench.end(id, answered(bytes(`${id}`)));
      await awhile();
    }
    await put;
    expect(await Promise.all(answers)).toEqual(ids.map(String));
    expect(bench.begun).toEqual(ids);
  });

  it('give others their turn, where they take longer than one together', async () => {
    const bench = new Bench();
    const sessions: (string | undefined)[] = [];
    bench.turn = (session, work) => {
      sessions.push(session);
      return work();
    };
    bench.busyMs = 15;
    const together = bench.together();
    const ids = Array.from({ length: 12 }, (_, i) => 2 * i);
    const answers = ids.map((id) => together.ask(question(id, 's'))!.then(valueOf));
    await together.put();
    expect(await Promise.all(answers)).toEqual(ids.map((id) => `even ${id}`));
    expect(bench.begun).toEqual(ids);
    expect(sessions.length).toBeGreaterThan(2);
    expect(sessions.length).toBeLessThanOrEqual(12);
    // What is left of them overtakes nothing that was asked since.
    expect(sessions[0]).toBe(JSON.stringify(ids.map(() => 's')));
    expect(new Set(sessions.slice(1))).toEqual(new Set([undefined]));
  });

  it('are left where their asker has gone, and overtaken together only where each has a session', async () => {
    const bench = new Bench();
    const sessions: (string | undefined)[] = [];
    bench.turn = async (session, work) => {
      sessions.push(session);
      return sessions.length === 1 ? work() : OVERTAKEN;
    };
    bench.busyMs = 15;
    const together = bench.together();
    const answers = Array.from({ length: 12 }, (_, i) =>
      together.ask(question(2 * i, i === 5 ? undefined : 's'))!.then(valueOf),
    );
    await together.put();
    const told = await Promise.all(answers);
    expect(told[0]).toBe('even 0');
    expect(told[11]).toBe('overtaken');
    expect(bench.begun.length).toBeLessThan(12);
    expect(sessions).toEqual([undefined, undefined]);
  });

  it('are overtaken all at once where their turn was, and fail all at once where the thread has gone', async () => {
    const bench = new Bench();
    bench.turn = () => Promise.resolve(OVERTAKEN);
    const overtaken = bench.together();
    const answers = [2, 3].map((id) => overtaken.ask(question(id))!.then(valueOf));
    await overtaken.put();
    expect(await Promise.all(answers)).toEqual(['overtaken', 'overtaken']);
    expect(bench.begun).toEqual([]);
    bench.turn = () => Promise.reject(new ThreadGone());
    const lost = bench.together();
    const failures = [2, 3].map((id) => lost.ask(question(id))!.then(valueOf));
    await lost.put();
    expect(await Promise.all(failures)).toEqual(['interrupted', 'interrupted']);
  });

  it('take none in once they are put, and put nothing where nothing was asked', async () => {
    const bench = new Bench();
    const together = bench.together();
    await together.put();
    expect(together.ask(question(2))).toBeUndefined();
    expect(bench.messages).toEqual([]);
  });
});
