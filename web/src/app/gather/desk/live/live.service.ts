import { Injectable } from '@angular/core';
import { Observable, type Subscription } from 'rxjs';
import type { LiveAsk, LiveRequest, LiveTold } from './messages';

/** Live transfers, each in a web worker of its own. */
@Injectable({ providedIn: 'root' })
export class LiveService {
  /** Transfers frames for as long as somebody listens. */
  transfer(request: LiveRequest, frames$: Observable<Uint8Array>): Observable<LiveTold> {
    return new Observable((subscriber) => {
      const worker = new Worker(new URL('./live.worker', import.meta.url), { type: 'module' });
      const post = (ask: LiveAsk): void => worker.postMessage(ask);
      worker.addEventListener('message', ({ data }: MessageEvent<LiveTold>) => subscriber.next(data));
      worker.addEventListener('error', ({ message }) =>
        subscriber.next({ kind: 'failed', fault: { code: 'option', message: `the live transfer stopped: ${message}`, where: {} } }),
      );
      post({ kind: 'begin', request });
      const frames: Subscription = frames$.subscribe((bytes) => post({ kind: 'frame', bytes }));
      return () => {
        frames.unsubscribe();
        worker.terminate();
      };
    });
  }
}
