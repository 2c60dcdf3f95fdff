import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type {
  Box,
  Change,
  Dependents,
  ChangeList,
  ColumnChange,
  ColumnsRequest,
  EditDone,
  EditRequest,
  ExplainRequest,
  Explanation,
  Health,
  Lenders,
  NextMatch,
  NextRequest,
  OpenedBox,
  Offers,
  OffersRequest,
  Pairing,
  PairingCounts,
  RowHistory,
  SearchAnswer,
  SearchRequest,
  Refresh,
  ShelfContent,
  SourceList,
  SourceRequest,
  SourceRuns,
  SourceTold,
  SourceTry,
  StoredBox,
  TableChange,
  TableSummary,
  UndoRequest,
  ValueChange,
} from '@usual-needle/contract';
import { Observable } from 'rxjs';
import { Standing } from './standing';

function ifMatch(version: number): Record<string, string> {
  return { 'If-Match': `"${version}"` };
}

/** The server, as the interface sees it. One method a route; errors come as the stream's. */
@Injectable({ providedIn: 'root' })
export class Api {
  /** The slug of the box that is read, where the one at this browser is a reader: they ask by the box, and never by its table. */
  slug: string | undefined;
  private readonly http = inject(HttpClient);
  private readonly standing = inject(Standing);

  /** The address of a table, or of the box that is read in its place. */
  at(table: number): string {
    return this.slug === undefined ? `/api/tables/${table}` : `/api/shared/${encodeURIComponent(this.slug)}`;
  }

  /** Opens a box as its readers have it. */
  opened(slug: string): Observable<OpenedBox> {
    return this.http.get<OpenedBox>(`/api/shared/${encodeURIComponent(slug)}`, { params: { opens: true } });
  }

  health(): Observable<Health> {
    return this.http.get<Health>('/api/health');
  }

  shelf(): Observable<ShelfContent> {
    return this.http.get<ShelfContent>('/api/tables');
  }

  table(id: number): Observable<TableSummary> {
    return this.http.get<TableSummary>(`/api/tables/${id}`);
  }

  /** A table as it was after a change, to be looked at. */
  earlierTable(id: number, at: number): Observable<TableSummary> {
    return this.http.post<TableSummary>(`/api/tables/${id}/earlier`, { at });
  }

  /** The sources of tables, and what can be asked for rows. */
  sources(): Observable<SourceList> {
    return this.http.get<SourceList>('/api/sources');
  }

  /** Keeps a source. @param version of the one that is kept; undefined where none is */
  keepSource(table: number, request: SourceRequest, version: number | undefined): Observable<SourceTold> {
    const headers = version === undefined ? {} : ifMatch(version);
    return this.http.put<SourceTold>(`/api/tables/${table}/source`, request, { headers });
  }

  endSource(table: number): Observable<void> {
    return this.http.delete<void>(`/api/tables/${table}/source`);
  }

  /** Asks what a source would do now, which does nothing. */
  trySource(table: number, request: SourceTry): Observable<Refresh> {
    return this.http.post<Refresh>(`/api/tables/${table}/source/try`, request);
  }

  runSource(table: number, anyway: boolean): Observable<SourceTold> {
    return this.http.post<SourceTold>(`/api/tables/${table}/source/run`, { anyway });
  }

  leaveSource(table: number): Observable<SourceTold> {
    return this.http.post<SourceTold>(`/api/tables/${table}/source/leave`, {});
  }

  sourceRuns(table: number): Observable<SourceRuns> {
    return this.http.get<SourceRuns>(`/api/tables/${table}/source/runs`);
  }

  /** Puts the demo's tables away, or brings them back. */
  demo(there: boolean): Observable<unknown> {
    return there ? this.http.post('/api/demo', {}) : this.http.delete('/api/demo');
  }

  deleteTable(id: number): Observable<void> {
    return this.http.delete<void>(`/api/tables/${id}`);
  }

  describeTable({ id, version }: TableSummary, change: TableChange): Observable<TableSummary> {
    return this.http.patch<TableSummary>(`/api/tables/${id}`, change, { headers: ifMatch(version) });
  }

  /** Writes an edit; fails with status 409 and the clashes where others were there first. */
  edit(id: number, request: EditRequest): Observable<EditDone> {
    return this.http.post<EditDone>(`${this.at(id)}/changes`, request);
  }

  /** Undoes a change by a new one; fails with status 409 where later ones stand on it. */
  undoChange(id: number, number: number, how: UndoRequest = {}): Observable<Change> {
    return this.http.post<Change>(`/api/tables/${id}/changes/${number}/undo`, how);
  }

  /** The log of a table, last first. @param before only what was before this change */
  history(id: number, limit: number, before?: number): Observable<ChangeList> {
    const params = { brief: true, limit, ...(before !== undefined && { before }) };
    return this.http.get<ChangeList>(`${this.at(id)}/changes`, { params });
  }

  /** A change with all that it did. */
  change(id: number, number: number): Observable<Change> {
    return this.http.get<Change>(`/api/tables/${id}/changes/${number}`);
  }

  rowHistory(id: number, row: number): Observable<RowHistory> {
    return this.http.get<RowHistory>(`${this.at(id)}/rows/${row}/history`);
  }

  restoreTable(id: number): Observable<TableSummary> {
    return this.http.post<TableSummary>(`/api/tables/${id}/restore`, null);
  }

  /** Asks what lacks something if a table, or one of its columns, goes. */
  dependents(id: number, column?: string): Observable<Dependents> {
    const params = { ...(column !== undefined && { column }) };
    return this.http.get<Dependents>(`/api/tables/${id}/dependents`, { params });
  }

  /** @param opens true where it is opened by a person, which is counted */
  box(id: number, opens = false): Observable<StoredBox> {
    return this.http.get<StoredBox>(`/api/boxes/${id}`, { params: { ...(opens && { opens }) } });
  }

  saveNewBox(tableId: number, box: Box): Observable<StoredBox> {
    return this.http.post<StoredBox>(`/api/tables/${tableId}/boxes`, { box });
  }

  /** Changes of what somebody else changed since fail with status 412. */
  changeBox({ id, version }: StoredBox, box: Box, who: { readonly who?: string }): Observable<StoredBox> {
    return this.http.put<StoredBox>(`/api/boxes/${id}`, { box, ...who }, { headers: ifMatch(version) });
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

  /** Adds a column, or puts them in order. */
  arrangeColumns({ id, version }: TableSummary, request: ColumnsRequest): Observable<TableSummary> {
    return this.http.post<TableSummary>(`/api/tables/${id}/columns`, request, { headers: ifMatch(version) });
  }

  /** Pairings with other tables that suggest themselves. */
  lenders(id: number): Observable<Lenders> {
    return this.http.get<Lenders>(`/api/tables/${id}/lenders`);
  }

  /** Asks what a pairing would come to. */
  pairing(id: number, pairing: Pairing): Observable<PairingCounts> {
    return this.http.post<PairingCounts>(`/api/tables/${id}/pairing`, pairing);
  }

  /** Makes a value another one in every row. */
  renameValue(id: number, change: ValueChange): Observable<Change> {
    return this.http.post<Change>(`/api/tables/${id}/columns/values`, change);
  }

  explain(tableId: number, request: ExplainRequest): Observable<Explanation> {
    return this.http.post<Explanation>(`${this.at(tableId)}/explain`, request);
  }

  offers(tableId: number, request: OffersRequest): Observable<Offers> {
    return this.http.post<Offers>(`${this.at(tableId)}/offers`, request);
  }

  next(tableId: number, request: NextRequest): Observable<NextMatch> {
    return this.http.post<NextMatch>(`${this.at(tableId)}/next`, request);
  }

  /** Leaves what is asked as it is, but for what it asks as it is subscribed to: that goes out as one message, where there is a standing connection. */
  together<T>(asks: Observable<T>): Observable<T> {
    return new Observable((subscriber) => {
      this.standing.together(() => subscriber.add(asks.subscribe(subscriber)));
    });
  }

  /** Searches by the standing connection if there is one, else by a request. Unsubscribing gives the question up. */
  search(tableId: number, request: SearchRequest): Observable<SearchAnswer> {
    const of = this.slug === undefined ? { table: tableId } : { box: this.slug };
    return this.standing.search(of, request, () => this.http.post<SearchAnswer>(`${this.at(tableId)}/search`, request));
  }
}
