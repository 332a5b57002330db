import { ChangeDetectionStrategy, Component, computed, type ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { LayerKey } from '@hollow-stride/core';
import { RovingDirective } from '../shared/roving.directive';
import { LanesView } from '../solve/lanes/lanes-view';
import { LanesZoomComponent } from '../solve/lanes/zoom.component';
import { PlaybackService } from '../timeline/playback.service';
import { LayerKeysStore } from './layer-keys.store';
import { LayersStore, type LayerEntry } from './layers.store';
import { nameOfTrack } from './tracks';

/** A mask that is dragged: by its whole, or by an end. */
interface Draft {
  readonly entry: LayerEntry;
  readonly end: 'from' | 'to' | 'both';
  readonly anchor: number;
  readonly from: number;
  readonly to: number;
}

interface DraggedKey {
  readonly track: number;
  readonly key: LayerKey;
  readonly frame: number;
  readonly x: number;
}

/** Under the transport: a lane for each layer with its time, and for each joint that the current one keys with its keys. */
@Component({
  selector: 'hs-layer-lanes',
  imports: [LanesZoomComponent, RovingDirective],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './layer-lanes.component.html',
  styleUrls: ['../solve/lanes/lanes.component.scss', './layer-lanes.component.scss'],
})
export class LayerLanesComponent {
  readonly frames = input(0);
  protected readonly store = inject(LayersStore);
  protected readonly keys = inject(LayerKeysStore);
  protected readonly playback = inject(PlaybackService);
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');
  private readonly entries = toSignal(this.store.entries$, { initialValue: [] });
  protected readonly current = toSignal(this.store.current$);
  protected readonly draft = signal<Draft | undefined>(undefined);
  protected readonly dragged = signal<DraggedKey | undefined>(undefined);
  private isSeeking = false;

  protected readonly view = new LanesView(
    this.frames,
    toSignal(this.playback.state$, { requireSync: true }),
    () => this.area().nativeElement,
  );
  protected readonly frame = this.view.frame;
  protected readonly lanes = computed(() => {
    const current = this.current()?.index;
    return [...this.entries()].reverse().map((entry) => {
      const does = entry.layer.does;
      const tracks = entry.index === current && (does.kind === 'turns' || does.kind === 'reach') ? does.tracks : [];
      return {
        entry,
        isCurrent: entry.index === current,
        tracks: tracks.map((track, i) => ({ i, name: nameOfTrack(track), keys: track.keys })),
      };
    });
  });

  /** Where a layer is laid on, in percent of the window: whole, and with its soft edges. */
  protected spanOf(entry: LayerEntry): { left: number; width: number; soft: number } {
    const draft = this.draft();
    const { mask } = entry.layer;
    const drawn = draft?.entry.index === entry.index;
    const from = drawn ? draft.from : mask ? this.store.frameAt(mask.from) : 0;
    const to = drawn ? draft.to : mask ? this.store.frameAt(mask.to) : this.frames();
    const scale = 100 / this.view.window().count;
    return { left: this.view.left(from), width: Math.max(0.3, (to - from) * scale), soft: mask ? this.fadeOf(mask.fade) * scale : 0 };
  }

  private fadeOf(seconds: number): number {
    return this.store.frameAt(seconds) - this.store.frameAt(0);
  }

  protected text({ layer }: LayerEntry): string {
    const { mask, name } = layer;
    return mask ? `${name}, ${mask.from.toFixed(2)} to ${mask.to.toFixed(2)} s` : `${name}, always`;
  }

  protected leftOfKey(track: number, key: LayerKey): number {
    const dragged = this.dragged();
    return this.view.left((dragged?.track === track && dragged.key === key ? dragged.frame : Math.round(this.store.frameAt(key.at))) + 0.5);
  }

  protected textOfKey(name: string, { at, value, tangent }: LayerKey): string {
    return `${name} ${value.join(', ')}, ${tangent}, at frame ${Math.round(this.store.frameAt(at)) + 1}`;
  }

  protected grab(event: PointerEvent): void {
    if (event.button !== 0) return;
    this.area().nativeElement.setPointerCapture(event.pointerId);
    this.playback.pause();
    const target = event.target as HTMLElement;
    const index = target.closest<HTMLElement>('[data-layer]')?.dataset['layer'];
    const entry = this.entries().find((one) => String(one.index) === index);
    const frame = this.view.frameAt(event);
    const mask = entry?.layer.mask;
    if (entry && mask) {
      const end = (target.dataset['end'] as 'from' | 'to' | undefined) ?? 'both';
      this.draft.set({ entry, end, anchor: frame, from: this.store.frameAt(mask.from), to: this.store.frameAt(mask.to) });
    } else {
      this.isSeeking = true;
      this.playback.seek(frame);
    }
  }

  protected drag(event: PointerEvent): void {
    const frame = this.view.frameAt(event);
    const draft = this.draft();
    const mask = draft?.entry.layer.mask;
    if (draft && mask) {
      const [from, to] = [this.store.frameAt(mask.from), this.store.frameAt(mask.to)];
      const by = frame - draft.anchor;
      if (draft.end === 'both') this.draft.set({ ...draft, from: from + by, to: to + by });
      else if (draft.end === 'from') this.draft.set({ ...draft, from: Math.min(from + by, to) });
      else this.draft.set({ ...draft, to: Math.max(to + by, from) });
    } else if (this.isSeeking) this.playback.seek(frame);
  }

  protected drop(): void {
    this.isSeeking = false;
    const draft = this.draft();
    this.draft.set(undefined);
    const mask = draft?.entry.layer.mask;
    if (!draft || !mask) return;
    const [from, to] = [this.store.secondsAt(draft.from), this.store.secondsAt(draft.to)];
    if (Math.abs(from - mask.from) + Math.abs(to - mask.to) < 1e-6) this.store.choose(draft.entry.index);
    else this.store.change(draft.entry.index, { mask: { ...mask, from, to } }, `time of ${draft.entry.layer.name}`);
  }

  protected lost(): void {
    this.isSeeking = false;
    this.draft.set(undefined);
  }

  protected grabKey(event: PointerEvent, track: number, key: LayerKey): void {
    event.stopPropagation();
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    const frame = Math.round(this.store.frameAt(key.at));
    this.dragged.set({ track, key, frame, x: event.clientX });
    this.playback.pause();
    this.playback.seek(frame);
  }

  protected dragKey(event: PointerEvent): void {
    const dragged = this.dragged();
    if (!dragged) return;
    event.stopPropagation();
    const by = ((event.clientX - dragged.x) / this.area().nativeElement.clientWidth) * this.view.window().count;
    this.dragged.set({ ...dragged, frame: Math.max(0, Math.min(this.frames() - 1, Math.round(this.store.frameAt(dragged.key.at) + by))) });
  }

  protected dropKey(event: PointerEvent): void {
    event.stopPropagation();
    const dragged = this.dragged();
    this.dragged.set(undefined);
    if (dragged && dragged.frame !== Math.round(this.store.frameAt(dragged.key.at)))
      this.moveKey(dragged.track, dragged.key, dragged.frame);
  }

  protected pressKey(event: KeyboardEvent, track: number, key: LayerKey): void {
    const current = this.current();
    if (!current) return;
    const frame = Math.round(this.store.frameAt(key.at));
    if (event.key === 'Enter') this.playback.seek(frame);
    else if (event.altKey && event.key === 'ArrowLeft') this.moveKey(track, key, Math.max(0, frame - 1));
    else if (event.altKey && event.key === 'ArrowRight') this.moveKey(track, key, frame + 1);
    else if (event.key === 'Delete' || event.key === 'Backspace') {
      const { keys } = this.keys.tracksOf(current.index)[track];
      this.keys.setKeys(
        current.index,
        track,
        keys.filter((one) => one.at !== key.at),
        'remove a key',
      );
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private moveKey(track: number, key: LayerKey, frame: number): void {
    const current = this.current();
    if (current) this.keys.moveKey(current.index, track, key.at, this.store.secondsAt(frame));
    this.playback.seek(frame);
  }
}
