import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import {
  deskStateSchema,
  recordedSchema,
  type DeskState,
  type RecordedJson,
  type RecordRequest,
  type RingSettings,
} from '@hollow-stride/contract';
import { Observable } from 'rxjs';
import * as v from 'valibot';
import { read } from '../../api/answers';

/** What comes over the line of the desk. */
export type DeskTold =
  | { readonly kind: 'state'; readonly state: DeskState }
  | { readonly kind: 'frame'; readonly session: string; readonly bytes: Uint8Array }
  /** The line to the server is lost; it is taken up again by itself. */
  | { readonly kind: 'lost' };

/** A lost line is taken up again after so long, ms. */
const AGAIN = 1000;

/** The server's side of the capture desk. */
@Injectable({ providedIn: 'root' })
export class DeskService {
  private readonly http = inject(HttpClient);

  /** All that comes in, for as long as somebody watches. */
  watch(): Observable<DeskTold> {
    return new Observable((subscriber) => {
      let line: WebSocket | undefined;
      let timer: ReturnType<typeof setTimeout> | undefined;
      const open = (): void => {
        line = new WebSocket(`${location.origin.replace(/^http/, 'ws')}/api/desk/watch`);
        line.binaryType = 'arraybuffer';
        line.onmessage = ({ data }: MessageEvent<string | ArrayBuffer>) => {
          if (typeof data === 'string') {
            const state = v.safeParse(deskStateSchema, JSON.parse(data));
            if (state.success) subscriber.next({ kind: 'state', state: state.output });
            return;
          }
          const bytes = new Uint8Array(data);
          const length = bytes[0];
          subscriber.next({
            kind: 'frame',
            session: new TextDecoder().decode(bytes.subarray(1, 1 + length)),
            bytes: bytes.slice(1 + length),
          });
        };
        line.onclose = () => {
          subscriber.next({ kind: 'lost' });
          timer = setTimeout(open, AGAIN);
        };
      };
      open();
      return () => {
        clearTimeout(timer);
        if (line) line.onclose = null;
        line?.close();
      };
    });
  }

  connect(settings: RingSettings): Observable<DeskState> {
    return read(deskStateSchema, this.http.post('/api/desk/device', settings));
  }

  disconnect(): Observable<DeskState> {
    return read(deskStateSchema, this.http.delete('/api/desk/device'));
  }

  record(request: RecordRequest): Observable<DeskState> {
    return read(deskStateSchema, this.http.post('/api/desk/record', request));
  }

  stop(): Observable<RecordedJson> {
    return read(recordedSchema, this.http.post('/api/desk/stop', {}));
  }
}
