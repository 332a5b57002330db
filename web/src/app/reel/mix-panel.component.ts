import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { NumberComponent } from '../shared/number.component';
import { TakePickerComponent } from '../shared/take-picker.component';
import { PlaybackService } from '../timeline/playback.service';
import { ReelFindStore } from './reel-find.store';
import { ReelStore } from './reel.store';

/** Cycles mixed by a value, keyed over the clip or dragged while it plays. */
@Component({
  selector: 'hs-mix-panel',
  imports: [NumberComponent, TakePickerComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (clip(); as one) {
      @if (one.mix; as mix) {
        <hs-number
          name="value here"
          unit=""
          [value]="value()"
          [step]="0.05"
          [digits]="2"
          [low]="-1000"
          [high]="1000"
          (changed)="store.setValue($event)"
        />
        <hs-number
          name="goes on for"
          unit="s"
          [value]="mix.seconds"
          [step]="0.5"
          [digits]="2"
          [low]="0.1"
          [high]="3600"
          (changed)="store.changeMix({ seconds: $event }, 'seconds')"
        />
        @for (cycle of mix.cycles; track $index; let i = $index) {
          <hs-number
            [name]="nameOf(cycle.take)"
            [label]="'value of ' + nameOf(cycle.take)"
            unit=""
            [value]="cycle.value"
            [step]="0.05"
            [digits]="2"
            [low]="-1000"
            [high]="1000"
            (changed)="setCycle(i, $event)"
          />
        }
        <p class="hint">
          @for (key of mix.keys; track key.at; let i = $index) {
            <button
              type="button"
              class="btn btn-quiet num"
              title="Remove this value"
              [disabled]="mix.keys.length < 2"
              (click)="removeKey(i)"
            >
              {{ key.at.toFixed(2) }} s: {{ key.value.toFixed(2) }}
            </button>
          }
        </p>
      } @else {
        <p class="hint">The clip's cycle is mixed with another take's by a value, as a walk is with a run by their speeds.</p>
      }
      <div class="line">
        <hs-take-picker label="Take to mix with" [take]="takeId()" (choose)="take.set($event)" />
        <button type="button" class="btn btn-sm btn-plain" [disabled]="(one.mix?.cycles?.length ?? 0) > 2" (click)="mix()">
          Mix with it
        </button>
      </div>
      @if (one.mix) {
        <button type="button" class="btn btn-sm btn-plain" (click)="store.changeClip({ mix: null })">No mix</button>
      }
    }
  `,
  styleUrl: './panel.scss',
})
export class MixPanelComponent {
  protected readonly store = inject(ReelStore);
  private readonly find = inject(ReelFindStore);
  protected readonly rack = toSignal(inject(ProjectStore).rack$, { requireSync: true });
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly frame = toSignal(inject(PlaybackService).state$.pipe(map(({ frame }) => frame)), { initialValue: 0 });
  protected readonly take = signal('');
  protected readonly takeId = computed(() => this.take() || (this.rack().takes.at(0)?.id ?? ''));
  protected readonly clip = computed(() => {
    const { reel, chosen } = this.state();
    return reel?.content.lanes[chosen.lane]?.clips[chosen.clip];
  });
  /** The value at the moment that is shown. */
  protected readonly value = computed(() => {
    const keys = this.clip()?.mix?.keys ?? [];
    this.frame();
    const at = this.store.secondOfMix();
    const next = keys.findIndex((key) => key.at > at);
    if (next === 0 || keys.length === 0) return keys.at(0)?.value ?? 0;
    if (next < 0) return keys[keys.length - 1].value;
    const [a, b] = [keys[next - 1], keys[next]];
    return a.value + ((b.value - a.value) * (at - a.at)) / (b.at - a.at);
  });

  protected nameOf(take: string): string {
    return this.rack().takes.find(({ id }) => id === take)?.name ?? 'a take that is gone';
  }

  protected mix(): void {
    const take = this.rack().takes.find(({ id }) => id === this.takeId());
    if (take) this.find.mixWith(take);
  }

  protected setCycle(at: number, value: number): void {
    const cycles = this.clip()?.mix?.cycles ?? [];
    if (cycles.some((cycle, i) => i !== at && cycle.value === value)) return;
    this.store.changeMix({ cycles: cycles.map((cycle, i) => (i === at ? { ...cycle, value } : cycle)) }, `cycle ${at}`);
  }

  protected removeKey(at: number): void {
    this.store.changeMix({ keys: (this.clip()?.mix?.keys ?? []).filter((_, i) => i !== at) });
  }
}
