import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject } from '@angular/core';
import { DecimalPipe } from '@angular/common';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { DepotFetch } from '@hollow-stride/contract';
import { map } from 'rxjs';
import { ChoicesComponent, type Choice } from '../../shared/choices.component';
import { KeysService } from '../../shared/keys.service';
import type { Figure } from '../../stage/figure-view';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import { PlaybackService } from '../../timeline/playback.service';
import { transportKey } from '../../timeline/transport-keys';
import { TransportComponent } from '../../timeline/transport.component';
import { DepotStore } from './depot.store';

const named = (...list: readonly (readonly [string, string, string?])[]): Choice[] =>
  list.map(([value, name, title]) => ({ value, name, title }));

/** The motion depot: look motions up, see them play, fetch them. */
@Component({
  selector: 'hs-depot',
  imports: [ChoicesComponent, DecimalPipe, FigureStageComponent, RouterLink, TransportComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './depot.component.html',
  styleUrl: './depot.component.scss',
})
export class DepotComponent {
  protected readonly store = inject(DepotStore);
  protected readonly playback = inject(PlaybackService);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly frame = toSignal(this.playback.state$.pipe(map((s) => s.frame)), { initialValue: 0 });
  protected readonly rates = [24, 25, 30, 50, 60, 120] as const;
  protected readonly travels = named(['travelling', 'travelling'], ['in-place', 'in place']);
  protected readonly bodies = named(
    ['motion', 'motion only', 'A BVH file: the skeleton and its motion'],
    ['with-body', 'with its body', 'A GLB file with the depot\u2019s performer'],
  );
  protected readonly lines = named(
    ['steady', 'steady', 'The line holds'],
    ['drops', 'drops once', 'The line breaks half way and is taken up again'],
    ['dead', 'goes dead', 'The line breaks and stays broken'],
  );
  protected readonly motion = computed(() => this.state().page?.motions.find(({ id }) => id === this.state().chosen));
  protected readonly figures = computed((): Figure[] => {
    const { preview } = this.state();
    if (!preview) return [];
    return [
      {
        key: preview.source.file,
        display: preview.display,
        look: 'performer',
        show: 'mesh',
        pose: preview.rest,
        ...(preview.clip ? { clip: preview.clip } : {}),
      },
    ];
  });

  constructor() {
    inject(KeysService).listen((event) => transportKey(event, this.playback));
    effect(() => {
      const clip = this.state().preview?.clip;
      if (!clip) return;
      this.playback.setClip(clip.frames, clip.frameTime);
      this.playback.seek(0);
      if (!matchMedia('(prefers-reduced-motion: reduce)').matches) this.playback.play();
    });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected value(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  protected set(key: 'travel' | 'body' | 'line', value: string): void {
    this.store.setOptions({ [key]: value } as Partial<DepotFetch>);
  }

  protected setRate(event: Event): void {
    this.store.setOptions({ fps: Number(this.value(event)) as DepotFetch['fps'] });
  }
}
