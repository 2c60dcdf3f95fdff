import { inject, Injectable } from '@angular/core';
import type {
  ExplainRequest,
  Explanation,
  NextMatch,
  NextRequest,
  Offers,
  OffersRequest,
  OpenedBox,
  SearchAnswer,
  SearchRequest,
} from '@usual-needle/contract';
import { from, map, type Observable } from 'rxjs';
import { Api } from '../services/api';
import { OwnRows } from './own-rows';
import { TAKEN_AWAY } from './taken-away';

/** Answers what a sheet asks by the page's own rows. All else that an interface asks of a server is not open in it. */
@Injectable()
export class TakeAwayApi extends Api {
  private readonly rows = inject(OwnRows);
  private readonly taken = inject(TAKEN_AWAY)!;

  override opened(): Observable<OpenedBox> {
    return from(this.rows.opened).pipe(map(() => this.taken.opened));
  }

  override search(_table: number, request: SearchRequest): Observable<SearchAnswer> {
    return from(this.rows.ask('search', request));
  }

  override explain(_table: number, request: ExplainRequest): Observable<Explanation> {
    return from(this.rows.ask('explain', request));
  }

  override offers(_table: number, request: OffersRequest): Observable<Offers> {
    return from(this.rows.ask('offers', request));
  }

  override next(_table: number, request: NextRequest): Observable<NextMatch> {
    return from(this.rows.ask('next', request));
  }
}
