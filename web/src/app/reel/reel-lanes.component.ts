import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { RovingDirective } from '../shared/roving.directive';
import { LanesView } from '../solve/lanes/lanes-view';
import { LanesZoomComponent } from '../solve/lanes/zoom.component';
import { PlaybackService } from '../timeline/playback.service';
import { ReelStore } from './reel.store';

/** A clip that is dragged along its lane. */
interface Draft {
  readonly lane: number;
  readonly clip: number;
  readonly anchor: number;
  readonly by: number;
}

/** The reel over time: a lane for each character, a bar for each clip, joined where two overlap. */
@Component({
  selector: 'hs-reel-lanes',
  imports: [LanesZoomComponent, RovingDirective],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './reel-lanes.component.html',
  styleUrls: ['../solve/lanes/lanes.component.scss', './reel-lanes.component.scss'],
})
export class ReelLanesComponent {
  protected readonly store = inject(ReelStore);
  private readonly playback = inject(PlaybackService);
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly draft = signal<Draft | undefined>(undefined);
  private isSeeking = false;
  protected readonly frames = toSignal(this.playback.state$.pipe(map(({ frames }) => frames)), { initialValue: 0 });
  protected readonly view = new LanesView(
    this.frames,
    toSignal(this.playback.state$, { requireSync: true }),
    () => this.area().nativeElement,
  );
  protected readonly frame = this.view.frame;
  protected readonly lanes = computed(() => {
    const { reel, played, chosen } = this.state();
    const fps = reel?.content.fps ?? 60;
    return (reel?.content.lanes ?? []).map((lane, index) => {
      const made = played?.lanes[index];
      return {
        index,
        name: lane.name,
        isOn: lane.on,
        isChosen: chosen.lane === index,
        fault: made && 'fault' in made && lane.on && lane.clips.length > 0 ? made.fault.message : '',
        bars: lane.clips.map((clip, at) => {
          const placed = made && 'placed' in made ? made.placed.find((one) => one.index === at) : undefined;
          const first = placed?.first ?? Math.round((clip.start / lane.pace + lane.shift) * fps);
          const last = placed?.last ?? first + fps;
          const seam =
            placed && placed.overlap === 0 && placed.seam > 0.05 ? `, comes in at once, ${(placed.seam * 1000).toFixed(0)} mm off` : '';
          return {
            at,
            first,
            last,
            overlap: placed?.overlap ?? 0,
            name: clip.name,
            marks: clip.mix
              ? 'mix'
              : [clip.reverse ? '◂' : '', clip.repeats > 1 ? `×${clip.repeats}` : '', clip.rate !== 1 ? `${clip.rate}×` : '']
                  .filter(Boolean)
                  .join(' '),
            isChosen: chosen.lane === index && chosen.clip === at,
            text: `${clip.name}, ${(first / fps).toFixed(2)} to ${(last / fps).toFixed(2)} s${placed?.overlap ? ', gone over into' : ''}${seam}`,
          };
        }),
      };
    });
  });

  protected leftOf(lane: number, clip: number, first: number): number {
    const draft = this.draft();
    return this.view.left(first + (draft?.lane === lane && draft.clip === clip ? draft.by : 0));
  }

  protected grab(event: PointerEvent): void {
    if (event.button !== 0) return;
    this.area().nativeElement.setPointerCapture(event.pointerId);
    this.playback.pause();
    const bar = (event.target as HTMLElement).closest<HTMLElement>('[data-clip]');
    const frame = this.view.frameAt(event);
    if (bar) {
      const [lane, clip] = bar.dataset['clip']!.split(' ').map(Number);
      this.store.choose({ lane, clip });
      this.draft.set({ lane, clip, anchor: frame, by: 0 });
    } else {
      this.isSeeking = true;
      this.playback.seek(frame);
    }
  }

  protected drag(event: PointerEvent): void {
    const draft = this.draft();
    const frame = this.view.frameAt(event);
    if (draft) this.draft.set({ ...draft, by: frame - draft.anchor });
    else if (this.isSeeking) this.playback.seek(frame);
  }

  protected drop(): void {
    this.isSeeking = false;
    const draft = this.draft();
    this.draft.set(undefined);
    if (draft && draft.by !== 0) this.shift(draft.by);
  }

  protected lost(): void {
    this.isSeeking = false;
    this.draft.set(undefined);
  }

  /** Alt with an arrow moves a clip by a frame, with Shift by ten. */
  protected press(event: KeyboardEvent, lane: number, clip: number): void {
    const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (event.altKey && way !== 0) {
      this.store.choose({ lane, clip });
      this.shift(way * (event.shiftKey ? 10 : 1));
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      this.store.choose({ lane, clip });
      this.store.removeClip();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private shift(frames: number): void {
    const { lane, clip } = this.store;
    const fps = this.store.content?.fps ?? 60;
    if (!lane || !clip) return;
    const start = Math.max(0, clip.start + (frames / fps) * lane.pace);
    this.store.changeClip({ start: Math.round(start * 1000) / 1000 }, 'start');
  }
}
