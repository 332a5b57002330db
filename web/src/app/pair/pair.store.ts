import { EditsStore } from '../project/edits.store';
import { inject, Injectable } from '@angular/core';
import type { CharacterJson, SolveChoices, TakeJson } from '@hollow-stride/contract';
import { combineLatest, debounceTime, distinctUntilChanged, map, type Observable, shareReplay } from 'rxjs';
import { DEFAULT_CHOICES, ProjectStore } from '../project/project.store';
import type { PairRequest } from '../solver/messages';

/** The take and the character that are looked at, and what is decided about the two. */
export interface CurrentPair {
  readonly take: TakeJson | undefined;
  readonly character: CharacterJson | undefined;
  readonly choices: SolveChoices;
  /** All that a solve of the pair depends on; undefined until both are chosen. */
  readonly request: PairRequest | undefined;
}

/** The current pair. Looking at one writes nothing; changing what is decided about it is a step that can be taken back. */
@Injectable({ providedIn: 'root' })
export class PairStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);

  readonly pair$: Observable<CurrentPair> = combineLatest([this.project.take$, this.project.character$, this.project.rack$]).pipe(
    debounceTime(0),
    map(([take, character]) => this.of(take, character)),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay({ bufferSize: 1, refCount: false }),
  );

  /** The pair as the rack holds it now: what is observed follows a moment later. */
  get now(): CurrentPair {
    const { rack, selection } = this.project.state;
    return this.of(
      rack.takes.find(({ id }) => id === selection.take),
      rack.characters.find(({ id }) => id === selection.character),
    );
  }

  /** Changes choices of the pair. @param key steps with the same key that follow at once are one */
  change(change: Partial<SolveChoices>, text = `set ${Object.keys(change).join(', ')}`, key?: string): void {
    const { take, character, choices } = this.now;
    if (take && character) this.edits.changePairing(take.skeleton, character.id, { choices: { ...choices, ...change } }, text, key);
  }

  private of(take: TakeJson | undefined, character: CharacterJson | undefined): CurrentPair {
    if (!take || !character) return { take, character, choices: DEFAULT_CHOICES, request: undefined };
    const choices = this.project.choicesFor(take, character);
    return { take, character, choices, request: this.project.pairRequest(take, character, choices) };
  }
}
