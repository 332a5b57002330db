import { DEFAULT_TAKE, type TakeChoices } from '@hollow-stride/core';
import type { SaveTouchUpSet, SolveChoices, TouchUpSetJson } from '@hollow-stride/contract';
import { BehaviorSubject, map } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import { KeptStore } from '../solve/kept.store';
import { SolveStore } from '../solve/solve.store';
import { editsToProject } from './edits';
import { makeSolved } from './solved';

/** A solved pair without a server or a worker: what is decided is kept here, each step with its words. */
export function makePair() {
  const solved = makeSolved();
  const take = new BehaviorSubject<TakeChoices>(DEFAULT_TAKE);
  const choices = new BehaviorSubject<SolveChoices>(DEFAULT_CHOICES);
  const rack = new BehaviorSubject<{ sets: TouchUpSetJson[] }>({ sets: [] });
  const steps: string[] = [];
  const now = () => ({ take: { id: 't1', choices: take.value }, character: { id: 'c1' }, choices: choices.value, request: undefined });
  return {
    solved,
    take,
    choices,
    steps,
    rack,
    providers: [
      {
        provide: PairStore,
        useValue: {
          pair$: choices.pipe(map(now)),
          get now() {
            return now();
          },
        },
      },
      { provide: SolveStore, useValue: { state: { solved }, state$: new BehaviorSubject({ solved }) } },
      {
        provide: KeptStore,
        useValue: {
          waitFor: () => undefined,
          change: (change: Partial<SolveChoices>, text: string) => {
            steps.push(text);
            choices.next({ ...choices.value, ...change });
          },
        },
      },
      ...editsToProject,
      {
        provide: ProjectStore,
        useValue: {
          rack$: rack,
          addSet: (set: SaveTouchUpSet) =>
            rack.next({ sets: [...rack.value.sets, { ...set, id: `s${rack.value.sets.length}`, version: 1, addedAt: '' }] }),
          changeTake: (_id: string, change: { choices: TakeChoices }, text: string) => {
            steps.push(text);
            take.next(change.choices);
          },
        },
      },
    ],
  };
}
