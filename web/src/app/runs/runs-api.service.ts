import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import {
  itemWholeSchema,
  pairCountSchema,
  runItemSchema,
  runItemsSchema,
  runListSchema,
  runSchema,
  type ChangeRunItem,
  type CountPairs,
  type ItemWhole,
  type PairCount,
  type RunAct,
  type RunItemJson,
  type RunItemsJson,
  type RunJson,
  type RunList,
  type StartRun,
} from '@hollow-stride/contract';
import { catchError, EMPTY, expand, map, type Observable, reduce } from 'rxjs';
import * as v from 'valibot';
import { toApiError } from '../api/answers';

/** The server's HTTP interface to runs, checked at the border. */
@Injectable({ providedIn: 'root' })
export class RunsApiService {
  private readonly http = inject(HttpClient);

  runs(): Observable<RunList> {
    return this.http.get('/api/runs').pipe(
      map((body) => v.parse(runListSchema, body)),
      catchError(toApiError),
    );
  }

  countPairs(request: CountPairs): Observable<PairCount> {
    return this.http.post('/api/runs/pairs', request).pipe(
      map((body) => v.parse(pairCountSchema, body)),
      catchError(toApiError),
    );
  }

  startRun(request: StartRun): Observable<RunJson> {
    return this.http.post('/api/runs', request).pipe(
      map((body) => v.parse(runSchema, body)),
      catchError(toApiError),
    );
  }

  /** All items of a run, page by page. */
  runItems(run: string): Observable<RunItemsJson> {
    const page = (from: number): Observable<RunItemsJson> =>
      this.http.get(`/api/runs/${run}`, { params: { from } }).pipe(map((body) => v.parse(runItemsSchema, body)));
    return page(0).pipe(
      expand((last) => (last.items.length > 0 && last.items.length < last.total ? page(last.items.length) : EMPTY)),
      reduce((whole, more) => ({ ...more, items: [...whole.items, ...more.items] })),
      catchError(toApiError),
    );
  }

  runItem(id: string): Observable<ItemWhole> {
    return this.http.get(`/api/runs/items/${id}`).pipe(
      map((body) => v.parse(itemWholeSchema, body)),
      catchError(toApiError),
    );
  }

  changeRunItem(id: string, change: ChangeRunItem): Observable<RunItemJson> {
    return this.http.patch(`/api/runs/items/${id}`, change).pipe(
      map((body) => v.parse(runItemSchema, body)),
      catchError(toApiError),
    );
  }

  actOnRun(id: string, act: RunAct): Observable<RunJson> {
    return this.http.post(`/api/runs/${id}/${act}`, null).pipe(
      map((body) => v.parse(runSchema, body)),
      catchError(toApiError),
    );
  }

  putFirst(run: string, items: readonly string[]): Observable<unknown> {
    return this.http.post(`/api/runs/${run}/first`, { items }).pipe(catchError(toApiError));
  }

  /** Writes a run's delivery into the server's folder. @returns the paths in it */
  intoFolder(run: string): Observable<readonly string[]> {
    return this.http.post(`/api/runs/${run}/folder`, null).pipe(
      map((body) => v.parse(v.object({ files: v.array(v.string()) }), body).files),
      catchError(toApiError),
    );
  }
}
