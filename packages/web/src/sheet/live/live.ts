import { computed, DestroyRef, effect, inject, Injectable, signal, untracked } from '@angular/core';
import type { BoxNews, ChangeNews } from '@usual-needle/contract';
import { Subject } from 'rxjs';
import { Api } from '../../services/api';
import { Person } from '../../services/person';
import { TAKEN_AWAY } from '../../take-away/taken-away';
import { SheetStore } from '../state/sheet-store';

/** Waits before trying again after the server has refused, in milliseconds; the last one over and over. */
const WAITS = [1_000, 3_000, 10_000];

export interface Someone {
  readonly id: number;
  readonly name: string | null;
}

/**
 * The events of the table on show, as the server tells it. While the page is hidden nothing is listened to: a browser has only
 * some connections to one server, and many a page lies open; it catches up by number when it is looked at again.
 */
@Injectable()
export class Live {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly person = inject(Person);
  private readonly takenAway = inject(TAKEN_AWAY);

  /** Changes of others and of one's own, each once, in order. */
  readonly news = new Subject<ChangeNews>();
  /** Tells that what another table lends to this one may be another. */
  readonly lent = new Subject<void>();
  /** A box of the table was saved or deleted. */
  readonly boxes = new Subject<BoxNews>();
  /** The table was deleted. */
  readonly gone = new Subject<void>();
  /** The way to the server is there again. */
  readonly back = new Subject<void>();
  /** The others who have the table open, as far as they are named, and how many sheets there are beside this one. */
  readonly others = signal<readonly Someone[]>([]);
  readonly otherCount = signal(0);

  private source: EventSource | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private table: number | undefined;
  private known = 0;
  private self = 0;
  private failures = 0;

  constructor() {
    const looked = (): void => (document.visibilityState === 'hidden' ? this.close() : this.open());
    document.addEventListener('visibilitychange', looked);
    inject(DestroyRef).onDestroy(() => {
      document.removeEventListener('visibilitychange', looked);
      this.close();
    });
    // The same table with other columns is listened to all along.
    const listened = computed(() => `${this.store.table()?.id} ${this.store.earlier()} ${this.person.name()}`);
    effect(() => {
      listened();
      untracked(() => {
        const table = this.store.table();
        if (table && table.id !== this.table) {
          this.table = table.id;
          this.known = table.change;
        }
        this.close();
        this.open();
      });
    });
  }

  /** Number of the last change that this sheet was told of. */
  get lastKnown(): number {
    return this.known;
  }

  private close(): void {
    clearTimeout(this.timer);
    this.source?.close();
    this.source = undefined;
  }

  private open(): void {
    const { table } = this;
    // What was, and what was taken away, does not change any more.
    if (
      table === undefined ||
      this.takenAway ||
      this.store.earlier() ||
      this.source ||
      document.visibilityState === 'hidden'
    )
      return;
    clearTimeout(this.timer);
    const query = new URLSearchParams({ after: String(this.known), ...this.person.asWho() });
    const source = new EventSource(`${this.api.at(table)}/events?${query.toString()}`);
    this.source = source;
    const on = <T>(event: string, does: (data: T) => void): void =>
      source.addEventListener(event, ({ data }: MessageEvent<string>) => {
        if (source === this.source) does(JSON.parse(data) as T);
      });
    on<Someone>('hello', ({ id }) => {
      this.self = id;
      if (this.failures > 0) this.back.next();
      this.failures = 0;
    });
    on<{ who: readonly Someone[]; count: number }>('present', ({ who, count }) => {
      this.others.set(who.filter(({ id }) => id !== this.self));
      this.otherCount.set(count - 1);
    });
    on<ChangeNews>('change', (news) => {
      if (news.number <= this.known) return;
      this.known = news.number;
      this.news.next(news);
    });
    on<BoxNews>('box', (news) => this.boxes.next(news));
    on('lent', () => this.lent.next());
    on('gone', () => this.gone.next());
    source.onerror = () => {
      if (source !== this.source) return;
      this.others.set([]);
      this.otherCount.set(0);
      this.failures++;
      // The browser goes on by itself, unless the server has refused.
      if (source.readyState !== EventSource.CLOSED) return;
      this.close();
      this.timer = setTimeout(() => this.open(), WAITS[Math.min(this.failures, WAITS.length) - 1]);
    };
  }
}
