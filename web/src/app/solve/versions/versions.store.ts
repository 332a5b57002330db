import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { SolveChoices, VersionJson } from '@hollow-stride/contract';
import { joinChoices, type Fault, type JoinPart } from '@hollow-stride/core';
import {
  BehaviorSubject,
  catchError,
  combineLatest,
  distinctUntilChanged,
  map,
  type Observable,
  of,
  shareReplay,
  startWith,
  switchMap,
} from 'rxjs';
import { PairStore } from '../../pair/pair.store';
import { ItemsStore } from '../../project/items.store';
import { ProjectStore } from '../../project/project.store';
import type { PairRequest, Solved } from '../../solver/messages';
import { SolverService } from '../../solver/solver.service';
import { faultOf } from '../../solver/worker-client';
import { KeptStore } from '../kept.store';

/** A version of the pair's settings beside those that are in use. */
export interface Compared {
  readonly version: VersionJson;
  /** Its result on the take; undefined until it is solved, or when it cannot be solved. */
  readonly solved: Solved | undefined;
  readonly fault: Fault | undefined;
}

/** Parts that are taken over from a version, as people call them. */
export const PART_NAMES: Readonly<Record<JoinPart, string>> = {
  arms: 'its arms',
  legs: 'its legs',
  trunk: 'its trunk and head',
  way: 'its way and hips',
};

/** Settings of the pair kept under names: gone back to, compared over each other, joined part by part. */
@Injectable({ providedIn: 'root' })
export class VersionsStore {
  private readonly project = inject(ProjectStore);
  private readonly items = inject(ItemsStore);
  private readonly pairs = inject(PairStore);
  private readonly kept = inject(KeptStore);
  private readonly solver = inject(SolverService);
  private readonly chosen = new BehaviorSubject<string | undefined>(undefined);

  /** Versions of the pair that is looked at, the newest first. */
  readonly versions$: Observable<readonly VersionJson[]> = combineLatest([this.project.rack$, this.pairs.pair$]).pipe(
    map(([{ versions }, { take, character }]) =>
      versions.filter((version) => version.performer === take?.skeleton && version.character === character?.id).reverse(),
    ),
    distinctUntilChanged((a, b) => a.length === b.length && a.every((version, i) => version === b[i])),
    shareReplay({ bufferSize: 1, refCount: true }),
  );

  /** The version that is compared, solved on the take that is looked at. */
  readonly compared$: Observable<Compared | undefined> = combineLatest([this.chosen, this.versions$, this.pairs.pair$]).pipe(
    map(([id, versions, { take, character }]) => {
      const version = versions.find((one) => one.id === id);
      return version && take && character ? { version, request: this.project.pairRequest(take, character, version.choices) } : undefined;
    }),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    switchMap((one) => (one ? this.solve(one.version, one.request) : of(undefined))),
    takeUntilDestroyed(),
    shareReplay({ bufferSize: 1, refCount: true }),
  );

  get comparedId(): string | undefined {
    return this.chosen.value;
  }

  /** Keeps the settings in use under a name. */
  keep(name: string): void {
    const { take, character, choices } = this.pairs.now;
    if (take && character) this.items.addVersion({ name, performer: take.skeleton, character: character.id, choices });
  }

  /** Compares a version with what is in use; the same again, or undefined, ends it. */
  compare(id: string | undefined): void {
    this.chosen.next(this.chosen.value === id ? undefined : id);
  }

  /** Puts a version's settings in use. */
  use({ name, choices }: VersionJson): void {
    this.kept.change(choices, `use the version ${name}`);
  }

  /** Takes what concerns one part of the body over from a version. */
  take({ name, choices }: VersionJson, part: JoinPart): void {
    const joined = joinChoices<SolveChoices['touchUps'][number], SolveChoices>(this.pairs.now.choices, choices, part);
    this.kept.change(joined, `take ${PART_NAMES[part]} from the version ${name}`);
  }

  remove({ id, name }: VersionJson): void {
    if (this.chosen.value === id) this.compare(undefined);
    this.items.remove('versions', id, name);
  }

  private solve(version: VersionJson, request: PairRequest): Observable<Compared> {
    return this.solver.solve(request).pipe(
      map((solved): Compared => ({ version, solved, fault: undefined })),
      catchError((error: unknown) => of<Compared>({ version, solved: undefined, fault: faultOf(error) })),
      startWith<Compared>({ version, solved: undefined, fault: undefined }),
    );
  }
}
