import { HttpClient, HttpEventType, type HttpHeaderResponse, type HttpResponse } from '@angular/common/http';
import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { CHANGE_HEADER, ROWS_HEADER, type TakeOutProgress, type TakeOutRequest } from '@usual-needle/contract';
import { catchError, EMPTY, exhaustMap, type Subscription, timer } from 'rxjs';
import { errorWords } from '../../common/error-words';
import { Api } from '../../services/api';
import { newId } from '../../services/ids';

/** How often it is asked how far the rows are, in milliseconds. */
const ASK_MS = 500;

/** Rows on their way to this browser. */
interface UnderWay {
  readonly rows: number;
  /** How many there will be; undefined until the first of them comes. */
  readonly of: number | undefined;
  readonly began: number;
}

/** Rows that have come, as a file. */
export interface Taken {
  readonly file: Blob;
  readonly change: number;
  readonly rows: number;
}

/** Takes rows out of the table on show, one file at a time, whether its panel is open or not; it can be stopped, and then nothing is left of it. */
@Injectable()
export class TakingOut {
  private readonly api = inject(Api);
  private readonly http = inject(HttpClient);
  private under: Subscription | undefined;
  private given: (() => void) | undefined;

  readonly underWay = signal<UnderWay | undefined>(undefined);
  readonly problem = signal('');

  constructor() {
    inject(DestroyRef).onDestroy(() => this.stop());
  }

  /**
   * @param done is called with the whole file; where it comes in part only, it is none
   * @param given is called where it is stopped, or fails
   */
  take(table: number, request: TakeOutRequest, done: (taken: Taken) => void, given?: () => void): void {
    this.stop();
    this.given = given;
    this.problem.set('');
    const key = `${newId()}-take-out`;
    this.underWay.set({ rows: 0, of: undefined, began: performance.now() });
    const address = `${this.api.at(table)}/take-out`;
    this.under = this.http
      .post(address, { ...request, key }, { responseType: 'blob', observe: 'events', reportProgress: true })
      .subscribe({
        next: (event) => {
          if (event.type === HttpEventType.ResponseHeader) this.follow(event, key);
          if (event.type === HttpEventType.Response) this.came(event, done);
        },
        error: (error: unknown) => void this.failed(error),
      });
  }

  private follow(head: HttpHeaderResponse, key: string): void {
    const of = Number(head.headers.get(ROWS_HEADER));
    if (!head.ok) return;
    this.underWay.update((under) => under && { ...under, of });
    const asking = timer(ASK_MS, ASK_MS)
      .pipe(
        exhaustMap(() =>
          this.http
            .get<TakeOutProgress>(`/api/take-outs/${encodeURIComponent(key)}`)
            // One that has just ended is none any more.
            .pipe(catchError(() => EMPTY)),
        ),
      )
      .subscribe(({ rows }) => this.underWay.update((under) => under && { ...under, rows }));
    this.under?.add(asking);
  }

  private came(response: HttpResponse<Blob>, done: (taken: Taken) => void): void {
    this.given = undefined;
    this.stop();
    const number = (name: string): number => Number(response.headers.get(name));
    done({ file: response.body!, change: number(CHANGE_HEADER), rows: number(ROWS_HEADER) });
  }

  /** A problem comes as a file, too, and is read first. */
  private async failed(error: unknown): Promise<void> {
    this.stop();
    const { error: body, status } = error as { error?: unknown; status?: number };
    if (!(body instanceof Blob)) {
      this.problem.set(
        status === 0 || status === 200 ? 'It was cut off, and nothing of it is kept. Try it again.' : errorWords(error),
      );
      return;
    }
    const told = await body.text().then(
      (text) => JSON.parse(text) as object,
      () => null,
    );
    this.problem.set(errorWords({ status, error: told }));
  }

  stop(): void {
    this.under?.unsubscribe();
    this.under = undefined;
    this.underWay.set(undefined);
    this.given?.();
    this.given = undefined;
  }
}
