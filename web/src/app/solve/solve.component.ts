import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { describeFault, type Clip, type Fault, type Figure } from '@hollow-stride/core';
import { distinctUntilChanged, map } from 'rxjs';
import { SoundService } from '../face/sound.service';
import { GroupComponent } from '../shared/group.component';
import { RefusalComponent } from '../shared/refusal.component';
import { KeysService } from '../shared/keys.service';
import { DEFAULT_STAGE, type StageOptions } from '../stage/options';
import { stageKey } from '../stage/stage-keys';
import { StageToolsComponent } from '../stage/stage-tools.component';
import { StageComponent } from '../stage/stage.component';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { figuresNote } from './figures-note';
import { FiguresPanelComponent } from './figures-panel.component';
import { PointsPanelComponent } from './points-panel.component';
import { SettingsPanelComponent } from './settings-panel.component';
import type { Solved } from '../solver/messages';
import { ContactsStore } from './contacts.store';
import { SolveStateComponent } from './solve-state.component';
import type { LaneOf } from './lanes/lanes';
import { TouchPickerComponent } from './touches/touch-picker.component';
import { LanesComponent } from './lanes/lanes.component';
import { SolveStore } from './solve.store';
import { HandlesComponent } from './touch-ups/handles.component';
import { StrideMapComponent } from './stride-map/stride-map.component';
import { VersionsPanelComponent } from './versions/versions-panel.component';
import { VersionsStore, type Compared } from './versions/versions.store';
import { TouchUpsPanelComponent } from './touch-ups/touch-ups-panel.component';
import { ResizeDirective } from '../shared/resize.directive';

/** A touch that is made on the stage is held for so long before and behind the frame that is shown, seconds. */
const TOUCH = 0.25;

/** Station Solve: performer and character together, the plants, the figures. */
@Component({
  selector: 'hs-solve',
  imports: [
    ResizeDirective,
    AsyncPipe,
    DecimalPipe,
    FiguresPanelComponent,
    GroupComponent,
    HandlesComponent,
    LanesComponent,
    PointsPanelComponent,
    RefusalComponent,
    RouterLink,
    SettingsPanelComponent,
    SolveStateComponent,
    StageComponent,
    StageToolsComponent,
    StrideMapComponent,
    TouchPickerComponent,
    TouchUpsPanelComponent,
    TransportComponent,
    VersionsPanelComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './solve.component.html',
  styleUrl: './solve.component.scss',
})
export class SolveComponent {
  protected readonly store = inject(SolveStore);
  protected readonly versions = inject(VersionsStore);
  protected readonly playback = inject(PlaybackService);
  private readonly contacts = inject(ContactsStore);
  protected readonly options = signal<StageOptions>(DEFAULT_STAGE);
  /** Handles for touch-ups stand on the stage. */
  protected readonly handles = signal(false);
  /** Two presses on the stage make a touch. */
  protected readonly picking = signal(false);
  /** The motion before the handle that is dragged changed it. */
  protected readonly ghost = signal<Clip | undefined>(undefined);
  private readonly stage = viewChild(StageComponent);
  private readonly knobs = viewChild(HandlesComponent);
  private readonly picker = viewChild(TouchPickerComponent);
  /** Controls that stand on joints of the character: the touch picker, or the handles. */
  protected readonly pins = computed(() => this.picker() ?? this.knobs());
  protected readonly none: readonly number[] = [];
  protected readonly describe = describeFault;
  protected readonly note = figuresNote;

  constructor() {
    inject(SoundService).playHere();
    inject(KeysService).listen(
      (event) => this.key(event),
      (event) => this.keyUp(event),
    );
    this.store.state$
      .pipe(
        map((s) => s.solved?.take),
        // A changed setting gives the same frames anew: what plays plays on.
        distinctUntilChanged((a, b) => a?.frames === b?.frames && a?.frameTime === b?.frameTime && a?.name === b?.name),
        takeUntilDestroyed(),
      )
      .subscribe((take) => {
        if (take) this.playback.setClip(take.frames, take.frameTime);
      });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  /** The motion of the version that is compared. */
  protected laidOver(compared: Compared | null | undefined): Clip | undefined {
    return compared?.solved?.solved;
  }

  /** Figures of the version that is compared. */
  protected beside(compared: Compared | null | undefined): { name: string; figures: readonly Figure[] } | undefined {
    return compared?.solved && { name: compared.version.name, figures: compared.solved.report.verdict.figures };
  }

  protected noteOf(compared: Compared | null | undefined): string {
    if (!compared) return '';
    return compared.solved || compared.fault ? `${compared.version.name} as a ghost` : 'solving …';
  }

  /** Cautions beside the figures, which are listed above. */
  protected cautions({ report }: Solved): Fault[] {
    return report.cautions.filter(({ code }) => !code.startsWith('judge/'));
  }

  protected dragged(isDragging: boolean): void {
    const { solved } = this.store.state;
    this.ghost.set(isDragging ? (this.ghost() ?? solved?.solved) : undefined);
  }

  /** Holds what was picked for a moment around the frame that is shown; its bar is then drawn out on its lane. */
  protected touch(of: LaneOf): void {
    const { solved } = this.store.state;
    if (!solved) return;
    const { frames, frameTime } = solved.take;
    const { frame } = this.playback.state;
    const reach = Math.round(TOUCH / frameTime);
    this.contacts.add(of, { first: Math.max(0, frame - reach), last: Math.min(frames - 1, frame + reach) });
    this.picking.set(false);
  }

  protected set(change: Partial<StageOptions>): void {
    this.options.update((options) => ({ ...options, ...change }));
  }

  private key(event: KeyboardEvent): boolean {
    const actions: Record<string, () => void> = {
      p: () => this.toPlant(-1),
      n: () => this.toPlant(1),
      h: () => this.handles.update((on) => !on),
      u: () => this.picking.update((on) => !on),
      x: () => this.fit(),
    };
    const key = event.key.toLowerCase();
    const look = stageKey(key, this.options());
    if (look) this.set(look);
    else if (key in actions) actions[key]();
    else return transportKey(event, this.playback);
    return true;
  }

  private keyUp(event: KeyboardEvent): void {
    if (event.key.toLowerCase() === 'b') this.set({ before: false });
  }

  private fit(): void {
    this.stage()?.fit();
  }

  private toPlant(way: 1 | -1): void {
    const starts = [...new Set(this.store.state.solved?.contacts.plants.map((p) => p.first))].sort((a, b) => a - b);
    const { frame } = this.playback.state;
    const next = way > 0 ? starts.find((f) => f > frame) : starts.reverse().find((f) => f < frame);
    this.playback.pause();
    if (next !== undefined) this.playback.seek(next);
  }
}
