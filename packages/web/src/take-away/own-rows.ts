/** The page's own rows: searched in a worker made of the page's own script, or in the page itself where a browser refuses that. */
import { wrap } from 'comlink';
import type { TakenAway } from '@usual-needle/contract';
import { RowsHost } from './rows-host';

type Asked = 'search' | 'explain' | 'offers' | 'next';
type Question<A extends Asked> = Parameters<RowsHost[A]>[0];
type Answer<A extends Asked> = ReturnType<RowsHost[A]>;

/** A worker that says nothing for so long, in milliseconds, is taken for one that was refused. */
const REFUSED_MS = 10_000;

export class OwnRows {
  /** Fulfilled once the rows can be asked. */
  readonly opened: Promise<void>;
  private host: Pick<RowsHost, Asked> | undefined;

  constructor(code: string, taken: TakenAway, rows: string) {
    this.opened = this.inWorker(code, taken, rows).catch(() => this.inPage(taken, rows));
  }

  /** Asks one thing of the rows, once they are there. */
  async ask<A extends Asked>(what: A, question: Question<A>): Promise<Awaited<Answer<A>>> {
    await this.opened;
    const ask = this.host![what] as (question: Question<A>) => Answer<A>;
    return (await ask.call(this.host, question)) as Awaited<Answer<A>>;
  }

  private async inWorker(code: string, taken: TakenAway, rows: string): Promise<void> {
    const address = URL.createObjectURL(new Blob([code], { type: 'text/javascript' }));
    const worker = new Worker(address);
    const host = wrap<RowsHost>(worker);
    const refused = new Promise<never>((_, fail) => {
      worker.addEventListener('error', () => fail(new Error('the worker was refused')));
      setTimeout(() => fail(new Error('the worker says nothing')), REFUSED_MS);
    });
    try {
      const { columns, parts, change } = taken;
      await Promise.race([host.open({ columns, parts, change }, rows), refused]);
      this.host = {
        search: (question) => host.search(question),
        explain: (question) => host.explain(question),
        offers: (question) => host.offers(question),
        next: (question) => host.next(question),
      };
    } catch (error) {
      worker.terminate();
      throw error;
    } finally {
      URL.revokeObjectURL(address);
    }
  }

  private async inPage(taken: TakenAway, rows: string): Promise<void> {
    const host = new RowsHost();
    await host.open(taken, rows);
    this.host = host;
  }
}
