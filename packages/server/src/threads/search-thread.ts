/** A thread with a host, begun once it is wanted. One that ends unexpectedly is started again; whoever waited for an answer of it is told so. */
import { once } from 'node:events';
import { setTimeout } from 'node:timers/promises';
import type { EventLoopUtilization } from 'node:perf_hooks';
import { MessageChannel, Worker } from 'node:worker_threads';
import { wrap, type Remote } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { Logger } from 'pino';
import type { HostThread } from './host-thread.js';
import { QuestionPort } from './question-port.js';
import { ThreadGone } from './thread-gone.js';
import { Turns } from './turns.js';

/** A thread that ended is started again after so long, in milliseconds. */
const AGAIN_MS = 500;

/** Questions answered side by side: the host goes from one to the other. */
const AT_ONCE = 4;

/** The events of a search thread that others hear of. */
interface Heard {
  /** A thread has been started; its host holds nothing yet. */
  began(): void;
  /** Called where what the thread held is lost. */
  lost(): void;
  /** Called after `lost`, once another one is there to be filled. */
  again(): Promise<void>;
}

export class SearchThread {
  /** The turns of those who ask. */
  readonly turns = new Turns(AT_ONCE);
  /** The turns of what goes through whole tables and may take its time: one at a time, beside the searches and not before them. */
  readonly aside = new Turns(1);
  private worker: Worker | undefined;
  private current: Remote<HostThread> | undefined;
  private currentQuestions: QuestionPort | undefined;
  private closed = false;
  /** The ones that wait for an answer of the thread that there is; undefined while there is none. */
  private waiting: Set<(error: unknown) => void> | undefined;

  constructor(
    private readonly log: Logger,
    private readonly heard: Heard,
  ) {}

  get isBegun(): boolean {
    return this.worker !== undefined;
  }

  private start(): Remote<HostThread> {
    const { port1, port2 } = new MessageChannel();
    const worker = new Worker(new URL('./host.worker.js', import.meta.url), {
      workerData: { questions: port2 },
      transferList: [port2],
    });
    this.worker = worker;
    this.currentQuestions = new QuestionPort(port1);
    const host = (this.current = wrap<HostThread>(nodeEndpoint(worker)));
    const waiting = (this.waiting = new Set<(error: unknown) => void>());
    worker.once('error', (error) => this.log.error({ err: error }, 'a search thread failed'));
    worker.once('exit', () => {
      if (this.waiting === waiting) this.waiting = undefined;
      // Whoever waits for an answer of a thread that has gone is told so.
      for (const fail of waiting) fail(new ThreadGone());
    });
    worker.once('exit', (code) => {
      if (this.closed) return;
      this.log.error({ code }, 'a search thread ended; it is started again');
      this.heard.lost();
      void setTimeout(AGAIN_MS).then(() => {
        if (this.closed) return;
        this.start();
        void this.fillAgain();
      });
    });
    this.heard.began();
    return host;
  }

  /** Fills the new thread, until that is done or it has ended, too. */
  private async fillAgain(): Promise<void> {
    const { worker } = this;
    while (!this.closed && this.waiting && this.worker === worker)
      try {
        return await this.heard.again();
      } catch (error) {
        // One that is closed meanwhile has not failed.
        if (this.closed) return;
        this.log.error({ err: error }, 'tables could not be read again; it is tried once more');
        await setTimeout(AGAIN_MS);
      }
  }

  /** Gives its host, beginning the thread where it has not begun. @throws ThreadGone after it was closed unbegun */
  get host(): Remote<HostThread> {
    if (!this.current && this.closed) throw new ThreadGone();
    return this.current ?? this.start();
  }

  /** The way of searches to it, beginning the thread where it has not begun. @throws ThreadGone */
  get questions(): QuestionPort {
    void this.host;
    return this.currentQuestions!;
  }

  /** How much of its time it has worked so far, and how much it was idle. */
  get worked(): EventLoopUtilization {
    return this.worker!.performance.eventLoopUtilization();
  }

  /** An answer of the thread. @throws ThreadGone */
  of<T>(answer: Promise<T>): Promise<T> {
    const { waiting } = this;
    if (!waiting) return Promise.reject(new ThreadGone());
    // Not a race with one promise for the thread's end: that would hold on to every answer there ever was.
    return new Promise((done, fail) => {
      waiting.add(fail);
      answer.then(done, fail).finally(() => waiting.delete(fail));
    });
  }

  /** Ends it, as if it had failed: for tests of what happens then. */
  async end(): Promise<void> {
    if (!this.worker || !this.waiting) return;
    const exit = once(this.worker, 'exit');
    await this.worker.terminate();
    await exit;
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.worker?.terminate();
  }
}
