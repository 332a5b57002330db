/** How answers of the server are read: as the contract has them, item by item, line by line; and what is said where they fail. */
import { type HttpDownloadProgressEvent, HttpErrorResponse, type HttpEvent, HttpEventType } from '@angular/common/http';
import { conflictSchema, errorSchema, type ItemKind } from '@hollow-stride/contract';
import type { Fault } from '@hollow-stride/core';
import { catchError, concatMap, EMPTY, from, map, type Observable, of, type OperatorFunction, throwError } from 'rxjs';
import * as v from 'valibot';

/** A refusal by the server, or the lack of one, as a fault that can be shown. */
export class ApiError extends Error {
  constructor(
    readonly fault: Fault,
    readonly status: number,
    /** Of a refused edit (409): what the row is now, null where it is gone; undefined for any other error. */
    readonly current?: unknown,
  ) {
    super(fault.message);
  }
}

/** Something on the rack that the page cannot read: it can still be downloaded and taken off. */
export interface Unreadable {
  readonly kind: ItemKind;
  readonly id: string;
  readonly name: string;
  /** Its file's content, where it has one. */
  readonly file: string | undefined;
  readonly why: string;
}

/** An answer as the contract has it. */
export function read<S extends v.GenericSchema>(schema: S, answer: Observable<unknown>): Observable<v.InferOutput<S>> {
  return answer.pipe(
    map((body) => v.parse(schema, body)),
    catchError(toApiError),
  );
}

const NAMED = v.object({ id: v.string(), name: v.optional(v.string()), file: v.optional(v.string()) });

/** The items that are understood; the others are put aside with what can be said of them. @param kind undefined drops those */
export function readItems<S extends v.GenericSchema>(
  schema: S,
  items: readonly unknown[],
  kind: ItemKind | undefined,
  unreadable: Unreadable[],
): v.InferOutput<S>[] {
  return items.flatMap((item) => {
    const result = v.safeParse(schema, item);
    if (result.success) return [result.output];
    const named = v.safeParse(NAMED, item);
    if (kind && named.success) {
      const [{ message, path }] = result.issues;
      const place = path?.map(({ key }: { key: unknown }) => String(key)).join('.');
      const { id, name = 'without a name', file } = named.output;
      unreadable.push({ kind, id, name, file, why: place ? `${place}: ${message}` : message });
    }
    return [];
  });
}

/**
 * The JSON objects of an answer that comes one a line, each as soon as its line is whole.
 * @param other what other events tell, if anything
 */
export function eachLine<S extends v.GenericSchema, O = never>(
  schema: S,
  other?: (event: HttpEvent<string>) => O | undefined,
): OperatorFunction<HttpEvent<string>, v.InferOutput<S> | O> {
  return (events) => {
    let read = 0;
    return events.pipe(
      concatMap((event): Observable<v.InferOutput<S> | O> => {
        const more = other?.(event);
        if (more !== undefined) return of(more);
        const text =
          event.type === HttpEventType.DownloadProgress
            ? ((event as HttpDownloadProgressEvent).partialText ?? '')
            : event.type === HttpEventType.Response
              ? (event.body ?? '')
              : '';
        const end = text.lastIndexOf('\n') + 1;
        if (end <= read) return EMPTY;
        const lines = text.slice(read, end).trim().split('\n');
        read = end;
        return from(lines.map((line) => v.parse(schema, JSON.parse(line))));
      }),
    );
  };
}

/** The fault inside an error answer that was read as text. */
function asJson(body: unknown): unknown {
  if (typeof body !== 'string') return body;
  try {
    return JSON.parse(body);
  } catch {
    return undefined;
  }
}

/** A failed request as a fault that can be shown. */
export function toApiError(error: unknown): Observable<never> {
  if (error instanceof HttpErrorResponse) {
    const conflict = v.safeParse(conflictSchema, asJson(error.error));
    const body = v.safeParse(errorSchema, asJson(error.error));
    const current = conflict.success ? conflict.output.current : undefined;
    if (body.success) return throwError(() => new ApiError(body.output.error as Fault, error.status, current));
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
