import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, Injector, signal } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import type { RunItemJson, RunJson } from '@hollow-stride/contract';
import { FIGURE_IDS, LIMITS, type FigureId } from '@hollow-stride/core';
import { combineLatest, map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { ReelStore } from '../reel/reel.store';
import { RunsStore } from '../runs/runs.store';
import { PlaybackService } from '../timeline/playback.service';
import { CheckGridComponent } from './grid.component';
import { gridOf, NO_FILTER, worstFrameOf, type Cell, type Filter } from './grid';
import { ItemPanelComponent } from './item-panel.component';
import { LimitsStore } from './limits.store';
import { ResizeDirective } from '../shared/resize.directive';

const VERDICTS: readonly { readonly value: Filter['verdict']; readonly name: string }[] = [
  { value: '', name: 'all' },
  { value: 'fault', name: 'over a limit' },
  { value: 'caution', name: 'to look at' },
  { value: 'good', name: 'good' },
  { value: 'open', name: 'not reviewed' },
  { value: 'returned', name: 'sent back' },
  { value: 'accepted', name: 'accepted' },
];

/** The grid of a run: which of many transfers are good, what is wrong with the others, and the way to where. */
@Component({
  selector: 'hs-run-check',
  imports: [ResizeDirective, AsyncPipe, CheckGridComponent, ItemPanelComponent, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './run-check.component.html',
  styleUrl: './run-check.component.scss',
})
export class RunCheckComponent {
  protected readonly runs = inject(RunsStore);
  private readonly project = inject(ProjectStore);
  private readonly playback = inject(PlaybackService);
  private readonly router = inject(Router);
  private readonly injector = inject(Injector);
  protected readonly filter = signal<Filter>(NO_FILTER);
  protected readonly chosen = signal<string | undefined>(undefined);
  protected readonly verdicts = VERDICTS;
  protected readonly figures = FIGURE_IDS.map((id) => ({ id, name: LIMITS[id].name }));

  protected readonly vm$ = combineLatest([
    this.runs.state$,
    inject(LimitsStore).limits$,
    toObservable(this.filter),
    toObservable(this.chosen),
  ]).pipe(
    map(([state, limits, filter, chosen]) => {
      const items = (state.chosen && state.items[state.chosen]) || [];
      const beside = (state.beside && state.items[state.beside]) || [];
      const grid = gridOf(items, limits, filter, beside);
      const cells = grid.rows.flatMap((row) => row.cells.filter((cell) => cell !== undefined));
      return {
        ...state,
        limits,
        filter,
        grid,
        run: state.runs.find(({ id }) => id === state.chosen),
        tags: [...new Set(items.flatMap(({ tags }) => tags))].sort(),
        characters: [...new Map(items.map((item) => [item.character, item.characterName]))].map(([id, name]) => ({ id, name })),
        cell: cells.find(({ item }) => item.id === chosen) ?? cells.find(({ verdict }) => verdict !== undefined),
        better: cells.filter(({ better = 0 }) => better > 0).length,
        worse: cells.filter(({ better = 0 }) => better < 0).length,
      };
    }),
  );

  constructor() {
    this.runs.open();
  }

  protected choose(event: Event): void {
    this.chosen.set(undefined);
    this.runs.choose((event.target as HTMLSelectElement).value || undefined);
  }

  protected compare(event: Event): void {
    this.runs.compareWith((event.target as HTMLSelectElement).value || undefined);
  }

  protected set(key: keyof Filter, event: Event): void {
    this.filter.update((filter) => ({ ...filter, [key]: (event.target as HTMLSelectElement).value as Filter['verdict'] & FigureId }));
  }

  protected pick({ item }: Cell): void {
    this.chosen.set(item.id);
    if (item.state === 'waiting') this.runs.putFirst(item.run, [item.id]);
  }

  /** Opens a transfer in Solve at a frame, or a lane on its reel. */
  protected open(item: RunItemJson, frame = worstFrameOf(item, this.project.state.rack.limits)): void {
    if (item.lane) {
      // Asked for here and not before: a reel is solved from then on.
      const reels = this.injector.get(ReelStore);
      reels.open(item.lane.reel);
      reels.choose({ lane: item.lane.index, clip: -1 });
      this.playback.openAt(frame);
      void this.router.navigateByUrl('/mend/reel');
      return;
    }
    this.project.find(item.take);
    this.project.choose({ take: item.take, character: item.character });
    this.playback.openAt(frame);
    void this.router.navigateByUrl('/solve');
  }

  protected textOf({ name, done, waiting, working, failed }: RunJson): string {
    const open = waiting + working;
    return `${name}: ${done} done${failed > 0 ? `, ${failed} failed` : ''}${open > 0 ? `, ${open} to go` : ''}`;
  }
}
