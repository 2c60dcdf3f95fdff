import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { SearchAnswer, SearchRequest, Shelf, StoredBox, TableSummary } from '@usual-needle/contract';
import type { Observable } from 'rxjs';

/** The server, as the interface sees it. One method a route; errors come as the stream's. */
@Injectable({ providedIn: 'root' })
export class Api {
  private readonly http = inject(HttpClient);

  shelf(): Observable<Shelf> {
    return this.http.get<Shelf>('/api/tables');
  }

  table(id: number): Observable<TableSummary> {
    return this.http.get<TableSummary>(`/api/tables/${id}`);
  }

  box(id: number): Observable<StoredBox> {
    return this.http.get<StoredBox>(`/api/boxes/${id}`);
  }

  /** Unsubscribing gives the request up. */
  search(tableId: number, request: SearchRequest): Observable<SearchAnswer> {
    return this.http.post<SearchAnswer>(`/api/tables/${tableId}/search`, request);
  }
}
