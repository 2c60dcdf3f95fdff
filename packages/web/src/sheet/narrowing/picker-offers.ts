import { computed, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { Offers, OffersRequest } from '@usual-needle/contract';
import { catchError, filter, map, merge, of, Subject, switchMap, throttleTime } from 'rxjs';
import { questionOf } from '../../common/question';
import { errorWords } from '../../common/error-words';
import { Api } from '../../services/api';
import { patiently } from '../../services/latest';
import { Live } from '../live/live';
import { SheetStore } from '../state/sheet-store';

/** The offers of a picker: on their way, there, or why not. */
type Offered =
  | { readonly state: 'waiting' }
  | { readonly state: 'there'; readonly offers: Offers }
  | { readonly state: 'failed'; readonly message: string };

type OffersAsked = Omit<OffersRequest, 'question'>;

/** Fetches what one picker offers under all other conditions. What comes for an earlier question is forgotten. */
@Injectable()
export class PickerOffers {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly asked = new Subject<OffersAsked>();
  private last: OffersAsked | undefined;
  readonly offered = signal<Offered>({ state: 'waiting' });
  /** Why it could not be fetched; empty if it was, or is on its way. */
  readonly message = computed(() => {
    const offered = this.offered();
    return offered.state === 'failed' ? offered.message : '';
  });

  constructor() {
    // Counts follow the table; values fetched further down the list stay as they are.
    const { news, lent } = inject(Live);
    const followed = merge(news, lent).pipe(
      throttleTime(500, undefined, { leading: true, trailing: true }),
      map(() => this.last),
      filter((last): last is OffersAsked => last !== undefined && !last.offset),
    );
    merge(this.asked, followed)
      .pipe(
        switchMap((asked) => {
          const table = this.store.table();
          if (!table) return of<Offered>({ state: 'waiting' });
          const before = this.offered();
          return this.api.offers(table.id, { ...asked, question: questionOf(this.store.box()) }).pipe(
            patiently(1),
            map((offers): Offered => ({ state: 'there', offers: further(asked, before, offers) })),
            catchError((error: unknown) => of<Offered>({ state: 'failed', message: errorWords(error) })),
          );
        }),
        takeUntilDestroyed(),
      )
      .subscribe((offered) => this.offered.set(offered));
  }

  ask(asked: OffersAsked): void {
    if (!asked.offset) this.offered.set({ state: 'waiting' });
    this.last = asked;
    this.asked.next(asked);
  }
}

/** The next values come after those that are there. */
function further({ offset }: OffersAsked, before: Offered, offers: Offers): Offers {
  if (!offset || before.state !== 'there') return offers;
  return { ...offers, values: [...before.offers.values, ...offers.values] };
}
