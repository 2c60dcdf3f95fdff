/**
 * Rows that begin to match where columns are borrowed: a row can then begin to match by a change of another table, of which the
 * log of its own says nothing. So the server is asked for all rows that match, and those are new that did not match the last time.
 */
import type { SearchAnswer, WireQuestion } from '@usual-needle/contract';
import { UsageProblem } from './options.js';
import type { Server } from './server-side.js';
import type { Beginnings, Watched } from './watched.js';

/** Rows asked for at a time. */
const WINDOW = 500;

export class ByAsking implements Beginnings {
  /** Rows that matched the last time, by their ids. */
  private matching = new Set<number>();

  private constructor(
    private readonly server: Server,
    private readonly path: URL,
    private readonly question: WireQuestion,
    readonly shown: readonly string[],
  ) {}

  static async begun(server: Server, path: URL, { question, shown }: Watched): Promise<ByAsking> {
    const made = new ByAsking(server, path, question, shown);
    for await (const _ of made.since()) void _;
    return made;
  }

  async *since(): AsyncGenerator<readonly string[]> {
    const found = new Set<number>();
    let first: SearchAnswer | undefined;
    let isOfOneMoment = true;
    for (let offset = 0; ;) {
      const answer = await this.window(offset);
      first ??= answer;
      isOfOneMoment &&= answer.change === first.change && answer.shown === first.shown;
      for (const { id, cells } of answer.rows) {
        found.add(id);
        if (this.matching.has(id)) continue;
        // At once: it is not told again where a later window does not come.
        this.matching.add(id);
        yield cells;
      }
      offset += answer.rows.length;
      if (answer.rows.length === 0 || offset >= answer.shown) break;
    }
    // Where rows changed in between, one may have been passed over: it does not count as new the next time.
    if (isOfOneMoment) this.matching = found;
  }

  private async window(offset: number): Promise<SearchAnswer> {
    const body = JSON.stringify({ question: this.question, columns: this.shown, offset, limit: WINDOW });
    const answer = await this.server.asked<SearchAnswer>(new URL(`${this.path.pathname}/search`, this.path), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body,
    });
    if (answer.problem) throw new UsageProblem(answer.problem.message);
    return answer;
  }
}
