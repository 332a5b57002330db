import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { CharacterJson, SolveChoices, SummaryJson, TakeJson } from '@hollow-stride/contract';
import type { Fault, Figures } from '@hollow-stride/core';
import { BehaviorSubject, catchError, combineLatest, debounceTime, distinctUntilChanged, EMPTY, map, of, switchMap, tap } from 'rxjs';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import type { PairRequest, Solved } from '../solver/messages';
import { SolverError, SolverService } from '../solver/solver.service';

export interface SolveState {
  readonly take: TakeJson | undefined;
  readonly character: CharacterJson | undefined;
  readonly choices: SolveChoices;
  /** The last good result; it stays in sight while the next is on its way. */
  readonly solved: Solved | undefined;
  readonly busy: boolean;
  readonly fault: Fault | undefined;
}

/** Holds the pair that is being solved and its result; solves again when take, character or a choice changes. */
@Injectable({ providedIn: 'root' })
export class SolveStore {
  private readonly project = inject(ProjectStore);
  private readonly solver = inject(SolverService);
  private readonly subject = new BehaviorSubject<SolveState>({
    take: undefined,
    character: undefined,
    choices: DEFAULT_CHOICES,
    solved: undefined,
    busy: false,
    fault: undefined,
  });
  readonly state$ = this.subject.asObservable();
  private readonly past: SolveChoices[] = [];
  private readonly future: SolveChoices[] = [];

  constructor() {
    combineLatest([this.project.take$, this.project.character$])
      .pipe(debounceTime(0), takeUntilDestroyed())
      .subscribe(([take, character]) => {
        const same = take?.id === this.state.take?.id && character?.id === this.state.character?.id;
        const choices = take && character && !same ? this.project.choicesFor(take, character) : this.state.choices;
        if (!same) {
          this.past.length = 0;
          this.future.length = 0;
        }
        this.patch({ take, character, choices, ...(same ? {} : { solved: undefined, fault: undefined }) });
      });
    this.subject
      .pipe(
        map(({ take, character, choices }) => (take && character ? pairRequest(take, character, choices) : undefined)),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        switchMap((pair) => {
          if (!pair) return EMPTY;
          this.patch({ busy: true });
          return this.solver.solve(pair).pipe(
            tap((solved) => {
              this.patch({ solved, busy: false, fault: undefined });
              this.keep(solved);
            }),
            catchError((error: unknown) => {
              const fault: Fault = error instanceof SolverError ? error.fault : { code: 'option', message: String(error), where: {} };
              this.patch({ busy: false, fault });
              return of(undefined);
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

  get canUndo(): boolean {
    return this.past.length > 0;
  }

  get canRedo(): boolean {
    return this.future.length > 0;
  }

  change(change: Partial<SolveChoices>): void {
    const choices = { ...this.state.choices, ...change };
    if (JSON.stringify(choices) === JSON.stringify(this.state.choices)) return;
    this.past.push(this.state.choices);
    this.future.length = 0;
    this.patch({ choices });
  }

  undo(): void {
    const choices = this.past.pop();
    if (!choices) return;
    this.future.push(this.state.choices);
    this.patch({ choices });
  }

  redo(): void {
    const choices = this.future.pop();
    if (!choices) return;
    this.past.push(this.state.choices);
    this.patch({ choices });
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

export function pairRequest(take: TakeJson, character: CharacterJson, choices: SolveChoices): PairRequest {
  return {
    take: { file: take.file, name: take.fileName, clip: take.clip },
    character: { file: character.file, name: character.fileName },
    choices,
  };
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
