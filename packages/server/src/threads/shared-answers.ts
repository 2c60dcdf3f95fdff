/**
 * Answers that serve everybody who asks the same question of the same moment of a table under the same scope: readers of one box
 * type the same beginnings. A moment ends with any change of the table, or of one that lends to it; whoever asks while the same
 * is being answered waits for that answer.
 *
 * ```
 * asked      u1 u2 U3 | u4        u1, u2, U3 the same question, | a change
 * answered   U  U  U  | V         by one search before the change, and one after it
 * ```
 */
import { LRUCache } from 'lru-cache';
import type { Scope, SearchRequest } from '@usual-needle/contract';
import { answered, type Bytes, type Outcome } from '@usual-needle/host';
import type { AskedText } from './question-port.js';

/** Bytes of answers that are kept. */
const KEPT_BYTES = 32 * 1024 * 1024;

export class SharedAnswers {
  private readonly kept = new LRUCache<string, Bytes>({
    maxSize: KEPT_BYTES,
    sizeCalculation: ({ length }) => length,
  });
  private readonly underWay = new Map<string, Promise<Outcome<Bytes>>>();
  private readonly moments = new Map<number, number>();
  private readonly scopes = new WeakMap<Scope, string>();
  /** How many answers served somebody else's question too, and how many had to be worked out. */
  hits = 0;
  misses = 0;

  /** A table is not what it was: what is asked from now on is asked anew. To be said before the change is made, and after it. */
  changed(table: number): void {
    this.moments.set(table, (this.moments.get(table) ?? 0) + 1);
  }

  /**
   * @param work answers the question
   * @returns its outcome, or the complete answer that another's of the same question had
   */
  async of(
    scope: Scope,
    table: number,
    request: SearchRequest,
    work: (asked: AskedText) => Promise<Outcome<Bytes>>,
  ): Promise<Outcome<Bytes>> {
    const asked = this.textOf(scope, request);
    const key = `${table} ${this.moments.get(table) ?? 0} ${asked.scope} ${asked.request}`;
    const others = this.underWay.get(key);
    const kept = this.kept.get(key);
    const known = kept !== undefined ? answered(kept) : others && (await others.catch(() => undefined));
    // One that was overtaken, or grew impatient, serves nobody else.
    if (known?.is === 'answered' && known.complete) {
      this.hits++;
      return known;
    }
    this.misses++;
    const answer = work(asked);
    this.underWay.set(key, answer);
    try {
      const outcome = await answer;
      // What was begun before a change has a key that is not asked for any more.
      if (outcome.is === 'answered' && outcome.complete) this.kept.set(key, outcome.value);
      return outcome;
    } finally {
      if (this.underWay.get(key) === answer) this.underWay.delete(key);
    }
  }

  /** All that the answer depends on, besides the table; not whose question it is, which of theirs, and how long they wait. */
  private textOf(scope: Scope, request: SearchRequest): AskedText {
    const asked = { ...request, session: undefined, turn: undefined, patience: undefined };
    return { scope: this.scopeText(scope), request: JSON.stringify(asked) };
  }

  private scopeText(scope: Scope): string {
    const text = this.scopes.get(scope) ?? JSON.stringify(scope);
    this.scopes.set(scope, text);
    return text;
  }
}
