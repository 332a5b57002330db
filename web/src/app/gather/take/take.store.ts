import { inject, Injectable } from '@angular/core';
import type { TakeJson } from '@hollow-stride/contract';
import type { Fault, TakeChoices } from '@hollow-stride/core';
import { BehaviorSubject, catchError, combineLatest, debounceTime, distinctUntilChanged, map, of, switchMap, tap } from 'rxjs';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { BodyService } from '../../body/body.service';
import type { TakeView } from '../../body/messages';
import { EditsStore } from '../../project/edits.store';
import { ProjectStore } from '../../project/project.store';
import { faultOf } from '../../solver/worker-client';

export interface TakeState {
  readonly take: TakeJson | undefined;
  /** The last good view; it stays while the next is on its way. */
  readonly view: TakeView | undefined;
  readonly fault: Fault | undefined;
  readonly busy: boolean;
}

/** One take's own page: what is set of it, and what that makes of it. */
@Injectable({ providedIn: 'root' })
export class TakeStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  private readonly bodies = inject(BodyService);
  private readonly id = new BehaviorSubject<string | undefined>(undefined);
  private readonly subject = new BehaviorSubject<TakeState>({ take: undefined, view: undefined, fault: undefined, busy: false });
  readonly state$ = this.subject.asObservable();

  constructor() {
    combineLatest([this.id, this.project.rack$])
      .pipe(
        map(([id, rack]) => rack.takes.find((take) => take.id === id)),
        distinctUntilChanged(),
        tap((take) => this.patch({ take, ...(take?.id === this.subject.value.take?.id ? {} : { view: undefined, fault: undefined }) })),
        map((take) => take && this.project.takeSource(take)),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        tap((source) => this.patch({ busy: source !== undefined })),
        debounceTime(60),
        switchMap((source) =>
          source
            ? this.bodies.take(source).pipe(
                map((view) => ({ view, fault: undefined, busy: false })),
                catchError((error: unknown) => of({ fault: faultOf(error), busy: false })),
              )
            : of({ busy: false }),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((change) => this.patch(change));
  }

  get state(): TakeState {
    return this.subject.value;
  }

  open(id: string | undefined): void {
    this.id.next(id);
  }

  /** Changes what is set of the take; a step that can be taken back. */
  set(change: Partial<TakeChoices>, text: string, key?: string): void {
    const { take } = this.state;
    if (take) this.edits.changeTake(take.id, { choices: { ...take.choices, ...change } }, `${text}, ${take.name}`, key);
  }

  setTags(text: string): void {
    const { take } = this.state;
    const tags = [...new Set(text.split(',').map((tag) => tag.trim().slice(0, 40)))].filter((tag) => tag !== '').slice(0, 20);
    if (take) this.edits.changeTake(take.id, { tags }, `tag ${take.name}`);
  }

  setNote(note: string): void {
    const { take } = this.state;
    if (take) this.edits.changeTake(take.id, { note: note.slice(0, 2000) }, `note on ${take.name}`, 'note');
  }

  private patch(change: Partial<TakeState>): void {
    this.subject.next({ ...this.subject.value, ...change });
  }
}
