/** Questions to the tables: put in turns to the search thread, and their outcomes for whoever asked. */
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
  TakenFacts,
  TakeOutRequest,
} from '@usual-needle/contract';
import { answered, bestOf, MISSING, OVERTAKEN, type Bytes, type OtherTable, type Outcome } from '@usual-needle/host';
import type { Remote } from 'comlink';
import type { PackedRows } from '../take-out/packed-rows.js';
import type { HostThread } from './host-thread.js';
import type { SearchThread } from './search-thread.js';
import type { SharedAnswers } from './shared-answers.js';
import { failed, ThreadGone } from './thread-gone.js';
import type { Watch } from '../watching/watch.js';
import { Together } from './together.js';

/** The asker of a question, as far as that is known. */
interface By {
  readonly asker?: string;
  readonly session?: string;
}

/** How a question is asked. */
interface How<T> {
  readonly by?: By;
  /** The one of a thread's turns that it takes. */
  readonly turns?: 'turns' | 'aside';
  /** Puts it with others of a message; undefined if it has to be asked by itself. */
  readonly put?: (thread: SearchThread) => Promise<Outcome<T>> | undefined;
}

/** How far the tables are. */
interface TableReadings {
  /** Tells how far a table is that is held or on its way. */
  reading(id: number): { readonly rows: number; readonly rowsRead: number; readonly done: boolean } | undefined;
  /** A table is asked, whoever answers. */
  asked(id: number): void;
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

/** Rows on their way out of a thread. */
export interface RowsLeaving {
  readonly facts: TakenFacts;
  /** The next rows; undefined once all have left. @throws ThreadGone */
  next(): Promise<PackedRows | undefined>;
  /** Ends it; called by whoever takes no more. */
  end(): void;
}

export class Questions {
  private takings = 0;

  constructor(
    private readonly tables: TableReadings,
    private readonly shared: SharedAnswers,
    private readonly watch: Watch,
  ) {}

  /** An asker has gone: what its sessions asked is not wanted any more. */
  leave(asker: string, sessions: Iterable<string>): void {
    const left = [...sessions];
    for (const thread of this.tables.threads()) {
      thread.turns.leave(asker);
      for (const session of left) thread.host.leave(session).catch(() => undefined);
    }
  }

  private async put<T>(
    id: number,
    ask: (host: Remote<HostThread>, thread: SearchThread) => Promise<Outcome<T>>,
    { by = {}, turns = 'turns', put }: How<T> = {},
  ): Promise<Outcome<T>> {
    // It may be held already, and yet be of before what the log says.
    if (this.tables.reading(id)?.done === false) return this.loading(id);
    const thread = turns === 'aside' ? this.tables.homeOf(id) : this.tables.threadOf(id);
    const at = (one: SearchThread): Promise<Outcome<T>> =>
      one[turns].run(by.asker, by.session, () => one.of(ask(one.host, one)));
    try {
      let outcome: Outcome<T> = thread ? await (put?.(thread) ?? at(thread)) : MISSING;
      const home = this.tables.homeOf(id);
      // A copy may be put away while a question waits for it; then its home is asked.
      if (outcome.is === 'missing' && thread && home && home !== thread) outcome = await at(home);
      // At a start, and where the thread was started again, tables are on their way.
      const isOnItsWay = outcome.is === 'loading' || (outcome.is === 'missing' && !this.tables.filled());
      return isOnItsWay ? this.loading(id) : outcome;
    } catch (error) {
      if (error instanceof ThreadGone) return failed(error);
      throw error;
    }
  }

  private loading(id: number): Outcome<never> {
    const { rows, rowsRead } = this.tables.reading(id) ?? { rows: 0, rowsRead: 0 };
    return { is: 'loading', rows, rowsRead };
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
      turn: (session, work) => (wanted() ? thread.turns.run(asker, session, work) : Promise.resolve(OVERTAKEN)),
      put: (questions) => {
        ({ host } = thread);
        return thread.of(host.searchTogether(questions));
      },
      // A thread that was started since knows nothing of them.
      rest: (of) => (host === thread.host ? thread.of(host.restOf(of)) : Promise.reject(new ThreadGone())),
    });
  }

  /**
   * @param together what it is put with, if it is
   * @returns the answer as JSON in UTF-8
   */
  search(
    scope: Scope,
    id: number,
    request: SearchRequest,
    asker?: string,
    together?: QuestionsTogether,
  ): Promise<Outcome<Bytes>> {
    this.tables.asked(id);
    return this.watch.over('search', id, request, () =>
      this.shared.of(scope, id, request, (asked) =>
        this.put(id, (_, thread) => thread.questions.search(id, asked, request), {
          by: { asker, session: request.session },
          put: (thread) => together?.in(thread).ask({ scope, id, request }),
        }),
      ),
    );
  }

  explain(scope: Scope, id: number, request: ExplainRequest): Promise<Outcome<Explanation>> {
    return this.watch.over('explain', id, request, () => this.put(id, (host) => host.explain(scope, id, request)));
  }

  offers(scope: Scope, id: number, request: OffersRequest): Promise<Outcome<Offers>> {
    return this.watch.over('offers', id, request, () => this.put(id, (host) => host.offers(scope, id, request)));
  }

  next(scope: Scope, id: number, request: NextRequest): Promise<Outcome<NextMatch>> {
    return this.watch.over('next', id, request, () => this.put(id, (host) => host.next(scope, id, request)));
  }

  /** Begins to take rows out of a table. */
  async takeOut(scope: Scope, id: number, request: TakeOutRequest): Promise<Outcome<RowsLeaving>> {
    const taking = ++this.takings;
    const thread = this.tables.homeOf(id);
    const outcome = await this.watch.over('take out', id, request, () =>
      this.put(id, (host) => host.takeOut(taking, scope, id, request), { turns: 'aside' }),
    );
    if (outcome.is !== 'answered' || !thread) {
      thread?.host.endTaking(taking).catch(() => undefined);
      return outcome.is === 'answered' ? MISSING : outcome;
    }
    // Those of a thread that was started since would know nothing of it.
    const { host } = thread;
    return answered({
      facts: outcome.value,
      next: () => thread.of(host.takenRows(taking)),
      end: () => void host.endTaking(taking).catch(() => undefined),
    });
  }

  /** Looks up the cells of borrowed columns. @param rows cells as they are stored */
  filledCells(
    scope: Scope,
    id: number,
    rows: readonly (readonly string[])[],
  ): Promise<Outcome<readonly (readonly string[])[]>> {
    return this.put(id, (host) => host.filled(scope, id, rows));
  }

  /** @param other what may be seen of the table that would lend */
  async pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<Outcome<PairingCounts>> {
    if (this.tables.reading(pairing.table)?.done === false) return this.loading(pairing.table);
    await this.tables.beside(pairing.table, id);
    return this.put(id, (host) => host.pairing(scope, id, pairing, other), { turns: 'aside' });
  }

  /** @param others the tables that may lend, with what may be seen of each */
  async lenders(scope: Scope, id: number, others: readonly OtherTable[]): Promise<Outcome<Lenders>> {
    const own = await this.put(id, (host) => host.keys(scope, id), { turns: 'aside' });
    if (own.is !== 'answered') return own;
    const found = await Promise.all(
      this.tables.threads().map(async (thread) => {
        const there = others.filter((other) => other.id !== id && this.tables.homeOf(other.id) === thread);
        if (there.length === 0) return [];
        const some = await thread.aside.run(undefined, undefined, () =>
          thread.of(thread.host.pairings(own.value, there)),
        );
        return 'is' in some ? [] : some;
      }),
    );
    return answered({ pairings: bestOf(found.flat()) });
  }
}

/** Questions that are put together, by the threads that they go to. */
export interface QuestionsTogether {
  /** The questions that go to a thread. */
  in(thread: SearchThread): Together;
  /** Puts what was asked. */
  put(): Promise<void>;
}
