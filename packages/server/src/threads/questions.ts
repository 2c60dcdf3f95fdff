/** What is asked of the tables: in turns, of the search thread, and what comes of it for whoever asked. */
import type {
  ExplainRequest,
  Explanation,
  Lenders,
  NextMatch,
  NextRequest,
  Offers,
  OffersRequest,
  Pairing,
  PairingCounts,
  Scope,
  SearchRequest,
} from '@usual-needle/contract';
import { bestOf, type OtherTable } from '@usual-needle/host';
import type { Remote } from 'comlink';
import { HttpProblem } from '../routes/http-problem.js';
import type { HostThread, HostReply } from './host-thread.js';
import { gone, type SearchThread } from './search-thread.js';
import type { SharedAnswers } from './shared-answers.js';
import { type AnswerOutcome, Together } from './together.js';
import { OVERTAKEN, TooMany, type Turns } from './turns.js';

/** The asker of a question, as far as that is known. */
interface By {
  readonly asker?: string;
  readonly session?: string;
}

/** How a question is asked. */
interface How<T> {
  readonly by?: By;
  /** Which of a thread's turns it takes. */
  readonly turns?: 'turns' | 'aside';
  /** Puts it with others of a message; undefined if it has to be asked by itself. */
  readonly put?: (thread: SearchThread) => Promise<AnswerOutcome<T>> | undefined;
}

/** How far the tables are. */
interface TableReadings {
  /** Tells how far a table is that is held or on its way. */
  reading(id: number): { readonly rows: number; readonly rowsRead: number; readonly done: boolean } | undefined;
  /** All that was there at the start has been read. */
  filled(): boolean;
  /** Thread that is to answer for a table now; undefined without the table. */
  threadOf(id: number): SearchThread | undefined;
  /** Thread that a table is at home in, with those that it borrows from or is compared with. */
  homeOf(id: number): SearchThread | undefined;
  /** The threads that have begun. */
  threads(): readonly SearchThread[];
  /** Has a table held in the thread of another, for a while. */
  beside(other: number, id: number): Promise<void>;
}

const OVERTAKEN_ANSWER = JSON.stringify({ overtaken: true, complete: false, rows: [], notices: [], problem: null });

export class Questions {
  constructor(
    private readonly tables: TableReadings,
    private readonly shared: SharedAnswers,
  ) {}

  /** An asker has gone: what its sessions asked is not wanted any more. */
  leave(asker: string, sessions: Iterable<string>): void {
    const left = [...sessions];
    for (const thread of this.tables.threads()) {
      thread.turns.leave(asker);
      for (const session of left) thread.host.leave(session).catch(() => undefined);
    }
  }

  private async told<T>(
    id: number,
    ask: (host: Remote<HostThread>) => Promise<HostReply<T>>,
    { by = {}, turns = 'turns', put }: How<T> = {},
  ): Promise<T | undefined> {
    this.mustBeRead(id);
    const thread = turns === 'aside' ? this.tables.homeOf(id) : this.tables.threadOf(id);
    if (!thread) return this.valueOf<T>(id, { ok: true, value: undefined });
    const at = (one: SearchThread): Promise<AnswerOutcome<T>> => inTurn(one[turns], by, () => one.of(ask(one.host)));
    const outcome = await (put?.(thread) ?? at(thread));
    return this.valueOf(id, await this.orAtHome(id, thread, outcome, at));
  }

  /** A copy may be put away while a question waits for it; then its home is asked. */
  private async orAtHome<T>(
    id: number,
    thread: SearchThread,
    told: AnswerOutcome<T>,
    at: (home: SearchThread) => Promise<AnswerOutcome<T>>,
  ): Promise<AnswerOutcome<T>> {
    const home = this.tables.homeOf(id);
    const isGone = told !== OVERTAKEN && told.ok && told.value === undefined;
    return isGone && home && home !== thread ? at(home) : told;
  }

  /** Refuses a table that is still being read: it may be held already, and yet be of before what the log says. */
  private mustBeRead(id: number): void {
    if (this.tables.reading(id)?.done === false) throw this.stillLoading(id);
  }

  private valueOf<T>(id: number, told: AnswerOutcome<T>): T | undefined {
    if (told === OVERTAKEN) throw new Overtaken();
    if (told.ok) {
      // At a start, and where the thread was started again, tables are on their way.
      if (told.value === undefined && !this.tables.filled()) throw this.stillLoading(id);
      return told.value;
    }
    if (told.why === 'failed') throw new Error(told.message);
    if (told.why === 'loading') throw this.stillLoading(id);
    if (told.why === 'scope') throw new HttpProblem(403, 'This is not allowed here', told.message);
    throw new HttpProblem(422, 'The search cannot be asked of this table', told.message);
  }

  private stillLoading(id: number): HttpProblem {
    const { rows, rowsRead } = this.tables.reading(id) ?? { rows: 0, rowsRead: 0 };
    const detail = `${rowsRead.toLocaleString('en')} of ${rows.toLocaleString('en')} rows are read. It opens by itself.`;
    return new HttpProblem(503, 'This table is still being read', detail, { 'Retry-After': '1' });
  }

  /** Questions of one asker that go to each thread as one message, once they are put. @param wanted false once the asker has gone */
  together(asker: string, wanted: () => boolean): QuestionsTogether {
    const parts = new Map<SearchThread, Together>();
    return {
      in: (thread) => {
        const part = parts.get(thread) ?? this.part(thread, asker, wanted);
        parts.set(thread, part);
        return part;
      },
      put: async () => void (await Promise.all([...parts.values()].map((part) => part.put()))),
    };
  }

  private part(thread: SearchThread, asker: string, wanted: () => boolean): Together {
    let { host } = thread;
    return new Together({
      turn: (session, work) => (wanted() ? inTurn(thread.turns, { asker, session }, work) : Promise.resolve(OVERTAKEN)),
      put: (questions) => {
        ({ host } = thread);
        return thread.of(host.searchTogether(questions));
      },
      // A thread that was started since knows nothing of them.
      rest: (of) => (host === thread.host ? thread.of(host.restOf(of)) : Promise.reject(gone())),
    });
  }

  /**
   * @param together what it is put with, if it is
   * @returns the answer as JSON; undefined if there is no such table. @throws HttpProblem
   */
  async search(
    scope: Scope,
    id: number,
    request: SearchRequest,
    asker?: string,
    together?: QuestionsTogether,
  ): Promise<string | undefined> {
    try {
      return await this.shared.of(scope, id, request, () =>
        this.told(id, (host) => host.search(scope, id, request), {
          by: { asker, session: request.session },
          put: (thread) => together?.in(thread).ask({ scope, id, request }),
        }),
      );
    } catch (error) {
      if (error instanceof Overtaken) return OVERTAKEN_ANSWER;
      throw error;
    }
  }

  /** @throws HttpProblem */
  async explain(scope: Scope, id: number, request: ExplainRequest): Promise<Explanation | undefined> {
    return this.told(id, (host) => host.explain(scope, id, request));
  }

  /** @throws HttpProblem */
  offers(scope: Scope, id: number, request: OffersRequest): Promise<Offers | undefined> {
    return this.told(id, (host) => host.offers(scope, id, request));
  }

  /** @throws HttpProblem */
  next(scope: Scope, id: number, request: NextRequest): Promise<NextMatch | undefined> {
    return this.told(id, (host) => host.next(scope, id, request));
  }

  /** Cells as they are stored, with those of borrowed columns looked up. @throws HttpProblem */
  filledCells(id: number, rows: readonly (readonly string[])[]): Promise<readonly (readonly string[])[] | undefined> {
    return this.told(id, (host) => host.filled(id, rows));
  }

  /** @throws HttpProblem */
  async pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<PairingCounts | undefined> {
    await this.tables.beside(pairing.table, id);
    return this.told(id, (host) => host.pairing(scope, id, pairing, other), { turns: 'aside' });
  }

  /** @throws HttpProblem */
  async lenders(scope: Scope, id: number, others: readonly OtherTable[]): Promise<Lenders | undefined> {
    const own = await this.told(id, (host) => host.keys(scope, id), { turns: 'aside' });
    if (!own) return undefined;
    const found = await Promise.all(
      this.tables.threads().map(async (thread) => {
        const there = others.filter((other) => other.id !== id && this.tables.homeOf(other.id) === thread);
        if (there.length === 0) return [];
        const some = await inTurn(thread.aside, {}, () => thread.of(thread.host.pairings(own, there)));
        return some === OVERTAKEN ? [] : some;
      }),
    );
    return { pairings: bestOf(found.flat()) };
  }
}

/** Questions that are put together, by the threads that they go to. */
export interface QuestionsTogether {
  /** The questions that go to a thread. */
  in(thread: SearchThread): Together;
  /** Puts what was asked. */
  put(): Promise<void>;
}

/** @throws HttpProblem 503 if too many wait */
async function inTurn<T>(turns: Turns, by: By, work: () => Promise<T>): Promise<T | typeof OVERTAKEN> {
  try {
    return await turns.run(by.asker, by.session, work);
  } catch (error) {
    if (!(error instanceof TooMany)) throw error;
    throw new HttpProblem(503, 'Too many questions at once', 'Wait for some of the answers.', { 'Retry-After': '1' });
  }
}

/** A newer question of the session took this one's place. */
class Overtaken extends Error {}
