import { summaryOf } from '@hollow-stride/core';
import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { SolveChoices } from '@hollow-stride/contract';
import type { Verdict } from '@hollow-stride/core';
import { combineLatest, distinctUntilChanged, filter, map, type Observable } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import type { Solved } from '../solver/messages';
import { SolveStore, type SolveState } from './solve.store';

/**
 * Kept transfers: one is stored when a person keeps it, delivers it, or changes something in it that was kept or is changed
 * here; never because a row was clicked.
 */
@Injectable({ providedIn: 'root' })
export class KeptStore {
  private readonly project = inject(ProjectStore);
  private readonly items = inject(ItemsStore);
  private readonly pairs = inject(PairStore);
  private readonly solve = inject(SolveStore);
  /** The pair whose next result is to be kept, as a person has changed something in it. */
  private waiting: string | undefined;

  /** Whether the pair that is looked at is among the kept transfers. */
  readonly isKept$: Observable<boolean> = combineLatest([this.solve.state$, this.project.rack$]).pipe(
    map(([state]) => this.isKept(state)),
    distinctUntilChanged(),
  );

  constructor() {
    this.solve.state$
      .pipe(
        map(({ result }) => result),
        distinctUntilChanged(),
        filter((result) => result !== undefined),
        takeUntilDestroyed(),
      )
      .subscribe((result) => {
        // A change that has not come as far as the solve is part of what is waited for.
        const isOf = JSON.stringify(this.pairs.now.request) === JSON.stringify(result.pair);
        if (isOf && this.waiting !== undefined && this.waiting === keyOf(this.solve.state))
          this.store(result.report.verdict, result.pair.choices);
      });
  }

  /** Changes choices of the pair; its next result is kept. */
  change(change: Partial<SolveChoices>, text?: string, key?: string): void {
    this.waitFor();
    this.pairs.change(change, text, key);
  }

  /** Something is about to change in the pair: its next result is kept. */
  waitFor(): void {
    this.waiting = keyOf(this.solve.state);
  }

  /** Keeps the result of what is on screen: the one that is there, or the one that is on its way. */
  keep(): void {
    const { result } = this.solve.state;
    if (result && JSON.stringify(this.pairs.now.request) === JSON.stringify(result.pair))
      this.store(result.report.verdict, result.pair.choices);
    else this.waitFor();
  }

  /** Keeps what was delivered, with the choices that it was delivered by. */
  delivered(verdict: Verdict, choices: SolveChoices): void {
    this.store(verdict, choices);
  }

  private store(verdict: Verdict, choices: Solved['pair']['choices']): void {
    const { take, character } = this.solve.state;
    this.waiting = undefined;
    if (take && character) this.items.saveTransfer({ take: take.id, character: character.id, choices, summary: summaryOf(verdict) });
  }

  private isKept({ take, character }: Pick<SolveState, 'take' | 'character'>): boolean {
    return this.project.state.rack.transfers.some((kept) => kept.take === take?.id && kept.character === character?.id);
  }
}

const keyOf = ({ take, character }: Pick<SolveState, 'take' | 'character'>): string => `${take?.id} ${character?.id}`;
