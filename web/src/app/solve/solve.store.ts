import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { CharacterJson, SolveChoices, TakeJson } from '@hollow-stride/contract';
import type { Fault } from '@hollow-stride/core';
import {
  BehaviorSubject,
  catchError,
  concat,
  defer,
  distinctUntilChanged,
  EMPTY,
  filter,
  ignoreElements,
  map,
  startWith,
  Subject,
  switchMap,
  tap,
  timer,
  type Observable,
} from 'rxjs';
import { PairStore, type CurrentPair } from '../pair/pair.store';
import { DEFAULT_CHOICES } from '../project/project.store';
import type { PairRequest, Progress, Solved } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { CANCELLED, faultOf } from '../solver/worker-client';
import { PlaybackService } from '../timeline/playback.service';

export interface SolveState {
  readonly take: TakeJson | undefined;
  readonly character: CharacterJson | undefined;
  readonly choices: SolveChoices;
  /** All that the solve depends on. */
  readonly pair: PairRequest | undefined;
  /** The state on screen: the last good result, with the motion of a preview in it while the next result is on its way. */
  readonly solved: Solved | undefined;
  /** The whole result of exactly what is decided now; undefined while it is on its way. */
  readonly result: Solved | undefined;
  readonly busy: boolean;
  /** How far the solve is, where it takes long enough to be told. */
  readonly progress: Progress | undefined;
  /** A person has cancelled the solve of what is decided now. */
  readonly cancelled: boolean;
  readonly fault: Fault | undefined;
}

/** A dial that turns asks for many solves: the take is judged when it has stood still for this long, ms. */
const SETTLED = 150;

const isSame = (a: PairRequest | undefined, b: PairRequest | undefined): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Solves the current pair, and again when anything changes that it depends on. It keeps nothing: that is `KeptStore`'s. */
@Injectable({ providedIn: 'root' })
export class SolveStore {
  private readonly pairs = inject(PairStore);
  private readonly solver = inject(SolverService);
  private readonly playback = inject(PlaybackService);
  private readonly subject = new BehaviorSubject<SolveState>({
    take: undefined,
    character: undefined,
    choices: DEFAULT_CHOICES,
    pair: undefined,
    solved: undefined,
    result: undefined,
    busy: false,
    progress: undefined,
    cancelled: false,
    fault: undefined,
  });
  readonly state$ = this.subject.asObservable();
  private readonly again = new Subject<void>();

  constructor() {
    this.pairs.pair$
      .pipe(
        tap((pair) => this.follow(pair)),
        map(({ request }) => request),
        distinctUntilChanged(isSame),
        switchMap((pair) =>
          this.again.pipe(
            startWith(undefined),
            map(() => pair),
          ),
        ),
        switchMap((pair) => {
          this.patch({ busy: pair !== undefined, result: undefined, progress: undefined, cancelled: false });
          if (!pair) return EMPTY;
          const whole = defer(() => this.solver.solve(pair, (progress) => this.patch({ progress }))).pipe(
            // One of other choices than those that were asked for is not what is waited for, however it came.
            filter((solved) => isSame(solved.pair, pair)),
            tap((solved) => this.patch({ solved, result: solved, busy: false, progress: undefined, fault: undefined })),
          );
          return concat(this.previews(pair), whole).pipe(
            catchError((error: unknown) => {
              const fault = faultOf(error);
              if (fault.message === CANCELLED) this.patch({ busy: false, progress: undefined, cancelled: true });
              else this.patch({ busy: false, progress: undefined, fault });
              return EMPTY;
            }),
          );
        }),
        takeUntilDestroyed(),
      )
      .subscribe();
  }

  get state(): SolveState {
    return this.subject.value;
  }

  /** Ends the solve that is under way. */
  cancel(): void {
    this.solver.cancel();
  }

  /** Solves what was cancelled after all. */
  solveAgain(): void {
    this.again.next();
  }

  /** Shows what a change does to the motion at once, of a long take about the frame that is shown; all of it when it has settled. */
  private previews(pair: PairRequest): Observable<never> {
    if (!this.state.solved) return EMPTY;
    let isWhole = false;
    const preview = (frame?: number): Observable<never> =>
      this.solver.preview(pair, frame).pipe(
        tap(({ isWhole: whole, ...preview }) => {
          isWhole = whole;
          const shown = this.state.solved;
          // Another rate or range is another take: its frames come with the whole result.
          if (shown && preview.solved.frames === shown.take.frames) this.patch({ solved: { ...shown, ...preview } });
        }),
        ignoreElements(),
      );
    return concat(preview(this.playback.state.frame), timer(SETTLED).pipe(switchMap(() => (isWhole ? EMPTY : preview()))));
  }

  private follow({ take, character, choices, request }: CurrentPair): void {
    const same = take?.id === this.state.take?.id && character?.id === this.state.character?.id;
    this.patch({ take, character, choices, pair: request, ...(same ? {} : { solved: undefined, result: undefined, fault: undefined }) });
  }

  private patch(change: Partial<SolveState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}
