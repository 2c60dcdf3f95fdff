/**
 * Questions that are put together: they go to the search thread as one message, in one turn of their asker, and come back as
 * they are answered. What is not begun after a while waits for another turn.
 *
 * ```
 * asked        a b c d             by one message of the shelf; b is known already
 * the thread   a c d  ->  a c  ->  d      d takes its time
 * ```
 */
import type { Scope, SearchRequest } from '@usual-needle/contract';
import type { Bytes, Outcome } from '@usual-needle/host';
import { failed } from './thread-gone.js';
import type { NotBegun } from './turns.js';

export interface TableQuestion {
  readonly scope: Scope;
  readonly id: number;
  readonly request: SearchRequest;
}

/** The answers so far, by place in the list of questions. */
export interface Answered {
  readonly answered: readonly (readonly [number, Outcome<Bytes>])[];
  /** The number that others that were begun are asked for by; undefined if there are none. */
  readonly rest: number | undefined;
  /** How many were begun, the first of the list; final without a rest. */
  readonly begun: number;
}

/** How they are put, and how what is not answered then is asked for. */
interface Thread {
  /** @param session see `Turns.run` @returns why `work` was not begun, if so */
  turn(session: string | undefined, work: () => Promise<void>): Promise<void | NotBegun>;
  put(questions: readonly TableQuestion[]): Promise<Answered>;
  rest(of: number): Promise<Answered>;
}

export class Together {
  private readonly questions: TableQuestion[] = [];
  /** The askers, by question, who are told its outcome once that is known. */
  private readonly waiting: ((outcome: Outcome<Bytes>) => void)[] = [];
  private closed = false;

  constructor(private readonly thread: Thread) {}

  /** @returns undefined if they have been put already: then it has to be asked by itself */
  ask(question: TableQuestion): Promise<Outcome<Bytes>> | undefined {
    if (this.closed) return undefined;
    return new Promise((done) => {
      this.questions.push(question);
      this.waiting.push(done);
    });
  }

  /** Overtaken as a whole only by the same sessions; else each by itself, by the host. */
  private get session(): string | undefined {
    const sessions = this.questions.map(({ request }) => request.session);
    return sessions.includes(undefined) ? undefined : JSON.stringify(sessions);
  }

  /** Puts what was asked. */
  async put(): Promise<void> {
    this.closed = true;
    try {
      for (let from = 0; from < this.questions.length;) {
        // What is left of an older message never takes the place of a newer one.
        const session = from === 0 ? this.session : undefined;
        const notBegun = await this.thread.turn(session, async () => void (from += await this.putSome(from)));
        if (!notBegun) continue;
        for (const done of this.waiting) done(notBegun);
        return;
      }
    } catch (error) {
      for (const done of this.waiting) done(failed(error));
    }
  }

  /** @returns how many were answered in one turn */
  private async putSome(from: number): Promise<number> {
    let some = await this.thread.put(this.questions.slice(from));
    for (;;) {
      for (const [place, told] of some.answered) this.waiting[from + place](told);
      if (some.rest === undefined) return some.begun;
      some = await this.thread.rest(some.rest);
    }
  }
}
