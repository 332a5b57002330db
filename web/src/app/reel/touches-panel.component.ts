import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { REEL_ENDS, type ReelEnd } from '@hollow-stride/core';
import { NumberComponent } from '../shared/number.component';
import { ReelStore } from './reel.store';

/** Touches between two figures: which end of which, and when. */
@Component({
  selector: 'hs-reel-touches',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (touch of touches(); track $index; let i = $index) {
      <div class="line">
        <span class="what">{{ touch.text }}</span>
        <button type="button" class="btn btn-quiet" [attr.aria-label]="'Remove the touch of ' + touch.text" (click)="store.removeTouch(i)">
          <i class="bi bi-trash3" aria-hidden="true"></i>
        </button>
      </div>
      <hs-number
        name="from"
        [label]="touch.text + ', from, s'"
        unit="s"
        [value]="touch.from"
        [step]="0.1"
        [digits]="2"
        [low]="0"
        [high]="touch.to"
        (changed)="store.changeTouch(i, { from: $event }, 'from')"
      />
      <hs-number
        name="to"
        [label]="touch.text + ', to, s'"
        unit="s"
        [value]="touch.to"
        [step]="0.1"
        [digits]="2"
        [low]="touch.from"
        [high]="36000"
        (changed)="store.changeTouch(i, { to: $event }, 'to')"
      />
      <hs-number
        name="comes and goes in"
        unit="s"
        [value]="touch.ease"
        [usual]="0.4"
        [step]="0.05"
        [digits]="2"
        [low]="0"
        [high]="10"
        (changed)="store.changeTouch(i, { ease: $event }, 'ease')"
      />
      <hs-number
        name="share of the first"
        unit=""
        [value]="touch.share"
        [usual]="0.5"
        [step]="0.1"
        [digits]="2"
        [low]="0"
        [high]="1"
        (changed)="store.changeTouch(i, { share: $event }, 'share')"
      />
    }
    @if (lanes().length > 1) {
      @for (side of sides; track side) {
        <div class="line">
          <select class="form-select form-select-sm" [attr.aria-label]="'Figure, ' + side" (change)="pick(side, 'lane', $event)">
            @for (lane of lanes(); track $index; let i = $index) {
              <option [value]="i" [selected]="i === chosen()[side].lane">{{ lane.name }}</option>
            }
          </select>
          <select class="form-select form-select-sm" [attr.aria-label]="'End, ' + side" (change)="pick(side, 'end', $event)">
            @for (end of ends; track end) {
              <option [value]="end" [selected]="end === chosen()[side].end">{{ end }}</option>
            }
          </select>
        </div>
      }
      <button type="button" class="btn btn-sm btn-plain" [disabled]="chosen().first.lane === chosen().second.lane" (click)="add()">
        Touch at this frame
      </button>
    } @else {
      <p class="hint">Two figures of the reel touch, as in a hand-over or at one rope.</p>
    }
  `,
  styleUrl: './panel.scss',
})
export class ReelTouchesComponent {
  protected readonly store = inject(ReelStore);
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly ends = REEL_ENDS;
  protected readonly sides = ['first', 'second'] as const;
  protected readonly chosen = signal<Readonly<Record<'first' | 'second', { lane: number; end: ReelEnd }>>>({
    first: { lane: 0, end: 'right.hand' },
    second: { lane: 1, end: 'left.hand' },
  });
  protected readonly lanes = computed(() => this.state().reel?.content.lanes ?? []);
  protected readonly touches = computed(() => {
    const lanes = this.lanes();
    const nameOf = ({ lane, end }: { lane: number; end: ReelEnd }): string => `${lanes[lane]?.name ?? 'a lane that is gone'}, ${end}`;
    return (this.state().reel?.content.touches ?? []).map((touch) => ({ ...touch, text: `${nameOf(touch.a)} and ${nameOf(touch.b)}` }));
  });

  protected pick(side: 'first' | 'second', part: 'lane' | 'end', event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    this.chosen.update((now) => ({ ...now, [side]: { ...now[side], [part]: part === 'lane' ? Number(value) : value } }));
  }

  protected add(): void {
    const { first, second } = this.chosen();
    this.store.addTouch({ a: first, b: second });
  }
}
