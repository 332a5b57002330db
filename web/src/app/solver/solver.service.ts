import { DestroyRef, inject, Injectable } from '@angular/core';
import type { ClapsFound, DeliveryChoices } from '@hollow-stride/core';
import { filter, map, type Observable } from 'rxjs';
import type { Delivered, PairRequest, Preview, Progress, RecordingSource, Solved, SolverAsk, SolverGives, SoundShown } from './messages';
import { WorkerClient } from './worker-client';

/** The solve in its web worker; unsubscribing ends it. */
@Injectable({ providedIn: 'root' })
export class SolverService {
  private readonly client = new WorkerClient<SolverAsk, SolverGives>(
    () => new Worker(new URL('./solver.worker', import.meta.url), { type: 'module' }),
  );

  constructor() {
    inject(DestroyRef).onDestroy(() => this.client.close());
  }

  /** @param progress told how far the solve is */
  solve(pair: PairRequest, progress?: (now: Progress) => void): Observable<Solved> {
    return this.client.ask({ kind: 'solve', pair }, progress).pipe(
      filter((answer) => answer.kind === 'solved'),
      map((answer) => answer.solved),
    );
  }

  /** Ends the solve that is under way, in the middle of it. */
  cancel(): void {
    this.client.cancel();
  }

  /** The motion alone, unjudged, as soon as can be. @param frame about which a long take is solved first; the whole where none is given */
  preview(pair: PairRequest, frame?: number): Observable<Preview> {
    return this.client.ask({ kind: 'preview', pair, frame }).pipe(
      filter((answer) => answer.kind === 'preview'),
      map((answer) => answer.preview),
    );
  }

  /** A sound as it is drawn. */
  sound(sound: RecordingSource): Observable<SoundShown> {
    return this.client.ask({ kind: 'sound', sound }).pipe(
      filter((answer) => answer.kind === 'sound'),
      map((answer) => answer.sound),
    );
  }

  /** Where a sound must begin for the claps that are heard and seen to agree. */
  claps(pair: PairRequest, sound: RecordingSource): Observable<ClapsFound> {
    return this.client.ask({ kind: 'claps', pair, sound }).pipe(
      filter((answer) => answer.kind === 'claps'),
      map((answer) => answer.claps),
    );
  }

  deliver(pair: PairRequest, delivery: DeliveryChoices): Observable<Delivered> {
    return this.client.ask({ kind: 'deliver', pair, delivery }).pipe(
      filter((answer) => answer.kind === 'delivered'),
      map((answer) => answer.delivered),
    );
  }
}
