import { DestroyRef, Injectable, inject } from '@angular/core';
import { LIVE_PATH, type LiveQuestion, type SearchAnswer, type SearchRequest } from '@usual-needle/contract';
import { Observable, type Subscriber } from 'rxjs';

/** Waits before trying to connect again, in milliseconds; the last one over and over. */
const WAITS = [250, 1_000, 4_000, 15_000];

/** The standing connection for searches. While there is none, `search` gives nothing, and the caller asks by request. */
@Injectable({ providedIn: 'root' })
export class Live {
  private socket: WebSocket | undefined;
  private failures = 0;
  private nextId = 0;
  private closed = false;
  private readonly waiting = new Map<number, Subscriber<SearchAnswer>>();

  constructor() {
    this.connect();
    inject(DestroyRef).onDestroy(() => {
      this.closed = true;
      this.socket?.close();
    });
  }

  /** @returns undefined while there is no connection */
  search(table: number, request: SearchRequest): Observable<SearchAnswer> | undefined {
    if (this.socket?.readyState !== WebSocket.OPEN) return undefined;
    return new Observable<SearchAnswer>((subscriber) => {
      const id = ++this.nextId;
      this.waiting.set(id, subscriber);
      const message: LiveQuestion = { id, table, request };
      this.socket!.send(JSON.stringify(message));
      return () => this.waiting.delete(id);
    });
  }

  private connect(): void {
    const address = new URL(LIVE_PATH, location.href);
    address.protocol = address.protocol === 'https:' ? 'wss:' : 'ws:';
    const socket = new WebSocket(address);
    this.socket = socket;
    socket.onopen = () => (this.failures = 0);
    socket.onmessage = ({ data }: MessageEvent<string>) => this.receive(data);
    socket.onclose = () => {
      for (const subscriber of [...this.waiting.values()]) subscriber.error({ status: 0 });
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
