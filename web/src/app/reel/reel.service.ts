import { DestroyRef, inject, Injectable } from '@angular/core';
import type { Cycle, DeliveryChoices, Joining } from '@hollow-stride/core';
import { filter, map, type Observable } from 'rxjs';
import type { FindRequest, Progress, ReelPlayed, ReelRequest, SolverAsk, SolverGives } from '../solver/messages';
import { WorkerClient } from '../solver/worker-client';

/** Reels in a worker of their own, so that a solve does not wait for one; unsubscribing ends the work. */
@Injectable({ providedIn: 'root' })
export class ReelService {
  private readonly client = new WorkerClient<SolverAsk, SolverGives>(
    () => new Worker(new URL('../solver/solver.worker', import.meta.url), { type: 'module' }),
  );

  constructor() {
    inject(DestroyRef).onDestroy(() => this.client.close());
  }

  play(reel: ReelRequest, progress: (now: Progress) => void): Observable<ReelPlayed> {
    return this.client.ask({ kind: 'reel', reel }, progress).pipe(
      filter((answer) => answer.kind === 'reel'),
      map((answer) => answer.reel),
    );
  }

  find(what: FindRequest): Observable<{ readonly cycle?: Cycle; readonly joining?: Joining }> {
    return this.client.ask({ kind: 'find', what }).pipe(filter((answer) => answer.kind === 'found'));
  }

  /** @param lanes of one character; several become motions of one GLB file by their names */
  deliver(reel: ReelRequest, lanes: readonly number[], delivery: DeliveryChoices): Observable<Uint8Array<ArrayBuffer>> {
    return this.client.ask({ kind: 'deliver-lanes', reel, lanes, delivery }).pipe(
      filter((answer) => answer.kind === 'lane'),
      map((answer) => answer.bytes),
    );
  }
}
