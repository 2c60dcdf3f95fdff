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
import type { OtherTable } from '@usual-needle/host';
import { HttpProblem } from '../routes/http-problem.js';
import type { Told } from './host-thread.js';
import { gone, type SearchThread } from './search-thread.js';
import type { SharedAnswers } from './shared-answers.js';
import { Together } from './together.js';
import { OVERTAKEN, TooMany, Turns } from './turns.js';

/** Questions answered side by side: the host goes from one to the other. */
const AT_ONCE = 4;

/** Whose question it is, as far as that is known. */
interface By {
  readonly asker?: string;
  readonly session?: string;
}

/** How far the tables are. */
interface Tables {
  /** Of one that is held or on its way. */
  reading(id: number): { readonly rows: number; readonly rowsRead: number; readonly done: boolean } | undefined;
  /** All that was there at the start has been read. */
  filled(): boolean;
}

const OVERTAKEN_ANSWER = JSON.stringify({ overtaken: true, complete: false, rows: [], notices: [], problem: null });

export class Questions {
  private readonly turns = new Turns(AT_ONCE);
  /** Of what goes through whole tables and may take its time: one at a time, beside the searches and not before them. */
  private readonly aside = new Turns(1);

  constructor(
    private readonly tables: Tables,
    private readonly thread: SearchThread,
    private readonly shared: SharedAnswers,
  ) {}

  /** An asker has gone: what its sessions asked is not wanted any more. */
  leave(asker: string, sessions: Iterable<string>): void {
    this.turns.leave(asker);
    for (const session of sessions) this.thread.host.leave(session).catch(() => undefined);
  }

  private async told<T>(id: number, by: By, ask: () => Promise<Told<T>>, turns = this.turns): Promise<T | undefined> {
    this.mustBeRead(id);
    return this.valueOf(id, await this.inTurn(by, () => this.thread.of(ask()), turns));
  }

  /** It may be held already, and yet be of before what the log says. */
  private mustBeRead(id: number): void {
    if (this.tables.reading(id)?.done === false) throw this.stillLoading(id);
  }

  private async inTurn<T>(by: By, work: () => Promise<T>, turns = this.turns): Promise<T | typeof OVERTAKEN> {
    try {
      return await turns.run(by.asker, by.session, work);
    } catch (error) {
      if (!(error instanceof TooMany)) throw error;
      throw new HttpProblem(503, 'Too many questions at once', 'Wait for some of the answers.', { 'Retry-After': '1' });
    }
  }

  private valueOf<T>(id: number, told: Told<T> | typeof OVERTAKEN): T | undefined {
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

  /** Questions of one asker that go to the thread as one message, once they are put. @param wanted false once the asker has gone */
  together(asker: string, wanted: () => boolean): Together {
    let { host } = this.thread;
    return new Together({
      turn: (session, work) => (wanted() ? this.inTurn({ asker, session }, work) : Promise.resolve(OVERTAKEN)),
      put: (questions) => {
        ({ host } = this.thread);
        return this.thread.of(host.searchTogether(questions));
      },
      // A thread that was started since knows nothing of them.
      rest: (of) => (host === this.thread.host ? this.thread.of(host.restOf(of)) : Promise.reject(gone())),
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
    together?: Together,
  ): Promise<string | undefined> {
    const by = { asker, session: request.session };
    try {
      return await this.shared.of(scope, id, request, async () => {
        this.mustBeRead(id);
        const outcome = together?.ask({ scope, id, request });
        return this.valueOf(
          id,
          await (outcome ??
            this.inTurn(by, () => this.thread.of<Told<string>>(this.thread.host.search(scope, id, request)))),
        );
      });
    } catch (error) {
      if (error instanceof Overtaken) return OVERTAKEN_ANSWER;
      throw error;
    }
  }

  /** @throws HttpProblem */
  async explain(scope: Scope, id: number, request: ExplainRequest): Promise<Explanation | undefined> {
    return this.told(id, {}, () => this.thread.host.explain(scope, id, request));
  }

  /** @throws HttpProblem */
  offers(scope: Scope, id: number, request: OffersRequest): Promise<Offers | undefined> {
    return this.told(id, {}, () => this.thread.host.offers(scope, id, request));
  }

  /** @throws HttpProblem */
  next(scope: Scope, id: number, request: NextRequest): Promise<NextMatch | undefined> {
    return this.told(id, {}, () => this.thread.host.next(scope, id, request));
  }

  /** Cells as they are stored, with those of borrowed columns looked up. @throws HttpProblem */
  filledCells(id: number, rows: readonly (readonly string[])[]): Promise<readonly (readonly string[])[] | undefined> {
    return this.told(id, {}, () => this.thread.host.filled(id, rows));
  }

  /** @throws HttpProblem */
  pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<PairingCounts | undefined> {
    return this.told(id, {}, () => this.thread.host.pairing(scope, id, pairing, other), this.aside);
  }

  /** @throws HttpProblem */
  lenders(scope: Scope, id: number, others: readonly OtherTable[]): Promise<Lenders | undefined> {
    return this.told(id, {}, () => this.thread.host.lenders(scope, id, others), this.aside);
  }
}

/** A newer question of the session took this one's place. */
class Overtaken extends Error {}
