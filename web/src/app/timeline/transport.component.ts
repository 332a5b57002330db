import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { PlaybackService, SPEEDS } from './playback.service';

/** Play, step, scrub, speed and loop. */
@Component({
  selector: 'hs-transport',
  imports: [AsyncPipe, DecimalPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (playback.state$ | async; as s) {
      <div class="bar" role="group" aria-label="Transport">
        <button type="button" class="btn btn-quiet" (click)="playback.seek(0)" title="First frame (Home)">
          <i class="bi bi-skip-start-fill" aria-hidden="true"></i><span class="visually-hidden">First frame</span>
        </button>
        <button type="button" class="btn btn-quiet" (click)="playback.step(-1)" title="One frame back (←)">
          <i class="bi bi-caret-left-fill" aria-hidden="true"></i><span class="visually-hidden">One frame back</span>
        </button>
        <button
          type="button"
          class="btn btn-quiet play"
          (click)="playback.toggle()"
          [disabled]="s.frames < 2"
          title="Play or pause (Space)"
        >
          <i class="bi" [class.bi-play-fill]="!s.playing" [class.bi-pause-fill]="s.playing" aria-hidden="true"></i>
          {{ s.playing ? 'Pause' : 'Play' }}
        </button>
        <button type="button" class="btn btn-quiet" (click)="playback.step(1)" title="One frame on (→)">
          <i class="bi bi-caret-right-fill" aria-hidden="true"></i><span class="visually-hidden">One frame on</span>
        </button>
        <button type="button" class="btn btn-quiet" (click)="playback.seek(s.frames - 1)" title="Last frame (End)">
          <i class="bi bi-skip-end-fill" aria-hidden="true"></i><span class="visually-hidden">Last frame</span>
        </button>
        <output class="num" aria-label="Frame"
          >{{ s.frame + 1 }}<span class="soft"> / {{ s.frames }}</span></output
        >
        <output class="num soft" aria-label="Time">{{ s.frame * s.frameTime | number: '1.2-2' }} s</output>
        <span class="grow"></span>
        <label class="speed"
          >speed
          <select class="form-select form-select-sm" [value]="s.speed" (change)="setSpeed($event)">
            @for (speed of speeds; track speed) {
              <option [value]="speed" [selected]="speed === s.speed">{{ speed }}×</option>
            }
          </select>
        </label>
        <button
          type="button"
          class="btn btn-quiet"
          [attr.aria-pressed]="s.loop"
          [class.on]="s.loop"
          (click)="playback.setLoop(!s.loop)"
          title="Loop (L)"
        >
          <i class="bi bi-repeat" aria-hidden="true"></i> loop
        </button>
      </div>
    }
  `,
  styles: `
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px;
      padding: 3px 8px;
      border-bottom: 1px solid var(--hs-rule);
    }
    .play {
      min-width: 74px;
      font-weight: 600;
    }
    output {
      margin-left: 6px;
      min-width: 84px;
    }
    .grow {
      flex: 1;
    }
    .speed {
      display: flex;
      align-items: center;
      gap: 6px;
      color: var(--hs-ink-soft);
    }
    .speed select {
      width: 72px;
    }
    @media (max-width: 1100px) {
      output {
        min-width: 68px;
      }
    }
    .on {
      box-shadow: inset 0 -2px 0 var(--hs-act);
      font-weight: 600;
    }
  `,
})
export class TransportComponent {
  protected readonly playback = inject(PlaybackService);
  protected readonly speeds = SPEEDS;

  protected setSpeed(event: Event): void {
    this.playback.setSpeed(Number((event.target as HTMLSelectElement).value));
  }
}
