import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NumberComponent } from '../shared/number.component';
import { TakeTimeService } from '../solve/take-time.service';
import { PlaybackService } from '../timeline/playback.service';
import { FaceStore } from './face.store';

/** Faults that are listed before a person asks for all. */
const FEW = 8;

/** The recording of the face: where it lies, its faults, and how it is cleaned. */
@Component({
  selector: 'hs-recording-panel',
  imports: [DecimalPipe, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let s = state();
    @if (s.set; as set) {
      @if (facts(); as f) {
        <p class="small soft num">
          {{ f.channels.length }} channels, {{ f.fps | number: '1.0-2' }} a second, {{ f.seconds | number: '1.2-2' }} s
        </p>
      }
      <hs-number
        name="begins at"
        unit="s"
        [value]="set.offset"
        [usual]="0"
        [step]="0.01"
        [digits]="3"
        [low]="-100000"
        [high]="100000"
        (changed)="store.layAt($event)"
      />
      @if (facts(); as f) {
        <hs-number
          name="recorded at"
          unit="1/s"
          [value]="set.rate ?? f.fps"
          [digits]="3"
          [low]="1"
          [high]="1000"
          (changed)="store.setFace({ rate: $event }, 'set the rate of the face', 'face rate')"
          (cleared)="store.setFace({ rate: null }, 'the rate of the face as its file says')"
        />
      }
      <label class="tick">
        <input type="checkbox" [checked]="set.spikes" (change)="setSpikes($event)" /> take out spikes of single frames
      </label>
      <hs-number name="smooth below" unit="Hz" [value]="set.smooth ?? 0" [usual]="0" [low]="0" [high]="100" (changed)="setSmooth($event)" />
      @if (faults().length > 0) {
        <h3>Faults</h3>
        <ul aria-label="Faults of the recording">
          @for (fault of faults(); track $index) {
            <li>
              <i class="bi bi-exclamation-triangle-fill caution" aria-hidden="true"></i>
              <button type="button" class="link" (click)="seek(fault.from)">{{ fault.message }}</button>
            </li>
          }
        </ul>
        @if (flat().length > 0) {
          <p class="small soft">{{ flat().length }} channels do not move: {{ flat().join(', ') }}</p>
        }
      } @else if (flat().length > 0) {
        <p class="small soft">No faults. {{ flat().length }} channels do not move: {{ flat().join(', ') }}</p>
      }
    } @else {
      <p class="small soft">Choose a face recording above, or bring one in: a table (CSV, JSON) or a GLB file with morph animation.</p>
    }
  `,
  styles: `
    .tick {
      display: flex;
      gap: 6px;
      margin: 4px 0;
      font-size: 12.5px;
    }
    .small {
      margin: 2px 0 6px;
      font-size: 12.5px;
      overflow-wrap: anywhere;
    }
    .soft {
      color: var(--hs-ink-soft);
    }
    h3 {
      margin: 8px 0 2px;
      font-size: 12.5px;
      font-weight: 600;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
      font-size: 12.5px;
    }
    .link {
      padding: 0;
      border: 0;
      background: none;
      color: inherit;
      text-align: left;
      text-decoration: underline dotted;
    }
    .caution {
      color: var(--hs-caution);
    }
  `,
})
export class RecordingPanelComponent {
  protected readonly store = inject(FaceStore);
  private readonly playback = inject(PlaybackService);
  private readonly time = inject(TakeTimeService);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly facts = computed(() => {
    const facts = this.state().recording?.facts;
    return facts?.kind === 'face' ? facts : undefined;
  });
  protected readonly faults = computed(() => (this.facts()?.faults ?? []).filter(({ kind }) => kind !== 'flat').slice(0, FEW));
  protected readonly flat = computed(() =>
    (this.facts()?.faults ?? []).flatMap(({ kind, channel }) => (kind === 'flat' && channel ? [channel] : [])),
  );

  protected setSpikes(event: Event): void {
    const spikes = (event.target as HTMLInputElement).checked;
    this.store.setFace({ spikes }, spikes ? 'take spikes out of the face' : 'leave spikes in the face');
  }

  protected setSmooth(hertz: number): void {
    this.store.setFace({ smooth: hertz < 0.1 ? null : hertz }, 'smooth the face', 'face smooth');
  }

  /** Goes to a frame of the recording. */
  protected seek(frame: number): void {
    const { set } = this.state();
    const facts = this.facts();
    if (set && facts) this.playback.seek(this.time.frameAt(facts.start + frame / facts.fps + set.offset));
  }
}
