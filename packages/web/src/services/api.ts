import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type {
  Box, ColumnChange, ExplainRequest, Explanation, NextMatch, NextRequest, Offers, OffersRequest, SearchAnswer, SearchRequest, Shelf, StoredBox,
  TableSummary,
} from '@usual-needle/contract'; // prettier-ignore
import type { Observable } from 'rxjs';
import { Live } from './live';

function ifMatch(version: number): Record<string, string> {
  return { 'If-Match': `"${version}"` };
}

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

  keepBox(tableId: number, box: Box): Observable<StoredBox> {
    return this.http.post<StoredBox>(`/api/tables/${tableId}/boxes`, { box });
  }

  /** Changes of what somebody else changed since fail with status 412. */
  changeBox({ id, version }: StoredBox, box: Box): Observable<StoredBox> {
    return this.http.put<StoredBox>(`/api/boxes/${id}`, { box }, { headers: ifMatch(version) });
  }

  deleteBox({ id, version }: StoredBox): Observable<void> {
    return this.http.delete<void>(`/api/boxes/${id}`, { headers: ifMatch(version) });
  }

  restoreBox(id: number): Observable<StoredBox> {
    return this.http.post<StoredBox>(`/api/boxes/${id}/restore`, null);
  }

  changeColumn({ id, version }: TableSummary, change: ColumnChange): Observable<TableSummary> {
    return this.http.patch<TableSummary>(`/api/tables/${id}/columns`, change, { headers: ifMatch(version) });
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
