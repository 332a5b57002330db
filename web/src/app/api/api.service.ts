import { HttpClient, HttpErrorResponse, HttpEventType } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import {
  characterSchema,
  depotEventSchema,
  depotPageSchema,
  errorSchema,
  pairingSchema,
  rackSchema,
  schemeSchema,
  transferSchema,
  uploadSchema,
  type ChangeItem,
  type ChangeSkeleton,
  type ChangeTake,
  type CharacterJson,
  type DepotEvent,
  type DepotFetch,
  type DepotPage,
  type DepotSearch,
  type ItemKind,
  type PairingJson,
  type RackJson,
  type SavePairing,
  type SaveTransfer,
  type SchemeJson,
  type TransferJson,
  type UploadJson,
} from '@hollow-stride/contract';
import type { Fault } from '@hollow-stride/core';
import { catchError, concatMap, EMPTY, filter, from, map, type Observable, throwError } from 'rxjs';
import * as v from 'valibot';

/** A refusal by the server, or the lack of one, as a fault that can be shown. */
export class ApiError extends Error {
  constructor(
    readonly fault: Fault,
    readonly status: number,
  ) {
    super(fault.message);
  }
}

export interface UploadProgress {
  /** 0…1 while sending; 1 while the server reads. */
  readonly sent: number;
  readonly result?: UploadJson;
}

/** The server's HTTP interface, checked at the border. */
@Injectable({ providedIn: 'root' })
export class ApiService {
  private readonly http = inject(HttpClient);

  rack(): Observable<RackJson> {
    return this.http.get('/api/rack').pipe(
      map((body) => v.parse(rackSchema, body)),
      catchError(toApiError),
    );
  }

  upload(files: readonly File[]): Observable<UploadProgress> {
    const form = new FormData();
    for (const file of files) form.append('file', file, file.webkitRelativePath || file.name);
    return this.http.post('/api/files', form, { observe: 'events', reportProgress: true }).pipe(
      map((event): UploadProgress | undefined => {
        if (event.type === HttpEventType.UploadProgress) return { sent: event.total ? event.loaded / event.total : 0 };
        if (event.type === HttpEventType.Response) return { sent: 1, result: v.parse(uploadSchema, event.body) };
        return undefined;
      }),
      filter((progress) => progress !== undefined),
      catchError(toApiError),
    );
  }

  file(hash: string): Observable<ArrayBuffer> {
    return this.http.get(`/api/files/${hash}`, { responseType: 'arraybuffer' }).pipe(catchError(toApiError));
  }

  change(kind: ItemKind, id: string, change: ChangeItem): Observable<unknown> {
    return this.http.patch(`/api/${kind}/${id}`, change).pipe(catchError(toApiError));
  }

  performerAsCharacter(take: string): Observable<CharacterJson> {
    return this.http.post(`/api/takes/${take}/as-character`, null).pipe(
      map((body) => v.parse(characterSchema, body)),
      catchError(toApiError),
    );
  }

  changeTake(id: string, change: ChangeTake): Observable<unknown> {
    return this.http.patch(`/api/takes/${id}/settings`, change).pipe(catchError(toApiError));
  }

  changeSkeleton(id: string, change: ChangeSkeleton): Observable<unknown> {
    return this.http.patch(`/api/skeletons/${id}`, change).pipe(catchError(toApiError));
  }

  addScheme(scheme: SchemeJson['scheme']): Observable<SchemeJson> {
    return this.http.post('/api/schemes', scheme).pipe(
      map((body) => v.parse(schemeSchema, body)),
      catchError(toApiError),
    );
  }

  savePairing(request: SavePairing): Observable<PairingJson> {
    return this.http.put('/api/pairings', request).pipe(
      map((body) => v.parse(pairingSchema, body)),
      catchError(toApiError),
    );
  }

  searchDepot(search: DepotSearch): Observable<DepotPage> {
    const params = Object.fromEntries(Object.entries(search).filter(([, value]) => value !== undefined && value !== '')) as Record<
      string,
      string
    >;
    return this.http.get('/api/depot/motions', { params }).pipe(
      map((body) => v.parse(depotPageSchema, body)),
      catchError(toApiError),
    );
  }

  /** Fetches a motion from the depot, telling how far it has come; unsubscribing ends the fetch. */
  fetchFromDepot(request: DepotFetch): Observable<DepotEvent> {
    let read = 0;
    return this.http.post('/api/depot/fetch', request, { observe: 'events', responseType: 'text', reportProgress: true }).pipe(
      concatMap((event) => {
        const text =
          event.type === HttpEventType.DownloadProgress
            ? (event.partialText ?? '')
            : event.type === HttpEventType.Response
              ? (event.body ?? '')
              : '';
        const end = text.lastIndexOf('\n') + 1;
        if (end <= read) return EMPTY;
        const lines = text.slice(read, end).trim().split('\n');
        read = end;
        return from(lines.map((line) => v.parse(depotEventSchema, JSON.parse(line))));
      }),
      catchError(toApiError),
    );
  }

  saveTransfer(request: SaveTransfer): Observable<TransferJson> {
    return this.http.put('/api/transfers', request).pipe(
      map((body) => v.parse(transferSchema, body)),
      catchError(toApiError),
    );
  }
}

function toApiError(error: unknown): Observable<never> {
  if (error instanceof HttpErrorResponse) {
    const body = v.safeParse(errorSchema, error.error);
    if (body.success) return throwError(() => new ApiError(body.output.error as Fault, error.status));
    const message = error.status === 0 ? 'the server does not answer; is it still running?' : `the server answered ${error.status}`;
    return throwError(() => new ApiError({ code: 'option', message, where: {} }, error.status));
  }
  const message = v.isValiError(error)
    ? `the server's answer was not understood: ${error.message}`
    : error instanceof Error
      ? error.message
      : String(error);
  return throwError(() => new ApiError({ code: 'option', message, where: {} }, 0));
}
