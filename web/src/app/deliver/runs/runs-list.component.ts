import { AsyncPipe, DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, effect, type ElementRef, inject, viewChildren } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { Router } from '@angular/router';
import type { RunJson } from '@hollow-stride/contract';
import { RunsStore, type RunsState } from '../../runs/runs.store';

/** Runs, the newest first: how far each is, and what can be done with it. */
@Component({
  selector: 'hs-runs-list',
  imports: [AsyncPipe, DatePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.state$ | async; as state) {
      @for (run of state.runs; track run.id) {
        <article #article [attr.aria-label]="run.name">
          <header>
            <b>{{ run.name }}</b>
            <span class="soft">{{ run.startedAt | date: 'MMM d, HH:mm' }}</span>
            <span class="says" role="status">{{ saysOf(run) }}</span>
          </header>
          <div
            class="bar"
            role="progressbar"
            [attr.aria-label]="'Progress of ' + run.name"
            [attr.aria-valuenow]="run.done + run.failed"
            aria-valuemin="0"
            [attr.aria-valuemax]="sizeOf(run)"
          >
            <i class="done" [style.width.%]="share(run, run.done)"></i>
            <i class="failed" [style.width.%]="share(run, run.failed)"></i>
            <i class="working" [style.width.%]="share(run, run.working)"></i>
          </div>
          <div class="acts">
            @if (run.waiting + run.working > 0 && run.state === 'going') {
              <button type="button" class="btn btn-quiet" (click)="store.act(run.id, 'pause')">
                <i class="bi bi-pause-fill" aria-hidden="true"></i> pause
              </button>
            }
            @if (run.state === 'paused') {
              <button type="button" class="btn btn-quiet" (click)="store.act(run.id, 'resume')">
                <i class="bi bi-play-fill" aria-hidden="true"></i> resume
              </button>
            }
            @if (run.waiting + run.working > 0 && run.state !== 'cancelled') {
              <button type="button" class="btn btn-quiet" (click)="store.act(run.id, 'cancel')">
                <i class="bi bi-x-lg" aria-hidden="true"></i> cancel
              </button>
            }
            @if (run.failed + run.cancelled > 0) {
              <button type="button" class="btn btn-quiet" (click)="store.act(run.id, 'retry')">
                <i class="bi bi-arrow-repeat" aria-hidden="true"></i> retry {{ run.failed + run.cancelled }}
              </button>
            }
            @if (run.done > 0) {
              <button type="button" class="btn btn-quiet" (click)="check(run)">
                <i class="bi bi-grid-3x3-gap" aria-hidden="true"></i> check
              </button>
              <a class="btn btn-quiet" [href]="'/api/runs/' + run.id + '/zip'" download
                ><i class="bi bi-file-earmark-zip" aria-hidden="true"></i> zip</a
              >
              @if (state.outFolder) {
                <button type="button" class="btn btn-quiet" (click)="store.intoFolder(run)">
                  <i class="bi bi-folder-check" aria-hidden="true"></i> into the folder
                </button>
              }
            }
            <button type="button" class="btn btn-quiet" (click)="store.remove(run)" [attr.aria-label]="'Remove ' + run.name" title="Remove">
              <i class="bi bi-trash3" aria-hidden="true"></i>
            </button>
          </div>
        </article>
      } @empty {
        <p class="soft">None yet. A run goes on in the background, and after the server was stopped from where it was.</p>
      }
    }
  `,
  styles: `
    article {
      margin-bottom: 10px;
      padding: 8px 12px;
      border: 1px solid var(--hs-rule);
      border-radius: 3px;
      background: var(--hs-sheet);
    }
    header {
      display: flex;
      gap: 10px;
      align-items: baseline;
      font-size: 13px;
    }
    .says {
      margin-left: auto;
      font-size: 12.5px;
    }
    .bar {
      display: flex;
      height: 7px;
      margin: 5px 0;
      overflow: hidden;
      border: 1px solid var(--hs-rule);
      border-radius: 4px;
      background: #f3eee2;
    }
    .done {
      background: var(--hs-act);
    }
    .failed {
      background: var(--hs-fault);
    }
    .working {
      background: repeating-linear-gradient(45deg, var(--hs-act) 0 3px, transparent 3px 6px);
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
    }
  `,
})
export class RunsListComponent {
  protected readonly store = inject(RunsStore);
  private readonly router = inject(Router);

  private readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly articles = viewChildren<ElementRef<HTMLElement>>('article');
  /** Runs that were listed before. */
  private known: ReadonlySet<string> | undefined;

  constructor() {
    this.store.open();
    effect(() => this.showNew(this.state(), this.articles()));
  }

  /** A run that was just started is brought into sight: the form that started it is above. */
  private showNew({ loaded, runs }: RunsState, articles: readonly ElementRef<HTMLElement>[]): void {
    if (!loaded || articles.length !== runs.length) return;
    const isNew = this.known !== undefined && runs.length > 0 && !this.known.has(runs[0].id);
    this.known = new Set(runs.map(({ id }) => id));
    if (isNew) articles[0].nativeElement.scrollIntoView({ block: 'nearest' });
  }

  protected sizeOf({ waiting, working, done, failed, cancelled }: RunJson): number {
    return waiting + working + done + failed + cancelled;
  }

  protected share(run: RunJson, count: number): number {
    return (100 * count) / Math.max(1, this.sizeOf(run));
  }

  /** How far it is, in words, with the time that is left where something goes on. */
  protected saysOf(run: RunJson): string {
    const { done, failed, waiting, working, cancelled, state, spent } = run;
    const parts = [`${done} of ${this.sizeOf(run)} done`];
    if (failed > 0) parts.push(`${failed} failed`);
    if (cancelled > 0) parts.push(`${cancelled} cancelled`);
    if (state === 'paused') parts.push('paused');
    else if (waiting + working > 0 && done > 0) {
      // Items that are worked on at once share the time.
      const left = ((waiting + working) * (spent / done)) / Math.max(1, working);
      parts.push(`about ${left < 90 ? `${Math.max(1, Math.round(left))} s` : `${Math.round(left / 60)} min`} left`);
    }
    return parts.join(', ');
  }

  protected check({ id }: RunJson): void {
    localStorage.setItem('hollow-stride.check.view', 'grid');
    this.store.choose(id);
    void this.router.navigateByUrl('/check');
  }
}
