import { inject, Injectable } from '@angular/core';
import type { DepotEvent, DepotFetch, DepotPage } from '@hollow-stride/contract';
import { DEFAULT_SKELETON } from '@hollow-stride/core';
import { BehaviorSubject, catchError, debounceTime, distinctUntilChanged, EMPTY, map, of, switchMap, tap, type Subscription } from 'rxjs';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { ApiError } from '../../api/answers';
import { ApiService } from '../../api/api.service';
import { BodyService } from '../../body/body.service';
import type { BodyView } from '../../body/messages';
import { IntakeStore } from '../../project/intake.store';

export interface Wanted {
  readonly text: string;
  readonly tag: string;
  readonly shortest: string;
  readonly longest: string;
  readonly page: number;
}

export interface Fetching {
  readonly title: string;
  readonly received: number;
  readonly total: number;
  /** For people: that the line broke and was taken up again. */
  readonly note: string;
  readonly outcome: 'under way' | 'done' | 'failed' | 'ended';
}

export interface DepotState {
  readonly wanted: Wanted;
  readonly page: DepotPage | undefined;
  readonly searching: boolean;
  readonly fault: string | undefined;
  /** The motion that is looked at. */
  readonly chosen: string | undefined;
  readonly preview: BodyView | undefined;
  readonly options: Omit<DepotFetch, 'id'>;
  readonly fetching: Fetching | undefined;
}

const EVERYTHING: Wanted = { text: '', tag: '', shortest: '', longest: '', page: 0 };

/** The motion depot as it is looked through: a search, a motion that plays, a fetch. */
@Injectable({ providedIn: 'root' })
export class DepotStore {
  private readonly api = inject(ApiService);
  private readonly bodies = inject(BodyService);
  private readonly intake = inject(IntakeStore);
  private readonly subject = new BehaviorSubject<DepotState>({
    wanted: EVERYTHING,
    page: undefined,
    searching: false,
    fault: undefined,
    chosen: undefined,
    preview: undefined,
    options: { travel: 'travelling', fps: 60, body: 'motion', line: 'steady' },
    fetching: undefined,
  });
  readonly state$ = this.subject.asObservable();
  private running: Subscription | undefined;

  constructor() {
    this.state$
      .pipe(
        map(({ wanted }) => wanted),
        distinctUntilChanged(),
        debounceTime(180),
        tap(() => this.patch({ searching: true })),
        switchMap(({ text, tag, shortest, longest, page }) =>
          this.api.searchDepot({ text, tag, page: String(page), ...(shortest ? { shortest } : {}), ...(longest ? { longest } : {}) }).pipe(
            map((found) => ({ page: found, searching: false, fault: undefined })),
            catchError((error: unknown) => of({ searching: false, fault: messageOf(error) })),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((change) => this.patch(change));
    this.state$
      .pipe(
        map(({ chosen }) => chosen),
        distinctUntilChanged(),
        // After the change that it comes of has gone round: a state within a state would be overtaken by it.
        debounceTime(0),
        tap(() => this.patch({ preview: undefined })),
        switchMap((id) =>
          id === undefined
            ? EMPTY
            : this.bodies
                .body({
                  file: `/api/depot/motions/${encodeURIComponent(id)}/preview`,
                  name: `${id}.glb`,
                  clip: 0,
                  skeleton: DEFAULT_SKELETON,
                  reference: null,
                })
                .pipe(
                  map((preview) => ({ preview, fault: undefined })),
                  catchError((error: unknown) => of({ fault: messageOf(error) })),
                ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((change) => this.patch(change));
  }

  get state(): DepotState {
    return this.subject.value;
  }

  /** Searches; another search starts at its first page. */
  search(change: Partial<Wanted>): void {
    this.patch({ wanted: { ...this.state.wanted, page: 0, ...change } });
  }

  choose(id: string): void {
    this.patch({ chosen: id });
  }

  setOptions(change: Partial<DepotState['options']>): void {
    this.patch({ options: { ...this.state.options, ...change } });
  }

  /** Fetches a motion; what is under way is ended. */
  fetch(id: string, title: string): void {
    this.end();
    const start: Fetching = { title, received: 0, total: 0, note: '', outcome: 'under way' };
    this.patch({ fetching: start });
    this.running = this.api.fetchFromDepot({ id, ...this.state.options }).subscribe({
      next: (event) => this.told(event),
      error: (error: unknown) => this.patchFetch({ outcome: 'failed', note: messageOf(error) }),
    });
  }

  /** Ends the fetch that is under way; nothing of it is kept. */
  end(): void {
    this.running?.unsubscribe();
    if (this.state.fetching?.outcome === 'under way') this.patchFetch({ outcome: 'ended', note: 'ended; nothing was brought in' });
  }

  private told(event: DepotEvent): void {
    if (event.kind === 'progress') this.patchFetch({ received: event.received, total: event.total });
    else if (event.kind === 'resumed') this.patchFetch({ note: `the line broke and was taken up again at ${kilobytes(event.received)}` });
    else if (event.kind === 'failed') this.patchFetch({ outcome: 'failed', note: event.fault.message });
    else {
      this.patchFetch({ outcome: 'done' });
      this.intake.fetched(event.file);
    }
  }

  private patchFetch(change: Partial<Fetching>): void {
    const { fetching } = this.state;
    if (fetching) this.patch({ fetching: { ...fetching, ...change } });
  }

  private patch(change: Partial<DepotState>): void {
    this.subject.next({ ...this.subject.value, ...change });
  }
}

function kilobytes(bytes: number): string {
  return `${Math.round(bytes / 1000)} kB`;
}

function messageOf(error: unknown): string {
  return error instanceof ApiError ? error.fault.message : error instanceof Error ? error.message : String(error);
}
