import { DestroyRef, inject, Injectable } from '@angular/core';
import type { PairingSettings, Press, Recipe, SavedRest, Turns } from '@hollow-stride/core';
import { map, type Observable } from 'rxjs';
import type { BodySource, PairRequest, TakeSource } from '../solver/messages';
import { WorkerClient } from '../solver/worker-client';
import type { BodyAsk, BodyGives, BodyView, JointsView, MatchView, TakeView } from './messages';

type Given<K extends BodyGives['kind']> = Extract<BodyGives, { kind: K }>;

/** Questions about bodies, takes and pairings, answered by a worker of their own so that they never wait for a solve. */
@Injectable({ providedIn: 'root' })
export class BodyService {
  private readonly client = new WorkerClient<BodyAsk, BodyGives>(
    () => new Worker(new URL('./body.worker', import.meta.url), { type: 'module' }),
  );

  constructor() {
    inject(DestroyRef).onDestroy(() => this.client.close());
  }

  body(source: BodySource): Observable<BodyView> {
    return this.ask({ kind: 'body', source }).pipe(map(({ view }) => view));
  }

  take(source: TakeSource): Observable<TakeView> {
    return this.ask({ kind: 'take', source }).pipe(map(({ view }) => view));
  }

  /** @param frame the frame that is looked at; it is right first */
  match(pair: PairRequest, frame: number): Observable<MatchView> {
    return this.ask({ kind: 'match', pair, frame }).pipe(map(({ view }) => view));
  }

  /** A pairing that goes joint by joint. @param frame the frame that is looked at */
  joints(pair: PairRequest, frame: number): Observable<JointsView> {
    return this.ask({ kind: 'joints', pair, frame }).pipe(map(({ view }) => view));
  }

  /** The turns that a press of a rest pose comes to. */
  press(source: BodySource, press: Press): Observable<Turns> {
    return this.ask({ kind: 'press', source, press }).pipe(map(({ turns }) => turns));
  }

  /** A rest pose to be kept: the one in force, or a frame of a take. */
  keep(source: TakeSource, frame: number | undefined, name: string): Observable<SavedRest> {
    return this.ask({ kind: 'keep', source, frame, name }).pipe(map(({ rest }) => rest));
  }

  /** Every decision about a pair as a recipe, measures and all. */
  recipe(pair: PairRequest, name: string): Observable<Recipe> {
    return this.ask({ kind: 'recipe', pair, name }).pipe(map(({ recipe }) => recipe));
  }

  /** The part of a pairing's choices that fits another pair. */
  fit(pair: PairRequest): Observable<{ choices: PairingSettings; dropped: readonly string[] }> {
    return this.ask({ kind: 'fit', pair });
  }

  private ask<K extends BodyAsk['kind']>(request: Extract<BodyAsk, { kind: K }>): Observable<Given<K>> {
    return this.client.ask(request) as unknown as Observable<Given<K>>;
  }
}
