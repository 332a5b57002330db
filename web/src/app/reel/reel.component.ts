import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { map } from 'rxjs';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { GroupComponent } from '../shared/group.component';
import { KeepByNameComponent } from '../shared/keep-by-name.component';
import { KeysService } from '../shared/keys.service';
import { ResizeDirective } from '../shared/resize.directive';
import { FigureStageComponent } from '../stage/figure-stage.component';
import type { Figure } from '../stage/figure-view';
import type { ViewName } from '../stage/options';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { ClipPanelComponent } from './clip-panel.component';
import { LanePanelComponent } from './lane-panel.component';
import { MixPanelComponent } from './mix-panel.component';
import { ReelLanesComponent } from './reel-lanes.component';
import { ReelTouchesComponent } from './touches-panel.component';
import { ReelStore } from './reel.store';

/** The reel: clips of one or more characters in time, on one stage. */
@Component({
  selector: 'hs-reel',
  imports: [
    AsyncPipe,
    ClipPanelComponent,
    FigureStageComponent,
    GroupComponent,
    KeepByNameComponent,
    LanePanelComponent,
    MixPanelComponent,
    ReelLanesComponent,
    ReelTouchesComponent,
    ResizeDirective,
    RouterLink,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './reel.component.html',
  styleUrl: './reel.component.scss',
})
export class ReelComponent {
  protected readonly store = inject(ReelStore);
  protected readonly items = inject(ItemsStore);
  private readonly playback = inject(PlaybackService);
  protected readonly reels$ = inject(ProjectStore).rack$.pipe(map(({ reels }) => reels));
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly frame = toSignal(this.playback.state$.pipe(map(({ frame }) => frame)), { initialValue: 0 });
  protected readonly looked = signal<ViewName>('free');
  protected readonly figures = computed((): Figure[] => {
    const { played } = this.state();
    return (played?.lanes ?? []).flatMap((lane, i): Figure[] =>
      'clip' in lane
        ? [
            {
              key: `${i} ${lane.display.mesh?.file ?? lane.display.skeleton.names.join()}`,
              display: lane.display,
              look: 'character',
              show: 'mesh',
              clip: lane.clip,
            },
          ]
        : [],
    );
  });

  constructor() {
    inject(KeysService).listen((event) => this.key(event));
    effect(() => {
      const { played } = this.state();
      if (!played || played.frames === 0) return;
      const now = this.playback.state;
      const frameTime = 1 / played.content.fps;
      if (now.frames !== played.frames || now.frameTime !== frameTime) this.playback.setClip(played.frames, frameTime);
    });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected open(event: Event): void {
    this.store.open((event.target as HTMLSelectElement).value);
  }

  private key(event: KeyboardEvent): boolean {
    const key = event.key.toLowerCase();
    if (key === 's') this.store.split();
    else if (key === 'delete') this.store.removeClip();
    else return transportKey(event, this.playback);
    return true;
  }
}
