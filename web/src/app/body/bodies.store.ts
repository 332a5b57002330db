import { inject, Injectable } from '@angular/core';
import type { Fault } from '@hollow-stride/core';
import {
  catchError,
  combineLatest,
  debounceTime,
  distinctUntilChanged,
  map,
  type Observable,
  of,
  scan,
  shareReplay,
  startWith,
  switchMap,
} from 'rxjs';
import { ProjectStore } from '../project/project.store';
import type { BodySource } from '../solver/messages';
import { faultOf } from '../solver/worker-client';
import { BodyService } from './body.service';
import type { BodyView } from './messages';

export type Party = 'performer' | 'character';

export interface BodyState {
  /** The last good view; it stays while the next is on its way. */
  readonly view: BodyView | undefined;
  readonly fault: Fault | undefined;
}

const NOTHING: BodyState = { view: undefined, fault: undefined };

/** The skeletons of the chosen take and character as they are labelled now; found anew when a decision changes. */
@Injectable({ providedIn: 'root' })
export class BodiesStore {
  private readonly project = inject(ProjectStore);
  private readonly service = inject(BodyService);

  readonly performer$ = this.follow(
    combineLatest([this.project.take$, this.project.rack$]).pipe(
      map(([take]) => {
        if (!take) return undefined;
        const { file, name, clip, skeleton, reference } = this.project.takeSource(take);
        return { file, name, clip, skeleton, reference };
      }),
    ),
  );
  readonly character$ = this.follow(
    combineLatest([this.project.character$, this.project.rack$]).pipe(
      map(([character]) => character && this.project.characterSource(character)),
    ),
  );

  of(party: Party): Observable<BodyState> {
    return party === 'performer' ? this.performer$ : this.character$;
  }

  private follow(source$: Observable<BodySource | undefined>): Observable<BodyState> {
    return source$.pipe(
      debounceTime(0),
      distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
      switchMap((source): Observable<BodyState & { file?: string }> => {
        if (!source) return of(NOTHING);
        return this.service.body(source).pipe(
          map((view) => ({ view, fault: undefined, file: source.file })),
          catchError((error: unknown) => of({ view: undefined, fault: faultOf(error), file: source.file })),
          // Another file's body leaves at once; the same one stays until its next view.
          startWith({ view: undefined, fault: undefined, file: source.file }),
        );
      }),
      scan((before: BodyState & { file?: string }, next: BodyState & { file?: string }) => {
        const stays = next.view === undefined && next.fault === undefined && before.file === next.file;
        return stays ? before : next;
      }, NOTHING),
      startWith(NOTHING),
      distinctUntilChanged(),
      shareReplay(1),
    );
  }
}
