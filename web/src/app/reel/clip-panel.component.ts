import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { ReelClip } from '@hollow-stride/core';
import { NumberComponent } from '../shared/number.component';
import { ReelFindStore } from './reel-find.store';
import { ReelStore } from './reel.store';

/** The chosen clip: which piece of its take, when, how fast, how often, and how it is joined. */
@Component({
  selector: 'hs-clip-panel',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (clip(); as one) {
      <label class="line"
        ><span>name</span><input class="form-control form-control-sm" maxlength="80" [value]="one.name" (change)="rename($event)"
      /></label>
      <hs-number
        name="begins at"
        unit="s"
        [value]="one.start"
        [step]="0.1"
        [digits]="3"
        [low]="0"
        [high]="36000"
        (changed)="set({ start: $event }, 'start')"
      />
      @if (!one.mix && !one.pose) {
        <hs-number
          name="from"
          label="piece from, s"
          unit="s"
          [value]="one.from ?? 0"
          [step]="0.1"
          [digits]="3"
          [low]="0"
          [high]="one.to ?? 1000000"
          (changed)="set({ from: $event }, 'from')"
          (cleared)="set({ from: null })"
        />
        <hs-number
          name="to"
          label="piece to, s"
          unit="s"
          [value]="end()"
          [step]="0.1"
          [digits]="3"
          [low]="one.from ?? 0"
          [high]="1000000"
          (changed)="set({ to: $event }, 'to')"
          (cleared)="set({ to: null })"
        />
        <hs-number
          name="rate"
          unit="×"
          [value]="one.rate"
          [usual]="1"
          [step]="0.05"
          [digits]="2"
          [low]="0.05"
          [high]="20"
          (changed)="set({ rate: $event }, 'rate')"
        />
        <hs-number
          name="plays"
          unit="×"
          [value]="one.repeats"
          [usual]="1"
          [step]="1"
          [digits]="0"
          [low]="1"
          [high]="200"
          (changed)="set({ repeats: whole($event) }, 'repeats')"
        />
        <hs-number
          name="last pose held"
          unit="s"
          [value]="one.hold"
          [usual]="0"
          [step]="0.1"
          [digits]="2"
          [low]="0"
          [high]="600"
          (changed)="set({ hold: $event }, 'hold')"
        />
        @for (box of boxes; track box.key) {
          <label class="check" [title]="box.title"
            ><input type="checkbox" class="form-check-input" [checked]="one[box.key]" (change)="tick(box.key, $event)" />
            {{ box.name }}</label
          >
        }
      } @else {
        <p class="hint">What it plays is decided below, under Mix by a value.</p>
      }
      <div class="row">
        <button
          type="button"
          class="btn btn-sm btn-plain"
          (click)="find.findCycle()"
          [disabled]="one.mix !== null"
          title="The best two frames by pose and speed; closed and repeated"
        >
          Find a cycle
        </button>
        <button
          type="button"
          class="btn btn-sm btn-plain"
          (click)="find.joinBest()"
          title="Moved and cut to where the clip before it goes over into it best"
        >
          Join at the best place
        </button>
        <button type="button" class="btn btn-sm btn-plain" (click)="store.split()" title="Parted at the frame that is shown (S)">
          Split
        </button>
        <button type="button" class="btn btn-sm btn-plain" (click)="store.removeClip()">Remove</button>
      </div>
    } @else {
      <p class="hint">Choose a clip on its lane.</p>
    }
  `,
  styleUrl: './panel.scss',
})
export class ClipPanelComponent {
  protected readonly store = inject(ReelStore);
  protected readonly find = inject(ReelFindStore);
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly clip = computed(() => {
    const { reel, chosen } = this.state();
    return reel?.content.lanes[chosen.lane]?.clips[chosen.clip];
  });
  /** Where the piece ends: as decided, else as long as it plays. */
  protected readonly end = computed(() => {
    const { chosen, reel, played } = this.state();
    const one = this.clip();
    if (!one || one.to !== null) return one?.to ?? 0;
    const lane = played?.lanes[chosen.lane];
    const placed = lane && 'placed' in lane ? lane.placed.find(({ index }) => index === chosen.clip) : undefined;
    const fps = reel?.content.fps ?? 60;
    const pace = reel?.content.lanes[chosen.lane].pace ?? 1;
    return placed ? (one.from ?? 0) + (((placed.last - placed.first) / fps - one.hold) / one.repeats) * one.rate * pace : 0;
  });
  protected readonly boxes = [
    { key: 'joined', name: 'goes on from the place before it', title: 'Place and heading are carried on, by a foot that stands in both' },
    { key: 'travel', name: 'travels', title: 'Off: it stays over one place' },
    { key: 'closed', name: 'closed: both ends are one pose', title: 'What they differ by is spread over the piece' },
    { key: 'reverse', name: 'backwards', title: 'From its end to its beginning' },
  ] as const;

  protected set(change: Partial<ReelClip>, key?: string): void {
    this.store.changeClip(change, key);
  }

  protected tick(key: 'joined' | 'travel' | 'closed' | 'reverse', event: Event): void {
    this.set({ [key]: (event.target as HTMLInputElement).checked });
  }

  protected rename(event: Event): void {
    const name = (event.target as HTMLInputElement).value.trim();
    if (name !== '') this.set({ name });
  }

  protected whole(value: number): number {
    return Math.round(value);
  }
}
