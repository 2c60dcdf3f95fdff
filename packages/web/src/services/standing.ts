import { DestroyRef, Injectable, inject } from '@angular/core';
import {
  STANDING_MESSAGE_LIMIT,
  STANDING_PATH,
  STANDING_QUESTIONS_LIMIT,
  type SearchAnswer,
  type SearchRequest,
  type StandingQuestion,
} from '@usual-needle/contract';
import { Observable, type Subscriber } from 'rxjs';

/** Waits before trying to connect again, in milliseconds; the last one over and over. */
const WAITS = [250, 1_000, 4_000, 15_000];
/** The bytes of a UTF-16 unit, at most. */
const BYTES = 3;

/** The standing connection for searches. While there is none, the caller asks by request. */
@Injectable({ providedIn: 'root' })
export class Standing {
  private socket: WebSocket | undefined;
  private failures = 0;
  private nextId = 0;
  private closed = false;
  private readonly waiting = new Map<number, Subscriber<SearchAnswer>>();
  /** Messages that go out together. */
  private gathered: string[] | undefined;

  constructor() {
    this.connect();
    inject(DestroyRef).onDestroy(() => {
      this.closed = true;
      this.socket?.close();
    });
  }

  /** Asks at each subscription: by this connection if it is there then, else as `otherwise` does. */
  search(
    of: Pick<StandingQuestion, 'table' | 'box'>,
    request: SearchRequest,
    otherwise: () => Observable<SearchAnswer>,
  ): Observable<SearchAnswer> {
    return new Observable<SearchAnswer>((subscriber) => {
      const { socket } = this;
      if (socket?.readyState !== WebSocket.OPEN) return otherwise().subscribe(subscriber);
      const id = ++this.nextId;
      this.waiting.set(id, subscriber);
      const message: StandingQuestion = { id, ...of, request };
      this.send(JSON.stringify(message));
      return () => this.waiting.delete(id);
    });
  }

  /** Sends what is asked within it as one message, as far as that may be so large. */
  together(ask: () => void): void {
    this.gathered = [];
    try {
      ask();
    } finally {
      const gathered = this.gathered;
      this.gathered = undefined;
      for (const message of messagesOf(gathered)) this.socket?.send(message);
    }
  }

  /** Connects anew: whoever is at this browser is somebody else now, and a connection is of who opened it. */
  renew(): void {
    this.failures = 0;
    this.socket?.close();
  }

  private send(text: string): void {
    if (this.gathered) this.gathered.push(text);
    else this.socket?.send(text);
  }

  private connect(): void {
    const address = new URL(STANDING_PATH, location.href);
    address.protocol = address.protocol === 'https:' ? 'wss:' : 'ws:';
    const socket = new WebSocket(address);
    this.socket = socket;
    socket.onopen = () => (this.failures = 0);
    socket.onmessage = ({ data }: MessageEvent<string>) => {
      // JSON has no line break of its own.
      for (const reply of data.split('\n')) this.receive(reply);
    };
    socket.onclose = () => {
      const left = [...this.waiting.values()];
      this.waiting.clear();
      for (const subscriber of left) subscriber.error({ status: 0 });
      if (!this.closed) setTimeout(() => this.connect(), WAITS[Math.min(this.failures++, WAITS.length - 1)]);
    };
  }

  private receive(text: string): void {
    const [, id, status] = /^(\d+) (\d+) /.exec(text) ?? [];
    const subscriber = this.waiting.get(Number(id));
    if (!subscriber) return;
    const body: unknown = JSON.parse(text.slice(id.length + status.length + 2));
    if (status === '200') {
      subscriber.next(body as SearchAnswer);
      subscriber.complete();
    } else subscriber.error({ status: Number(status), error: body });
  }
}

/** Questions as arrays of as many as may go in one message. */
function* messagesOf(questions: readonly string[]): Generator<string> {
  let some: string[] = [];
  let units = 2;
  for (const question of questions) {
    const over =
      some.length === STANDING_QUESTIONS_LIMIT || (units + question.length + 1) * BYTES > STANDING_MESSAGE_LIMIT;
    if (over && some.length > 0) {
      yield `[${some.join()}]`;
      some = [];
      units = 2;
    }
    some.push(question);
    units += question.length + 1;
  }
  if (some.length > 0) yield `[${some.join()}]`;
}
