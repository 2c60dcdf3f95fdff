/**
 * The way of searches to a search thread and back, which is gone often enough to be a road of its own: a message each way, no more in it
 * than has to be. What is asked goes as the JSON that it is known by already (`shared-answers.ts`), the answer comes as bytes that are
 * handed over and not copied. All else that a thread is asked goes by comlink.
 */
import type { MessagePort } from 'node:worker_threads';
import { LRUCache } from 'lru-cache';
import type { Scope, SearchRequest } from '@usual-needle/contract';
import type { Bytes, Outcome } from '@usual-needle/host';
import { failed } from './thread-gone.js';

/** A question as text. */
export interface AskedText {
  /** The scope as JSON. */
  readonly scope: string;
  /** The request as JSON, without what is its asker's alone. */
  readonly request: string;
}

/** The parts of a request that are its asker's alone: whose question it is, which of theirs, and how long they wait. */
type Asker = Pick<SearchRequest, 'session' | 'turn' | 'patience'>;

type Asked = readonly [number: number, id: number, scope: string, request: string, asker: Asker];
type Told = readonly [number: number, outcome: Outcome<Bytes>];

/** Scopes that are read once. */
const SCOPES = 200;

/** The end of whoever asks. */
export class QuestionPort {
  private readonly waiting = new Map<number, (outcome: Outcome<Bytes>) => void>();
  private next = 0;

  constructor(private readonly port: MessagePort) {
    port.on('message', ([number, outcome]: Told) => {
      const done = this.waiting.get(number);
      this.waiting.delete(number);
      done?.(outcome);
    });
    // It keeps no process alive.
    port.unref();
  }

  /** Never answered where the thread ends first: see `SearchThread.of`. */
  search(id: number, { scope, request }: AskedText, { session, turn, patience }: Asker): Promise<Outcome<Bytes>> {
    const number = this.next++;
    return new Promise((done) => {
      this.waiting.set(number, done);
      this.port.postMessage([number, id, scope, request, { session, turn, patience }] satisfies Asked);
    });
  }
}

/** The thread's end. @param search answers a question */
export function answerAt(
  port: MessagePort,
  search: (scope: Scope, id: number, request: SearchRequest) => Promise<Outcome<Bytes>>,
): void {
  const scopes = new LRUCache<string, Scope>({ max: SCOPES });
  const scopeOf = (text: string): Scope => {
    const scope = scopes.get(text) ?? (JSON.parse(text) as Scope);
    scopes.set(text, scope);
    return scope;
  };
  port.on('message', ([number, id, scope, request, asker]: Asked) => {
    const tell = (outcome: Outcome<Bytes>): void => {
      const bytes = outcome.is === 'answered' ? [outcome.value.buffer] : [];
      port.postMessage([number, outcome] satisfies Told, bytes);
    };
    search(scopeOf(scope), id, { ...(JSON.parse(request) as SearchRequest), ...asker })
      .then(tell)
      .catch((error: unknown) => tell(failed(error)));
  });
}
