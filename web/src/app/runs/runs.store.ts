import { DestroyRef, inject, Injectable } from '@angular/core';
import type { ChangeRunItem, RunAct, RunEvent, RunItemJson, RunJson, StartRun } from '@hollow-stride/contract';
import { BehaviorSubject, catchError, distinctUntilChanged, map, type Observable, type Subscription, throwError } from 'rxjs';
import { ApiError } from '../api/answers';
import { ApiService } from '../api/api.service';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';

import { RunsApiService } from './runs-api.service';

export interface RunsState {
  readonly loaded: boolean;
  readonly runs: readonly RunJson[];
  /** The server was started with a folder for deliveries. */
  readonly outFolder: boolean;
  /** The run that is looked at, and another that it is compared with. */
  readonly chosen: string | undefined;
  readonly beside: string | undefined;
  /** Items of runs that were asked for, by run. */
  readonly items: Readonly<Record<string, readonly RunItemJson[]>>;
}

type Review = Omit<ChangeRunItem, 'base'>;

/** Runs on the server: listed, started, watched as they go on, reviewed. */
@Injectable({ providedIn: 'root' })
export class RunsStore {
  private readonly api = inject(RunsApiService);
  private readonly rack = inject(ApiService);
  private readonly notices = inject(NoticesService);
  private readonly history = inject(HistoryService);
  private readonly subject = new BehaviorSubject<RunsState>({
    loaded: false,
    runs: [],
    outFolder: false,
    chosen: undefined,
    beside: undefined,
    items: {},
  });
  readonly state$ = this.subject.asObservable();
  readonly runs$: Observable<readonly RunJson[]> = this.subject.pipe(
    map(({ runs }) => runs),
    distinctUntilChanged(),
  );
  private line: Subscription | undefined;
  /** Versions of runs that are off the list. */
  private readonly versions = new Map<string, number>();

  constructor() {
    inject(DestroyRef).onDestroy(() => this.line?.unsubscribe());
    this.history.register('run', (id, removed) => this.putRemoved(id, removed as boolean));
    this.history.register('review', (id, change) => this.putReview(id, change as Review));
  }

  get state(): RunsState {
    return this.subject.value;
  }

  /** Lists the runs, and hears of them from now on. */
  open(): void {
    this.line ??= this.rack.events$.subscribe((event) => {
      if (event.kind === 'run' || event.kind === 'item') this.hear(event);
    });
    this.api.runs().subscribe({
      next: ({ runs, outFolder }) => {
        const chosen = runs.some(({ id }) => id === this.state.chosen) ? this.state.chosen : runs.at(0)?.id;
        this.patch({ loaded: true, runs, outFolder });
        this.choose(chosen);
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  choose(chosen: string | undefined): void {
    this.patch({ chosen, ...(chosen === this.state.beside && { beside: undefined }) });
    if (chosen) this.load(chosen);
  }

  compareWith(beside: string | undefined): void {
    this.patch({ beside });
    if (beside) this.load(beside);
  }

  start(request: StartRun): void {
    this.api.startRun(request).subscribe({
      next: (run) => {
        this.patch({ runs: [run, ...this.state.runs.filter(({ id }) => id !== run.id)] });
        this.choose(run.id);
        this.notices.done(`${run.name} started: ${run.waiting + run.working + run.done} files to make`);
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  act(run: string, act: RunAct): void {
    this.api.actOnRun(run, act).subscribe({
      next: (now) => {
        this.hear({ kind: 'run', run: now });
        if (act === 'cancel' || act === 'retry') this.load(run);
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  /** Takes a run off the list; that can be taken back. */
  remove({ id, name }: RunJson): void {
    this.putRemoved(id, true);
    const edit = { kind: 'run', target: id, before: false, after: true };
    this.history.did({ text: `remove the run ${name}`, edits: [edit] });
  }

  /** Accepts an item, sends it back, or notes something of it. */
  review(item: RunItemJson, change: Review): void {
    this.putReview(item.id, change, item.version);
    const before: Review = { review: item.review, note: item.note };
    const edit = { kind: 'review', target: item.id, before, after: change };
    this.history.did({ text: `review ${item.takeName} on ${item.characterName}`, edits: [edit] });
  }

  private putRemoved(id: string, removed: boolean): void {
    const base = this.versions.get(id) ?? this.state.runs.find((run) => run.id === id)?.version ?? 1;
    this.lastly((version) => this.rack.change('runs', id, { base: version, removed }), base).subscribe({
      next: ({ version }) => {
        this.versions.set(id, version);
        this.open();
      },
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  private putReview(id: string, change: Review, version?: number): void {
    const known = Object.values(this.state.items)
      .flat()
      .find((one) => one.id === id)?.version;
    this.lastly((base) => this.api.changeRunItem(id, { base, ...change }), version ?? known ?? 1).subscribe({
      next: (now) => this.hear({ kind: 'item', item: now }),
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  /** Sends a change from what the row is now, where it was made from something older: it changes nothing else of the row. */
  private lastly<T>(send: (base: number) => Observable<T>, base: number): Observable<T> {
    return send(base).pipe(
      catchError((error: unknown) => {
        const now = error instanceof ApiError ? (error.current as { version: number } | null | undefined) : undefined;
        return now ? send(now.version) : throwError(() => error);
      }),
    );
  }

  /** Items on screen are solved first. */
  putFirst(run: string, items: readonly string[]): void {
    this.api.putFirst(run, items.slice(0, 500)).subscribe({ error: () => undefined });
  }

  intoFolder(run: RunJson): void {
    this.api.intoFolder(run.id).subscribe({
      next: (files) => this.notices.done(`${files.length} files of ${run.name} written into the server's folder`),
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  private load(run: string): void {
    this.api.runItems(run).subscribe({
      next: ({ items }) => this.patch({ items: { ...this.state.items, [run]: items } }),
      error: (error: unknown) => this.notices.failed(error),
    });
  }

  private hear(event: RunEvent): void {
    if (event.kind === 'run') {
      const { run } = event;
      const known = this.state.runs.some(({ id }) => id === run.id);
      this.patch({ runs: known ? this.state.runs.map((one) => (one.id === run.id ? run : one)) : [run, ...this.state.runs] });
      return;
    }
    const { item } = event;
    const items = this.state.items[item.run];
    // Items of runs that nobody looks at are listed when someone does.
    if (items) this.patch({ items: { ...this.state.items, [item.run]: items.map((one) => (one.id === item.id ? item : one)) } });
  }

  private patch(change: Partial<RunsState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}
