import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, DestroyRef, HostListener, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { describeFault } from '@hollow-stride/core';
import { distinctUntilChanged, map } from 'rxjs';
import { GroupComponent } from '../shared/group.component';
import { isTyping } from '../shared/keys';
import { DEFAULT_STAGE, type LayoutName, type ShowName, type StageOptions, type ViewName } from '../stage/options';
import { StageComponent } from '../stage/stage.component';
import { PlantLanesComponent } from '../timeline/plant-lanes.component';
import { PlaybackService, SPEEDS } from '../timeline/playback.service';
import { TransportComponent } from '../timeline/transport.component';
import { FiguresPanelComponent } from './figures-panel.component';
import { SettingsPanelComponent } from './settings-panel.component';
import { SolveStore } from './solve.store';

/** Station Solve: performer and character together, the plants, the figures. */
@Component({
  selector: 'hs-solve',
  imports: [
    AsyncPipe,
    DecimalPipe,
    FiguresPanelComponent,
    GroupComponent,
    PlantLanesComponent,
    RouterLink,
    SettingsPanelComponent,
    StageComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './solve.component.html',
  styleUrl: './solve.component.scss',
})
export class SolveComponent {
  protected readonly store = inject(SolveStore);
  protected readonly playback = inject(PlaybackService);
  protected readonly options = signal<StageOptions>(DEFAULT_STAGE);
  protected readonly layouts: readonly (readonly [LayoutName, string])[] = [
    ['beside', 'beside'],
    ['over', 'laid over'],
    ['performer', 'performer'],
    ['character', 'character'],
  ];
  protected readonly views: readonly (readonly [ViewName, string])[] = [
    ['front', 'front'],
    ['side', 'side'],
    ['top', 'top'],
    ['free', 'free'],
  ];
  protected readonly shows: readonly (readonly [ShowName, string])[] = [
    ['mesh', 'mesh'],
    ['skeleton', 'skeleton'],
    ['both', 'both'],
  ];
  protected readonly describe = describeFault;

  constructor() {
    this.store.state$
      .pipe(
        map((s) => s.solved),
        distinctUntilChanged(),
        takeUntilDestroyed(),
      )
      .subscribe((solved) => {
        if (solved) this.playback.setClip(solved.take.frames, solved.take.frameTime);
      });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected set(change: Partial<StageOptions>): void {
    this.options.update((options) => ({ ...options, ...change }));
  }

  @HostListener('window:keydown', ['$event'])
  protected key(event: KeyboardEvent): void {
    if (isTyping(event) || document.querySelector('.modal.show')) return;
    if (event.ctrlKey || event.metaKey) {
      if (event.key.toLowerCase() !== 'z') return;
      if (event.shiftKey) this.store.redo();
      else this.store.undo();
      event.preventDefault();
      return;
    }
    const { playback } = this;
    const { speed, frames, loop } = playback.state;
    const at = SPEEDS.findIndex((s) => s === speed);
    const actions: Record<string, () => void> = {
      ' ': () => playback.toggle(),
      ArrowLeft: () => playback.step(event.shiftKey ? -10 : -1),
      ArrowRight: () => playback.step(event.shiftKey ? 10 : 1),
      Home: () => playback.seek(0),
      End: () => playback.seek(frames - 1),
      ',': () => playback.setSpeed(SPEEDS[Math.max(0, at - 1)]),
      '.': () => playback.setSpeed(SPEEDS[Math.min(SPEEDS.length - 1, at + 1)]),
      l: () => playback.setLoop(!loop),
      p: () => this.toPlant(-1),
      n: () => this.toPlant(1),
      b: () => this.set({ before: true }),
      f: () => this.set({ view: 'front' }),
      s: () => this.set({ view: 'side' }),
      t: () => this.set({ view: 'top' }),
      v: () => this.set({ view: 'free' }),
    };
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const onButton = event.target instanceof HTMLButtonElement || event.target instanceof HTMLAnchorElement;
    if (!(key in actions) || (key === ' ' && onButton)) return;
    event.preventDefault();
    actions[key]();
  }

  @HostListener('window:keyup', ['$event'])
  protected keyUp(event: KeyboardEvent): void {
    if (event.key.toLowerCase() === 'b') this.set({ before: false });
  }

  private toPlant(way: 1 | -1): void {
    const starts = [...new Set(this.store.state.solved?.contacts.plants.map((p) => p.first))].sort((a, b) => a - b);
    const { frame } = this.playback.state;
    const next = way > 0 ? starts.find((f) => f > frame) : starts.reverse().find((f) => f < frame);
    this.playback.pause();
    if (next !== undefined) this.playback.seek(next);
  }
}
