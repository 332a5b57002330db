import { NoticesService } from '../notices/notices.service';
import { DestroyRef, inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { ALL_TAKES, TAKES_PAGE, type TakeQuery, type TakesPage } from '@hollow-stride/contract';
import { BehaviorSubject, catchError, combineLatest, distinctUntilChanged, map, type Observable, of, switchMap, tap } from 'rxjs';
import { ApiService } from '../api/api.service';
import { ProjectStore } from './project.store';

/** A line of a list: a skeleton, or a take that stands on it, by its place among all that were found. */
export type TakeLine =
  { readonly kind: 'skeleton'; readonly skeleton: string; readonly count: number } | { readonly kind: 'take'; readonly at: number };

export interface TakeListState {
  readonly query: TakeQuery;
  /** Takes found, takes on the rack, tags in use. */
  readonly total: number;
  readonly all: number;
  readonly tags: readonly string[];
  readonly lines: readonly TakeLine[];
  /** Ids by place; those that no page has brought yet are undefined. */
  readonly ids: readonly (string | undefined)[];
  readonly searching: boolean;
}

const isAll = (query: TakeQuery): boolean => JSON.stringify(query) === JSON.stringify(ALL_TAKES);

/**
 * A list of takes: found, grouped and ordered by the server, and brought page by page as it is scrolled. Provided by the component
 * that shows it. Follows the rack: what is added, changed or taken off elsewhere is seen in it.
 */
@Injectable()
export class TakeList {
  private readonly api = inject(ApiService);
  private readonly project = inject(ProjectStore);
  private readonly notices = inject(NoticesService);
  private readonly query = new BehaviorSubject<TakeQuery>(ALL_TAKES);
  private readonly subject = new BehaviorSubject<TakeListState>({
    query: ALL_TAKES,
    total: 0,
    all: 0,
    tags: [],
    lines: [],
    ids: [],
    searching: false,
  });
  readonly state$ = this.subject.asObservable();
  private asked = new Set<number>();
  private readonly destroyed = inject(DestroyRef);

  constructor() {
    const page$ = this.project.state$.pipe(
      map(({ page }) => page),
      distinctUntilChanged(),
    );
    combineLatest([this.query, page$])
      .pipe(
        tap(([query]) => this.patch({ query, searching: !isAll(query) })),
        // While somebody types, the last word counts: an answer to an earlier one is not waited for.
        switchMap(([query, page]) => (isAll(query) ? of(page) : this.first(query))),
        takeUntilDestroyed(),
      )
      .subscribe((page) => this.adopt(page));
  }

  get state(): TakeListState {
    return this.subject.value;
  }

  find(change: Partial<TakeQuery>): void {
    this.query.next({ ...this.query.value, ...change });
  }

  /** Asks for the pages that these lines are on. */
  want(from: number, to: number): void {
    const { lines } = this.state;
    for (const line of lines.slice(Math.max(0, from), to)) if (line.kind === 'take') this.wantPage(Math.floor(line.at / TAKES_PAGE));
  }

  /** Asks for the pages that the takes at these places are on. */
  wantTakes(from: number, to: number): void {
    for (let at = Math.max(0, from); at < Math.min(to, this.state.total); at++) this.wantPage(Math.floor(at / TAKES_PAGE));
  }

  private first(query: TakeQuery): Observable<TakesPage | undefined> {
    return this.api.takes(query, 0).pipe(
      map(({ items, unreadable }) => {
        this.project.learn(items.takes, unreadable);
        return items;
      }),
      catchError((error: unknown) => {
        this.notices.failed(error);
        return of(undefined);
      }),
    );
  }

  private adopt(page: TakesPage | undefined): void {
    if (!page) {
      this.patch({ searching: false });
      return;
    }
    this.asked = new Set([0]);
    const ids = new Array<string | undefined>(page.total).fill(undefined);
    page.takes.forEach(({ id }, i) => (ids[i] = id));
    const lines: TakeLine[] = [];
    let at = 0;
    for (const { skeleton, count } of page.groups) {
      lines.push({ kind: 'skeleton', skeleton, count });
      for (let i = 0; i < count; i++) lines.push({ kind: 'take', at: at++ });
    }
    this.patch({ total: page.total, all: page.all, tags: page.tags, lines, ids, searching: false });
  }

  private wantPage(index: number): void {
    if (this.asked.has(index)) return;
    const { asked } = this;
    asked.add(index);
    this.api
      .takes(this.state.query, index * TAKES_PAGE)
      .pipe(takeUntilDestroyed(this.destroyed))
      .subscribe({
        next: ({ items, unreadable }) => {
          // The list may have been asked for something else meanwhile.
          if (asked !== this.asked) return;
          this.project.learn(items.takes, unreadable);
          const ids = [...this.state.ids];
          items.takes.forEach(({ id }, i) => (ids[index * TAKES_PAGE + i] = id));
          this.patch({ ids });
        },
        error: (error: unknown) => {
          asked.delete(index);
          this.notices.failed(error);
        },
      });
  }

  private patch(change: Partial<TakeListState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}
