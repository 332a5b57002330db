import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, signal } from '@angular/core';
import { ScrollingModule } from '@angular/cdk/scrolling';
import { DecimalPipe } from '@angular/common';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import {
  describeFault,
  isRepairable,
  repairsAll,
  SMOOTHED_PARTS,
  turnCurves,
  type SmoothedPart,
  type TakeChoices,
} from '@hollow-stride/core';
import { distinctUntilChanged, map, skip } from 'rxjs';
import type { TakeFault } from '../../body/messages';
import { ItemsStore } from '../../project/items.store';
import { ProjectStore } from '../../project/project.store';
import { ChoicesComponent, type Choice } from '../../shared/choices.component';
import { GroupComponent } from '../../shared/group.component';
import { KeysService } from '../../shared/keys.service';
import { NumberComponent } from '../../shared/number.component';
import type { Figure } from '../../stage/figure-view';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import type { ViewName } from '../../stage/options';
import { PlaybackService } from '../../timeline/playback.service';
import { transportKey } from '../../timeline/transport-keys';
import { TransportComponent } from '../../timeline/transport.component';
import { CurveComponent } from './curve.component';
import { FloorKeysComponent } from './floor-keys.component';
import { RangeBarComponent } from './range-bar.component';
import { TakeStore } from './take.store';
import { ResizeDirective } from '../../shared/resize.directive';

/** Height of a fault's line, pixels, and lines that are in sight without scrolling. */
const FAULT_LINE = 40;
const FAULT_LINES = 5;
/** Seconds to either side of a fault that its curve is shown for. */
const ABOUT = 0.75;

type Shown = 'after' | 'before' | 'both';
/** A usual cut-off for each part, Hz: hands move faster than the trunk. */
const USUAL: Readonly<Record<SmoothedPart, number>> = { trunk: 6, head: 7, arms: 8, hands: 10, legs: 8 };

/** A take's own page: play it, trim it, lay it on its floor, clean it up, name it. */
@Component({
  selector: 'hs-take',
  imports: [
    ResizeDirective,
    ChoicesComponent,
    CurveComponent,
    DecimalPipe,
    FigureStageComponent,
    FloorKeysComponent,
    GroupComponent,
    NumberComponent,
    RangeBarComponent,
    RouterLink,
    ScrollingModule,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './take.component.html',
  styleUrl: './take.component.scss',
})
export class TakeComponent {
  /** From the address. */
  readonly id = input.required<string>();
  protected readonly store = inject(TakeStore);
  protected readonly project = inject(ProjectStore);
  protected readonly items = inject(ItemsStore);
  protected readonly playback = inject(PlaybackService);
  private readonly router = inject(Router);
  protected readonly describe = describeFault;
  /** Repairs that apply to every fault of their kind. */
  protected readonly repairs = [
    { key: 'gaps', name: 'fill gaps' },
    { key: 'spikes', name: 'remove spikes' },
    { key: 'jumps', name: 'ease jumps' },
  ] as const;
  protected readonly parts = SMOOTHED_PARTS;
  protected readonly usual = USUAL;
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly frame = toSignal(this.playback.state$.pipe(map((s) => s.frame)), { initialValue: 0 });
  protected readonly looked = signal<ViewName>('free');
  protected readonly shown = signal<Shown>('after');
  protected readonly joint = signal<number | undefined>(undefined);
  protected readonly rates = [24, 25, 30, 50, 60, 100, 120] as const;
  protected readonly showns: readonly Choice[] = [
    { value: 'after', name: 'as set' },
    { value: 'before', name: 'as recorded' },
    { value: 'both', name: 'both' },
  ];

  protected readonly choices = computed(() => this.state().take?.choices);
  protected readonly facts = computed(() => {
    const { take, view } = this.state();
    return take && view?.facts.clips[take.clip];
  });
  protected readonly frames = computed(() => this.state().view?.before.frames ?? 1);
  /** Seconds from frame to frame of the recording itself, in which handles are kept. */
  private readonly pace = computed(() => this.state().view?.before.frameTime ?? 1 / 30);
  /** The take's own second of the frame that is shown. */
  protected readonly now = computed(() => this.frame() * this.pace());
  protected readonly first = computed(() => this.frameAt(this.choices()?.from) ?? 0);
  protected readonly last = computed(() => Math.min(this.frameAt(this.choices()?.to) ?? this.frames() - 1, this.frames() - 1));
  protected readonly faults = computed(() => this.state().view?.faults ?? []);
  protected readonly remaining = computed(() => this.faults().filter(({ state }) => state === 'left'));
  protected readonly faultNote = computed(() => {
    const [all, left] = [this.faults().length, this.remaining().length];
    return all === 0 ? '0' : left === all ? String(all) : `${left} of ${all} left`;
  });
  protected readonly faultLine = FAULT_LINE;
  protected readonly faultsHeight = computed(() => Math.min(FAULT_LINES, this.faults().length) * FAULT_LINE);
  /** The fault that was pressed last, and the frames that its curve is shown for. */
  protected readonly picked = signal<TakeFault | undefined>(undefined);
  protected readonly zoomed = signal<{ first: number; last: number } | undefined>(undefined);
  protected readonly words = { left: '', repaired: 'repaired', trimmed: 'trimmed away' } as const;
  protected readonly marks = {
    left: 'bi-exclamation-triangle-fill caution',
    repaired: 'bi-check2 soft',
    trimmed: 'bi-scissors soft',
  } as const;
  protected readonly rest = computed(() => this.faults().find(({ kind }) => kind === 'rest'));
  protected readonly figures = computed((): Figure[] => {
    const { view, take } = this.state();
    if (!view || !take) return [];
    const key = `${view.source.file} ${JSON.stringify(view.source.skeleton)}`;
    const after: Figure = { key, display: view.display, look: 'performer', clip: view.after };
    const before: Figure = { key: `${key} before`, display: view.display, look: 'ghost', clip: view.before };
    return this.shown() === 'after' ? [after] : this.shown() === 'before' ? [before] : [after, before];
  });
  protected readonly floor = computed(() => this.state().view?.floor ?? 0);
  protected readonly joints = computed(() => {
    const names = this.state().view?.display.skeleton.names ?? [];
    const labelled = this.state().view?.display.labelled;
    return names.map((name, joint) => ({ name, joint })).filter(({ joint }) => labelled?.[joint] === 1);
  });
  /** The joint whose curve is shown: as chosen, else where the first fault is. */
  protected readonly curved = computed(() => {
    const chosen = this.joint();
    if (chosen !== undefined) return chosen;
    const names = this.state().view?.display.skeleton.names ?? [];
    const faulty = this.faults().find(({ joint }) => joint !== null)?.joint;
    const at = faulty ? names.indexOf(faulty) : -1;
    return at >= 0 ? at : (this.joints()[1]?.joint ?? 0);
  });
  protected readonly curves = computed(() => {
    const { view } = this.state();
    return view && turnCurves(view.before, view.after, this.curved());
  });

  constructor() {
    inject(KeysService).listen(
      (event) => this.key(event),
      (event) => this.keyUp(event),
    );
    effect(() => {
      this.store.open(this.id());
      this.project.find(this.id());
      this.project.choose({ take: this.id() });
    });
    // Another take that is chosen on the rack is opened in its place.
    this.project.selection$
      .pipe(
        map(({ take }) => take),
        distinctUntilChanged(),
        skip(1),
        takeUntilDestroyed(),
      )
      .subscribe((take) => {
        if (take !== undefined && take !== this.id()) void this.router.navigate(['/gather/take', take]);
      });
    effect(() => {
      const { view } = this.state();
      if (view) this.playback.setClip(view.before.frames, view.after.frameTime);
    });
    // Plays what is used, over and over.
    effect(() => {
      const frame = this.frame();
      if (!this.playback.state.playing) return;
      if (frame > this.last() || frame < this.first()) this.playback.seek(this.first());
    });
    inject(DestroyRef).onDestroy(() => {
      this.playback.pause();
      this.store.open(undefined);
    });
  }

  private frameAt(seconds: number | null | undefined): number | undefined {
    return seconds === null || seconds === undefined ? undefined : Math.round(seconds / this.pace());
  }

  protected value(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected move({ end, frame }: { end: 'in' | 'out'; frame: number }): void {
    const whole = end === 'in' ? frame === 0 : frame === this.frames() - 1;
    const seconds = whole ? null : frame * this.pace();
    this.store.set(end === 'in' ? { from: seconds } : { to: seconds }, `${end} at frame ${frame + 1}`, end);
  }

  protected whole(): void {
    this.store.set({ from: null, to: null }, 'use the whole take');
  }

  protected dropRest(frames: number): void {
    this.store.set({ from: frames * this.pace() }, frames === 1 ? 'drop the rest frame' : `drop ${frames} rest frames`);
  }

  protected setClean(change: Partial<TakeChoices['clean']>, text: string): void {
    const { choices } = this.state().take!;
    this.store.set({ clean: { ...choices.clean, ...change } }, text);
  }

  protected setRepair(key: 'gaps' | 'spikes' | 'jumps', on: boolean, text: string): void {
    this.setClean({ [key]: on }, text);
  }

  protected said({ joint, message }: TakeFault): string {
    return `${joint === null ? '' : `${joint}: `}${message}`;
  }

  /** Leads to a fault: playhead, curve of its joint, and the frames about it. */
  protected show(fault: TakeFault): void {
    const names = this.state().view?.display.skeleton.names ?? [];
    const about = Math.round(ABOUT / this.pace());
    this.picked.set(fault);
    this.playback.pause();
    this.playback.seek(fault.from);
    if (fault.joint !== null && names.includes(fault.joint)) this.joint.set(names.indexOf(fault.joint));
    this.zoomed.set(
      fault.kind === 'drift' ? undefined : { first: Math.max(0, fault.from - about), last: Math.min(this.frames() - 1, fault.to + about) },
    );
  }

  /** Repair of one fault alone; none for faults that are repaired with all of their kind. */
  protected canMend(fault: TakeFault): 'repair' | 'as recorded' | undefined {
    const clean = this.choices()?.clean;
    if (!clean || !isRepairable(fault.kind) || fault.state === 'trimmed') return undefined;
    if (repairsAll(clean, fault.kind)) return undefined;
    return clean.mended.some((one) => this.isOf(one, fault)) ? 'as recorded' : 'repair';
  }

  protected mend(fault: TakeFault): void {
    const { mended } = this.choices()!.clean;
    const { kind, from, to, joint } = fault;
    if (!isRepairable(kind)) return;
    const rest = mended.filter((one) => !this.isOf(one, fault));
    const isNew = rest.length === mended.length;
    this.setClean(
      { mended: isNew ? [...rest, { kind, from: from * this.pace(), to: to * this.pace(), joint }] : rest },
      `${isNew ? 'repair' : 'leave'} the ${kind} at frame ${from + 1}`,
    );
  }

  private isOf({ kind, from, joint }: TakeChoices['clean']['mended'][number], fault: TakeFault): boolean {
    return kind === fault.kind && joint === fault.joint && this.frameAt(from) === fault.from;
  }

  protected nameOf(part: SmoothedPart): string {
    return part === 'legs' ? 'hips and legs' : part;
  }

  protected setCutoff(part: SmoothedPart, hertz: number | null): void {
    const { clean } = this.state().take!.choices;
    const text = hertz === null ? `leave the ${this.nameOf(part)} as recorded` : `smooth the ${this.nameOf(part)} at ${hertz} Hz`;
    this.store.set({ clean: { ...clean, cutoff: { ...clean.cutoff, [part]: hertz } } }, text, `cutoff ${part}`);
  }

  protected smoothAll(on: boolean): void {
    const cutoff = Object.fromEntries(SMOOTHED_PARTS.map((part) => [part, on ? USUAL[part] : null])) as TakeChoices['clean']['cutoff'];
    this.setClean({ cutoff }, on ? 'smooth all parts' : 'smooth nothing');
  }

  protected seek(seconds: number): void {
    this.playback.seek(this.frameAt(seconds) ?? 0);
  }

  protected setFloor(change: Partial<TakeChoices['floor']>, text: string, key?: string): void {
    const { floor } = this.state().take!.choices;
    this.store.set({ floor: { ...floor, ...change } }, text, key);
  }

  /** Puts the lowest that the feet come at height zero. */
  protected toFloor(): void {
    const { take, view } = this.state();
    if (take && view) this.setFloor({ height: Math.round(-view.floor * 1e4) / 1e4 }, 'feet to the floor');
  }

  protected setRate(key: 'rate' | 'fps', event: Event): void {
    const value = this.value(event);
    const rate = value === '' ? null : Number(value);
    if (rate !== null && !(rate >= 1 && rate <= 480)) return;
    this.store.set({ [key]: rate }, key === 'rate' ? 'recorded rate' : 'resample');
  }

  /** Seconds over which the ends are drawn together; none leaves them. */
  protected setLoop(event: Event): void {
    const loop = Number(this.value(event));
    if (loop >= 0 && loop <= 5) this.store.set({ loop }, 'loop');
  }

  private key(event: KeyboardEvent): boolean {
    const key = event.key.toLowerCase();
    if (key === 'i') this.move({ end: 'in', frame: Math.min(this.frame(), this.last() - 1) });
    else if (key === 'o') this.move({ end: 'out', frame: Math.max(this.frame(), this.first() + 1) });
    else if (key === 'b') this.shown.set('before');
    else return transportKey(event, this.playback);
    return true;
  }

  private keyUp(event: KeyboardEvent): void {
    if (event.key.toLowerCase() === 'b') this.shown.set('after');
  }
}
