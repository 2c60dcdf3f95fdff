import { inject, Injectable } from '@angular/core';
import type { TableSummary } from '@usual-needle/contract';
import { catchError, of, shareReplay, type Observable } from 'rxjs';
import { Api } from '../../services/api';

/** Tables that lend to the one on show, as they are called; each asked for once. */
@Injectable()
export class LenderTables {
  private readonly api = inject(Api);
  private readonly known = new Map<number, Observable<TableSummary | undefined>>();

  /** @returns undefined for one that is not there */
  table(id: number): Observable<TableSummary | undefined> {
    const found =
      this.known.get(id) ??
      this.api.table(id).pipe(
        catchError(() => {
          // It may be back by the next time.
          this.known.delete(id);
          return of(undefined);
        }),
        shareReplay(1),
      );
    this.known.set(id, found);
    return found;
  }
}
