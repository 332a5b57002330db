import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { CharacterJson, SolveChoices, SummaryJson, TakeJson } from '@hollow-stride/contract';
import type { Fault, Figures } from '@hollow-stride/core';
import { BehaviorSubject, catchError, combineLatest, debounceTime, distinctUntilChanged, EMPTY, map, switchMap, tap, timer } from 'rxjs';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import type { PairRequest, Solved } from '../solver/messages';
import { SolverService } from '../solver/solver.service';
import { faultOf } from '../solver/worker-client';

export interface SolveState {
  readonly take: TakeJson | undefined;
  readonly character: CharacterJson | undefined;
  readonly choices: SolveChoices;
  /** All that the solve depends on. */
  readonly pair: PairRequest | undefined;
  /** The last good result; it stays in sight while the next is on its way. */
  readonly solved: Solved | undefined;
  readonly busy: boolean;
  readonly fault: Fault | undefined;
}

/** A dial that turns asks for many solves: the whole take is solved when it has stood still for this long, ms. */
const SETTLED = 150;

/** Holds the pair that is being solved and its result; solves again when anything changes that it depends on. */
@Injectable({ providedIn: 'root' })
export class SolveStore {
  private readonly project = inject(ProjectStore);
  private readonly solver = inject(SolverService);
  private readonly subject = new BehaviorSubject<SolveState>({
    take: undefined,
    character: undefined,
    choices: DEFAULT_CHOICES,
    pair: undefined,
    solved: undefined,
    busy: false,
    fault: undefined,
  });
  readonly state$ = this.subject.asObservable();

  constructor() {
    const { take$, character$, rack$ } = this.project;
    combineLatest([take$, character$, rack$])
      .pipe(
        debounceTime(0),
        map(([take, character]) => this.follow(take, character)),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        switchMap((pair) => {
          this.patch({ busy: pair !== undefined });
          if (!pair) return EMPTY;
          return timer(this.state.solved === undefined ? 0 : SETTLED).pipe(
            switchMap(() => this.solver.solve(pair)),
            tap((solved) => {
              this.patch({ solved, busy: false, fault: undefined });
              this.keep(solved);
            }),
            catchError((error: unknown) => {
              this.patch({ busy: false, fault: faultOf(error) });
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

  /** Changes choices of the pair; a step that can be taken back. */
  change(change: Partial<SolveChoices>, text = `set ${Object.keys(change).join(', ')}`, key?: string): void {
    const { take, character } = this.state;
    if (!take || !character) return;
    // What the rack holds now: the state follows it a moment later, and two quick changes must both count.
    const choices = this.project.choicesFor(take, character);
    this.project.changePairing(take.skeleton, character.id, { choices: { ...choices, ...change } }, text, key);
  }

  private follow(take: TakeJson | undefined, character: CharacterJson | undefined): PairRequest | undefined {
    const same = take?.id === this.state.take?.id && character?.id === this.state.character?.id;
    const choices = take && character ? this.project.choicesFor(take, character) : DEFAULT_CHOICES;
    const pair = take && character ? this.project.pairRequest(take, character, choices) : undefined;
    this.patch({ take, character, choices, pair, ...(same ? {} : { solved: undefined, fault: undefined }) });
    return pair;
  }

  private keep({ pair, report }: Solved): void {
    const { take, character } = this.state;
    if (take && character && report.plain) {
      this.project.saveTransfer({
        take: take.id,
        character: character.id,
        choices: pair.choices,
        summary: summaryOf(report.figures, report.plain),
      });
    }
  }

  private patch(change: Partial<SolveState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}

/** The few figures that are kept with a transfer. */
export function summaryOf(solved: Figures, plain: Figures): SummaryJson {
  return {
    slide: solved.slide.sum,
    worstSlide: solved.slide.worst,
    sink: solved.sink.worst,
    float: solved.float,
    armLikeness: solved.likeness.arms,
    legLikeness: solved.likeness.legs,
    pop: solved.pop.ratio,
    flips: solved.flips.count,
    plainSlide: plain.slide.sum,
    plainSink: plain.sink.worst,
    frames: solved.frames,
    plants: solved.plants.length,
  };
}
