/** Rows that are taken out: from a search thread, by the writing thread, to whoever asked. */
import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import type { Scope, TakenFacts, TakeOutRequest } from '@usual-needle/contract';
import type { Taken } from '@usual-needle/formats/light';
import { answered, refusedQuestion, type Outcome } from '@usual-needle/host';
import { proxy, transfer, wrap, type Remote } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { Logger } from 'pino';
import { NotAllowed } from '../access/not-allowed.js';
import type { Questions, RowsLeaving } from '../threads/questions.js';
import type { beginnings } from './beginnings.js';
import { handedOver } from './packed-rows.js';
import type { NextRows, WritingThread } from './writing-thread.js';

/** Files that are written side by side. */
const AT_ONCE = 4;
/** A reader who reads nothing for so long, in milliseconds, is cut off: rows of a moment are not held for ever. */
const UNREAD_MS = 60_000;

/** The outcome where as many files as may be are being written. */
const TOO_MANY: Outcome<never> = {
  is: 'refused',
  why: 'too many',
  message: 'Others are taking rows out. Try again in a moment.',
};

/** The things that the writer is told besides the facts. */
export type Told = Omit<Taken, keyof TakenFacts>;

/** A file on its way out. */
export interface Leaving {
  readonly facts: TakenFacts;
  readonly bytes: AsyncGenerator<Uint8Array, void>;
  /** Ends it; called by whoever reads no more of it, to its end or not. */
  close(): void;
}

/** How far a file is. */
interface Progress {
  /** Rows that have been handed to the writer. */
  rows: number;
}

/** The thread that wrote ended before its file did. */
class WriterGone extends Error {}

export class TakeOuts {
  private worker: { readonly thread: Worker; readonly writing: Remote<WritingThread> } | undefined;
  private readonly failing = new Set<(error: Error) => void>();
  private readonly progress = new Map<string, Progress>();
  private files = 0;
  private running = 0;
  private closed = false;

  constructor(
    private readonly questions: Questions,
    private readonly log: Logger,
  ) {}

  private get writing(): Remote<WritingThread> {
    if (this.worker) return this.worker.writing;
    const thread = new Worker(new URL('./writer.worker.js', import.meta.url));
    const writing = wrap<WritingThread>(nodeEndpoint(thread));
    this.worker = { thread, writing };
    thread.once('error', (error) => this.log.error({ err: error }, 'the writing thread failed'));
    thread.once('exit', () => {
      if (this.worker?.thread === thread) this.worker = undefined;
      for (const fail of this.failing) fail(new WriterGone('the writing thread ended'));
    });
    // It keeps no process from ending.
    thread.unref();
    return writing;
  }

  /** Waits for the writing thread no longer than it is there. */
  private of<T>(answer: Promise<T>): Promise<T> {
    return new Promise((done, fail) => {
      this.failing.add(fail);
      answer.then(done, fail).finally(() => this.failing.delete(fail));
    });
  }

  /**
   * Begins to take rows out.
   * @param isStillAllowed looked at as it goes on: then it is cut off @throws NotAllowed from the bytes, WriterGone, ThreadGone
   */
  async begin(
    scope: Scope,
    id: number,
    request: TakeOutRequest,
    told: Told,
    isStillAllowed: () => Promise<boolean>,
  ): Promise<Outcome<Leaving>> {
    if (this.running >= AT_ONCE || this.closed) return TOO_MANY;
    this.running++;
    const file = ++this.files;
    let leaving: RowsLeaving | undefined;
    let isClosed = false;
    const close = (): void => {
      if (isClosed) return;
      isClosed = true;
      this.running--;
      leaving?.end();
      if (request.key !== undefined) this.progress.delete(request.key);
      this.worker?.writing.close(file).catch(() => undefined);
    };
    try {
      const outcome = await this.questions.takeOut(scope, id, request);
      if (outcome.is !== 'answered') {
        close();
        return outcome;
      }
      leaving = outcome.value;
      const { facts } = leaving;
      const { form, header, safe, delimiter, mark, marks } = request;
      const settings = { header, safe, delimiter, mark, marks };
      const next = proxy(this.counted(leaving, request.key));
      const { writing } = this;
      const misfit = await this.of(writing.open(file, form, { ...facts, ...told }, settings, next));
      if (misfit !== undefined) {
        close();
        return refusedQuestion(misfit);
      }
      return answered({ facts, close, bytes: this.bytesOf(writing, file, isStillAllowed, () => isClosed, close) });
    } catch (error) {
      close();
      throw error;
    }
  }

  /** The next rows, counted as they are handed over. */
  private counted({ next }: RowsLeaving, key: string | undefined): NextRows {
    const progress: Progress = { rows: 0 };
    if (key !== undefined) this.progress.set(key, progress);
    return async () => {
      const some = await next();
      if (!some) return undefined;
      progress.rows += some.ids.length;
      return transfer(some, handedOver(some));
    };
  }

  private async *bytesOf(
    writing: Remote<WritingThread>,
    file: number,
    isStillAllowed: () => Promise<boolean>,
    isClosed: () => boolean,
    close: () => void,
  ): AsyncGenerator<Uint8Array, void> {
    for (;;) {
      const bytes = await this.of(writing.read(file));
      // Closed in the middle it has no end, which is not to be taken for one.
      if (isClosed()) throw new Error('what was taken out was not read for long');
      if (!bytes) return;
      // It is cut off then, so that nobody takes it for whole.
      if (!(await isStillAllowed())) throw new NotAllowed('take out');
      const unread = setTimeout(close, UNREAD_MS).unref();
      try {
        yield bytes;
      } finally {
        clearTimeout(unread);
      }
    }
  }

  /** Rows that have left so far of what is taken out under a key; undefined if nothing is. */
  rowsSoFar(key: string): number | undefined {
    return this.progress.get(key)?.rows;
  }

  /** Rows that lately began to be on show, worked out beside all searches. @throws WriterGone */
  async beginnings(...asked: Parameters<typeof beginnings>): ReturnType<typeof beginnings> {
    if (this.running >= AT_ONCE || this.closed) return TOO_MANY;
    this.running++;
    try {
      return await this.of(this.writing.beginnings(...asked) as ReturnType<typeof beginnings>);
    } finally {
      this.running--;
    }
  }

  /** How many files are on their way out: for tests. */
  get underWay(): number {
    return this.running;
  }

  async close(): Promise<void> {
    this.closed = true;
    const { worker } = this;
    if (!worker) return;
    const exit = once(worker.thread, 'exit');
    await worker.thread.terminate();
    await exit.catch(() => undefined);
  }
}
