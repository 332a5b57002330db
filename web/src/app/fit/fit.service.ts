import { DestroyRef, inject, Injectable } from '@angular/core';
import { filter, map, type Observable } from 'rxjs';
import type { Progress, TakeSource } from '../solver/messages';
import { WorkerClient } from '../solver/worker-client';
import type { BoundView, FitAsk, FitGives, FitSource, LaidView, Picture, PictureView, Tried } from './messages';

/** Fitting a skeleton to a mesh, in a web worker of its own. */
@Injectable({ providedIn: 'root' })
export class FitService {
  private readonly client = new WorkerClient<FitAsk, FitGives>(
    () => new Worker(new URL('./fit.worker', import.meta.url), { type: 'module' }),
  );

  constructor() {
    inject(DestroyRef).onDestroy(() => this.client.close());
  }

  lay(source: FitSource): Observable<LaidView> {
    return this.ask({ kind: 'lay', source }, 'laid').pipe(map(({ laid }) => laid));
  }

  picture(source: FitSource, view: PictureView): Observable<Picture> {
    return this.ask({ kind: 'picture', source, view }, 'picture').pipe(map(({ picture }) => picture));
  }

  bind(source: FitSource, name: string, progress: (now: Progress) => void): Observable<BoundView> {
    return this.ask({ kind: 'bind', source, name }, 'bound', progress).pipe(map(({ bound }) => bound));
  }

  try(source: FitSource, name: string, takes: readonly TakeSource[], progress: (now: Progress) => void): Observable<readonly Tried[]> {
    return this.ask({ kind: 'try', source, name, takes }, 'tried', progress).pipe(map(({ tried }) => tried));
  }

  /** Ends what is under way, in the middle of it. */
  cancel(): void {
    this.client.cancel();
  }

  private ask<K extends FitGives['kind']>(
    ask: FitAsk,
    kind: K,
    progress?: (now: Progress) => void,
  ): Observable<Extract<FitGives, { kind: K }>> {
    return this.client.ask(ask, progress).pipe(filter((gives): gives is Extract<FitGives, { kind: K }> => gives.kind === kind));
  }
}
