import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type {
  ExplainRequest, Explanation, NextMatch, NextRequest, Offers, OffersRequest, SearchAnswer, SearchRequest, Shelf, StoredBox,
  TableSummary,
} from '@usual-needle/contract'; // prettier-ignore
import type { Observable } from 'rxjs';
import { Live } from './live';

/** The server, as the interface sees it. One method a route; errors come as the stream's. */
@Injectable({ providedIn: 'root' })
export class Api {
  private readonly http = inject(HttpClient);
  private readonly live = inject(Live);

  shelf(): Observable<Shelf> {
    return this.http.get<Shelf>('/api/tables');
  }

  table(id: number): Observable<TableSummary> {
    return this.http.get<TableSummary>(`/api/tables/${id}`);
  }

  box(id: number): Observable<StoredBox> {
    return this.http.get<StoredBox>(`/api/boxes/${id}`);
  }

  explain(tableId: number, request: ExplainRequest): Observable<Explanation> {
    return this.http.post<Explanation>(`/api/tables/${tableId}/explain`, request);
  }

  offers(tableId: number, request: OffersRequest): Observable<Offers> {
    return this.http.post<Offers>(`/api/tables/${tableId}/offers`, request);
  }

  next(tableId: number, request: NextRequest): Observable<NextMatch> {
    return this.http.post<NextMatch>(`/api/tables/${tableId}/next`, request);
  }

  /** By the standing connection if there is one, else by a request. Unsubscribing gives the question up. */
  search(tableId: number, request: SearchRequest): Observable<SearchAnswer> {
    return this.live.search(tableId, request) ?? this.http.post<SearchAnswer>(`/api/tables/${tableId}/search`, request);
  }
}
