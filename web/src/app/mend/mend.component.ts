import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, DestroyRef, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { Figure } from '@hollow-stride/core';
import { distinctUntilChanged, map } from 'rxjs';
import { SoundService } from '../face/sound.service';
import { GroupComponent } from '../shared/group.component';
import { KeysService } from '../shared/keys.service';
import { NumberComponent } from '../shared/number.component';
import { RefusalComponent } from '../shared/refusal.component';
import { ChoicesComponent } from '../shared/choices.component';
import { ResizeDirective } from '../shared/resize.directive';
import { figuresNote } from '../solve/figures-note';
import { FiguresPanelComponent } from '../solve/figures-panel.component';
import { SolveStateComponent } from '../solve/solve-state.component';
import { SolveStore } from '../solve/solve.store';
import type { Solved } from '../solver/messages';
import { DEFAULT_STAGE, type StageOptions } from '../stage/options';
import { stageKey } from '../stage/stage-keys';
import { StageComponent } from '../stage/stage.component';
import { StageToolsComponent } from '../stage/stage-tools.component';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { CurvesComponent } from './curves.component';
import { HANDLE_SHAPES, LayerHandlesComponent, type HandleShape } from './layer-handles.component';
import { LayerLanesComponent } from './layer-lanes.component';
import { LayerPanelComponent } from './layer-panel.component';
import { LayersPanelComponent } from './layers-panel.component';
import { LayerKeysStore } from './layer-keys.store';
import { LayersStore } from './layers.store';
import { PosesPanelComponent } from './poses-panel.component';

const SIZE = 'hollow-stride.handle-size';
const SHAPE = 'hollow-stride.handle-shape';

/** Station Mend: layers of keys and filters over the result, on the stage, over time and as curves. */
@Component({
  selector: 'hs-mend',
  imports: [
    AsyncPipe,
    ChoicesComponent,
    CurvesComponent,
    FiguresPanelComponent,
    GroupComponent,
    LayerHandlesComponent,
    LayerLanesComponent,
    LayerPanelComponent,
    LayersPanelComponent,
    NumberComponent,
    PosesPanelComponent,
    RefusalComponent,
    ResizeDirective,
    RouterLink,
    SolveStateComponent,
    StageComponent,
    StageToolsComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './mend.component.html',
  styleUrl: './mend.component.scss',
})
export class MendComponent {
  protected readonly store = inject(SolveStore);
  protected readonly layers = inject(LayersStore);
  protected readonly keys = inject(LayerKeysStore);
  protected readonly playback = inject(PlaybackService);
  protected readonly options = signal<StageOptions>({ ...DEFAULT_STAGE, layout: 'character', show: 'both' });
  protected readonly handles = signal(true);
  protected readonly size = signal(Number(localStorage.getItem(SIZE) ?? 14));
  protected readonly shapes = HANDLE_SHAPES.map((value) => ({ value, name: value }));
  protected readonly shape = signal<HandleShape>(HANDLE_SHAPES.find((one) => one === localStorage.getItem(SHAPE)) ?? 'filled');
  /** Lanes, or the curves of what the layer keys. */
  protected readonly below = signal<'lanes' | 'curves'>('lanes');
  private readonly stage = viewChild(StageComponent);
  protected readonly knobs = viewChild(LayerHandlesComponent);
  protected readonly none: readonly number[] = [];
  protected readonly note = figuresNote;
  private shownFor: { readonly solved: Solved; readonly shown: Solved } | undefined;

  constructor() {
    inject(SoundService).playHere();
    inject(KeysService).listen(
      (event) => this.key(event),
      (event) => this.keyUp(event),
    );
    this.store.state$
      .pipe(
        map((s) => s.solved?.take),
        distinctUntilChanged((a, b) => a?.frames === b?.frames && a?.frameTime === b?.frameTime && a?.name === b?.name),
        takeUntilDestroyed(),
      )
      .subscribe((take) => {
        if (take) this.playback.setClip(take.frames, take.frameTime);
      });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  /** The result with the motion under its layers as what was before. */
  protected shown(solved: Solved | undefined): Solved | undefined {
    if (!solved) return undefined;
    if (this.shownFor?.solved !== solved) this.shownFor = { solved, shown: { ...solved, plain: solved.below ?? solved.solved } };
    return this.shownFor.shown;
  }

  /** Figures of the result without its layers. */
  protected without({ figuresBelow, report }: Solved): { name: string; figures: readonly Figure[] } {
    return { name: 'without', figures: figuresBelow ?? report.verdict.figures };
  }

  protected lead(figure: Figure): void {
    this.layers.lead(figure);
  }

  protected set(change: Partial<StageOptions>): void {
    this.options.update((options) => ({ ...options, ...change }));
  }

  protected setSize(size: number): void {
    this.size.set(size);
    localStorage.setItem(SIZE, String(size));
  }

  protected setShape(shape: string): void {
    this.shape.set(shape as HandleShape);
    localStorage.setItem(SHAPE, shape);
  }

  private key(event: KeyboardEvent): boolean {
    const key = event.key.toLowerCase();
    const look = stageKey(key, this.options());
    if (look) this.set(look);
    else if (key === 'h') this.handles.update((on) => !on);
    else if (key === 'x') this.stage()?.fit();
    else if (key === 'k') this.keyAll();
    else if (key === 'c') this.below.update((one) => (one === 'lanes' ? 'curves' : 'lanes'));
    else return transportKey(event, this.playback);
    return true;
  }

  private keyUp(event: KeyboardEvent): void {
    if (event.key.toLowerCase() === 'b') this.set({ before: false });
  }

  /** Sets a key at this frame on everything that the layer keys. */
  private keyAll(): void {
    const { current } = this.layers;
    if (!current) return;
    this.keys.tracksOf(current.index).forEach((_, track) => {
      if (!this.keys.hasKey(current.index, track)) this.keys.toggleKey(current.index, track);
    });
  }
}
