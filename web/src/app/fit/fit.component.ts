import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { Clip, Fault } from '@hollow-stride/core';
import { map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { GroupComponent } from '../shared/group.component';
import { KeysService } from '../shared/keys.service';
import { RefusalComponent } from '../shared/refusal.component';
import { TakePickerComponent } from '../shared/take-picker.component';
import { ResizeDirective } from '../shared/resize.directive';
import { AddressService } from '../shell/address.service';
import { FigureStageComponent } from '../stage/figure-stage.component';
import type { Figure } from '../stage/figure-view';
import type { ViewName } from '../stage/options';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { DetailPanelComponent } from './detail-panel.component';
import { FitStore } from './fit.store';
import type { Tried } from './messages';
import { FitViewComponent } from './fit-view.component';
import { MarksPanelComponent } from './marks-panel.component';
import { WeightsPanelComponent } from './weights-panel.component';
import { StandPanelComponent } from './stand-panel.component';

type Mode = 'landmarks' | 'weights' | 'try';

/** Takes that are tried beside each other. */
const TRIED = 3;
/** Figures that are tried stand so far apart, shares of the height. */
const APART = 0.75;

/** Fit: a skeleton for a mesh that has none, its skin bound, tried before it goes onto the rack as a character. */
@Component({
  selector: 'hs-fit',
  imports: [
    ChoicesComponent,
    DecimalPipe,
    DetailPanelComponent,
    FigureStageComponent,
    FitViewComponent,
    GroupComponent,
    MarksPanelComponent,
    RefusalComponent,
    ResizeDirective,
    RouterLink,
    WeightsPanelComponent,
    StandPanelComponent,
    TakePickerComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './fit.component.html',
  styleUrl: './fit.component.scss',
})
export class FitComponent {
  protected readonly store = inject(FitStore);
  private readonly playback = inject(PlaybackService);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly rack = toSignal(inject(ProjectStore).rack$, { requireSync: true });
  protected readonly meshes = computed(() => this.rack().meshes);
  protected readonly takes = computed(() => this.rack().takes);
  protected readonly frame = toSignal(this.playback.state$.pipe(map(({ frame }) => frame)), { initialValue: 0 });
  protected readonly mode = signal<Mode>('landmarks');
  protected readonly looked = signal<ViewName>('free');
  /** Degrees that the second view is turned from the front. */
  protected readonly turned = signal(90);
  protected readonly shown = signal<'range' | 'takes'>('range');
  protected readonly picked = signal<readonly string[]>([]);
  protected readonly isStale = computed(() => {
    this.state();
    return this.store.isStale;
  });
  protected readonly modes = computed((): Choice[] => {
    const disabled = !this.state().bound;
    return [
      { value: 'landmarks', name: 'landmarks' },
      { value: 'weights', name: 'skin', disabled, title: 'What moves each point of the skin' },
      { value: 'try', name: 'try', disabled, title: 'The range check, and takes of the rack' },
    ];
  });
  protected readonly tries = computed((): Choice[] => [
    { value: 'range', name: 'range check' },
    { value: 'takes', name: `${TRIED} takes`, disabled: this.takes().length === 0 },
  ]);
  protected readonly triedIds = computed(() => {
    const chosen = this.picked();
    const takes = this.takes();
    return Array.from({ length: Math.min(TRIED, takes.length) }, (_, i) => chosen[i] ?? takes[i].id);
  });
  protected readonly figures = computed((): Figure[] => {
    const { bound, address, tried } = this.state();
    if (!bound || !address || !bound.display.mesh) return [];
    const display = { ...bound.display, mesh: { ...bound.display.mesh, file: address } };
    const base = { display, look: 'character', show: 'mesh' } as const;
    if (this.shown() === 'range') return [{ ...base, key: address, pose: bound.rest, clip: bound.range.clip }];
    const played = tried.flatMap(({ result }) => ('clip' in result ? [result.clip] : []));
    return played.map((clip, i) => ({
      ...base,
      key: `${address} ${i}`,
      clip: movedBeside(clip, (i - (played.length - 1) / 2) * APART * bound.display.height),
    }));
  });
  protected readonly step = computed(() => {
    const steps = this.state().bound?.range.steps ?? [];
    return steps.filter(({ first }) => first <= this.frame()).at(-1)?.step.says ?? '';
  });
  protected readonly views = computed(() => [
    { label: 'front', yaw: 0 },
    { label: sideOf(this.turned()), yaw: (this.turned() * Math.PI) / 180 },
  ]);

  constructor() {
    inject(AddressService).carry('mesh', {
      value$: this.store.state$.pipe(map(({ mesh }) => mesh?.id)),
      adopt: (id) => this.store.open(id),
    });
    inject(KeysService).listen((event) => this.mode() === 'try' && transportKey(event, this.playback));
    effect(() => {
      if (this.mode() !== 'try') return;
      const { bound, tried } = this.state();
      const clips =
        this.shown() === 'range' ? [bound?.range.clip] : tried.map(({ result }) => ('clip' in result ? result.clip : undefined));
      const longest = clips.filter((clip) => clip !== undefined).sort((a, b) => b.frames - a.frames)[0] as Clip | undefined;
      if (!longest) return;
      const now = this.playback.state;
      if (now.frames !== longest.frames || now.frameTime !== longest.frameTime) this.playback.setClip(longest.frames, longest.frameTime);
    });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected look(mode: string): void {
    this.mode.set(mode as Mode);
    if (mode !== 'try') this.playback.pause();
  }

  protected show(shown: string): void {
    this.shown.set(shown as 'range' | 'takes');
    this.playback.seek(0);
    if (shown === 'takes' && this.state().tried.length === 0) this.store.try(this.triedIds());
  }

  protected pick(i: number, take: string): void {
    const ids = [...this.triedIds()];
    ids[i] = take;
    this.picked.set(ids);
    this.store.try(ids);
  }

  protected openMesh(event: Event): void {
    this.mode.set('landmarks');
    this.store.open((event.target as HTMLSelectElement).value);
  }

  protected turn(event: Event): void {
    this.turned.set(Number((event.target as HTMLInputElement).value));
  }

  protected isFault(result: Tried): Fault | undefined {
    return 'fault' in result ? result.fault : undefined;
  }

  protected marksOf(result: Tried): string {
    if ('fault' in result) return '';
    const { faults, cautions } = result;
    return faults + cautions === 0
      ? 'good'
      : `${faults} ${faults === 1 ? 'fault' : 'faults'}, ${cautions} ${cautions === 1 ? 'caution' : 'cautions'}`;
  }
}

/** Names of sides by degrees to the left of the front. */
function sideOf(degrees: number): string {
  const named: Readonly<Record<number, string>> = { 0: 'front again', 90: 'left side', [-90]: 'right side', 180: 'back', [-180]: 'back' };
  return named[degrees] ?? `${Math.abs(degrees)}° to the ${degrees > 0 ? 'left' : 'right'}`;
}

/** A clip whose root is moved to the left, so that figures stand beside each other. */
function movedBeside(clip: Clip, metres: number): Clip {
  const moves = clip.moves.map((move) =>
    move.joint === 0 ? { ...move, values: move.values.map((v, i) => (i % 3 === 0 ? v + metres : v)) } : move,
  );
  return { ...clip, moves };
}
