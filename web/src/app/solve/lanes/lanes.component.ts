import { worstFirst } from '@hollow-stride/core';
import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { Solved } from '../../solver/messages';
import { PlaybackService } from '../../timeline/playback.service';
import { ContactsStore } from '../contacts.store';
import { nameOf, TouchUpsStore } from '../touch-ups/touch-ups.store';
import { BarStripComponent } from './bar-strip.component';
import { curveOf } from './curve';
import { KeyLaneComponent } from './key-lane.component';
import { LanesView } from './lanes-view';
import { LanesZoomComponent } from './zoom.component';
import { lanesOf, type Bar, type Lane, type LaneOf, type RestBar } from './lanes';
import { RovingDirective } from '../../shared/roving.directive';

interface Chosen {
  readonly key: string;
  readonly first: number;
}

/** An end that is dragged, or a span that is painted. */
interface Draft {
  readonly lane: Lane;
  readonly was: Bar | undefined;
  readonly end: 'first' | 'last';
  /** Where the pointer went down. */
  readonly anchor: number;
  readonly first: number;
  readonly last: number;
}

/**
 * Under the transport: a lane for each heel and ball with its plants, and for the hands with what they touch; the foot's height and
 * speed behind. Bars are dragged at their ends, painted, split, joined and removed; what the judge saw resting and is not held
 * stands as a hollow bar, and one press holds it.
 */
@Component({
  selector: 'hs-lanes',
  imports: [RovingDirective, BarStripComponent, KeyLaneComponent, LanesZoomComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './lanes.component.html',
  styleUrl: './lanes.component.scss',
})
export class LanesComponent {
  readonly solved = input<Solved | undefined>();
  /** Show how the plain transfer holds what rests. */
  readonly before = input(false);
  protected readonly contacts = inject(ContactsStore);
  protected readonly playback = inject(PlaybackService);
  private readonly state = toSignal(this.playback.state$, { requireSync: true });
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');

  private readonly entries = toSignal(inject(TouchUpsStore).entries$, { initialValue: [] });
  protected readonly keyed = computed(() => this.entries().filter(({ touchUp }) => touchUp.keys.length > 0));
  protected readonly nameOf = nameOf;
  protected readonly painting = signal(false);
  protected readonly draft = signal<Draft | undefined>(undefined);
  private readonly chosen = signal<Chosen | undefined>(undefined);
  /** The pointer moves the transport, not a bar. */
  private isSeeking = false;

  protected readonly frames = computed(() => this.solved()?.take.frames ?? 0);
  protected readonly view = new LanesView(this.frames, this.state, () => this.area().nativeElement);
  protected readonly frame = this.view.frame;
  protected readonly groups = computed(() => {
    const solved = this.solved();
    return lanesOf(solved, (this.before() ? solved?.report.plain : solved?.report.verdict)?.rests ?? []).map((group) => {
      const curve = solved?.curves.find(({ side }) => side === group.curve);
      return { ...group, height: curveOf(curve?.heights, 0.3), speed: curveOf(curve?.speeds, 3) };
    });
  });
  /** Figures over their limits, where they are worst. */
  protected readonly marks = computed(() =>
    worstFirst(this.solved()?.report.verdict.figures ?? []).flatMap(({ id, name, words, mark, frame }) =>
      frame !== undefined && (mark === 'fault' || mark === 'caution') ? [{ id, name, words, mark, frame }] : [],
    ),
  );
  protected readonly selected = computed(() => {
    const chosen = this.chosen();
    const lane = this.groups()
      .flatMap(({ lanes }) => lanes)
      .find(({ key }) => key === chosen?.key);
    const bar = lane?.bars.find(({ first }) => first === chosen?.first);
    return lane && bar ? { lane, bar, next: lane.bars.find(({ first }) => first > bar.first) } : undefined;
  });

  protected left(frame: number): number {
    return this.view.left(frame);
  }

  protected width({ first, last }: Pick<Bar, 'first' | 'last'>): number {
    return this.view.width(last - first + 1);
  }

  protected choose(lane: Lane, bar: Bar): void {
    this.chosen.set({ key: lane.key, first: bar.first });
  }

  protected isChosen(lane: Lane, bar: Bar): boolean {
    const selected = this.selected();
    return selected?.lane.key === lane.key && selected.bar.first === bar.first;
  }

  /** Makes a rest that the judge saw a hold. */
  protected hold({ key, of }: Lane, rest: RestBar): void {
    const raised = of.kind === 'plant' && Math.abs(rest.height) > 0.03;
    this.contacts.add(of, rest, raised ? rest.height : null);
    this.chosen.set({ key, first: rest.first });
  }

  protected barKey(event: KeyboardEvent, { of }: Lane, bar: Bar): void {
    if (event.key !== 'Delete' && event.key !== 'Backspace') return;
    event.preventDefault();
    event.stopPropagation();
    this.contacts.remove(of, bar);
  }

  protected resized(span: { first: number; last: number }): void {
    const selected = this.selected();
    if (!selected) return;
    this.chosen.set({ key: selected.lane.key, first: span.first });
    this.contacts.resize(selected.lane.of, selected.bar, span);
  }

  protected remove({ of }: Lane, bar: Bar): void {
    this.contacts.remove(of, bar);
    this.area().nativeElement.focus();
  }

  protected split(of: LaneOf): void {
    this.contacts.split(of, this.frame());
  }

  protected grab(event: PointerEvent): void {
    if (event.button !== 0) return;
    const area = this.area().nativeElement;
    area.setPointerCapture(event.pointerId);
    this.playback.pause();
    const lane = this.laneOf(event);
    const frame = this.view.frameAt(event);
    const end = (event.target as HTMLElement).dataset['end'] as Draft['end'] | undefined;
    const bar = lane?.bars.find(
      ({ first }) => String(first) === (event.target as HTMLElement).closest<HTMLElement>('[data-first]')?.dataset['first'],
    );
    if (lane && bar && end) {
      this.choose(lane, bar);
      this.draft.set({ lane, was: bar, end, anchor: end === 'first' ? bar.last : bar.first, first: bar.first, last: bar.last });
    } else if (lane && this.painting()) this.draft.set({ lane, was: undefined, end: 'last', anchor: frame, first: frame, last: frame });
    else {
      if (lane && bar) this.choose(lane, bar);
      this.isSeeking = true;
      this.playback.seek(frame);
    }
  }

  protected drag(event: PointerEvent): void {
    const draft = this.draft();
    const frame = this.view.frameAt(event);
    if (draft) this.draft.set({ ...draft, first: Math.min(frame, draft.anchor), last: Math.max(frame, draft.anchor) });
    if (draft || this.isSeeking) this.playback.seek(frame);
  }

  protected drop(): void {
    this.isSeeking = false;
    const draft = this.draft();
    this.draft.set(undefined);
    if (!draft) return;
    const { lane, was, first, last } = draft;
    this.chosen.set({ key: lane.key, first });
    if (was) this.contacts.resize(lane.of, was, { first, last });
    else this.contacts.add(lane.of, { first, last });
  }

  protected lost(): void {
    this.isSeeking = false;
    this.draft.set(undefined);
  }

  private laneOf(event: Event): Lane | undefined {
    const key = (event.target as HTMLElement).closest<HTMLElement>('[data-lane]')?.dataset['lane'];
    return this.groups()
      .flatMap(({ lanes }) => lanes)
      .find((lane) => lane.key === key);
  }
}
