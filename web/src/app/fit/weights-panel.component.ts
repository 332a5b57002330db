import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { GroupComponent } from '../shared/group.component';
import { NumberComponent } from '../shared/number.component';
import { FitStore } from './fit.store';

/** Joints by how much of the skin they move, places to look at, strokes of the brush. */
@Component({
  selector: 'hs-weights-panel',
  imports: [GroupComponent, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let s = state();
    <hs-group name="To look at" [note]="(s.bound?.doubts?.length ?? 0) + ''">
      <ul class="list" aria-label="Places to look at">
        @for (doubt of s.bound?.doubts ?? []; track $index) {
          <li>
            <button type="button" class="line" [attr.aria-pressed]="doubt.joint === s.joint" (click)="store.show(doubt.joint)">
              <span
                ><b>{{ doubt.joint }}</b> {{ doubt.message }}</span
              >
            </button>
          </li>
        } @empty {
          <li class="soft">Nothing stands out in the range check.</li>
        }
      </ul>
    </hs-group>
    <hs-group name="Joints" [note]="s.joint">
      <ul class="list" aria-label="Joints">
        @for (joint of joints(); track joint.name) {
          <li>
            <button type="button" class="line" [attr.aria-pressed]="joint.name === s.joint" (click)="store.show(joint.name)">
              <span>{{ joint.name }}</span>
              @if (joint.name !== 'all') {
                <span class="bar" [style.--share.%]="joint.bar" [attr.aria-label]="joint.percent + ' % of the skin'"></span>
              }
            </button>
          </li>
        }
      </ul>
    </hs-group>
    <hs-group name="Brush" [note]="strokes() + (strokes() === 1 ? ' stroke' : ' strokes')">
      <p class="small soft">
        Draw over the skin: what moves it is evened out there. Strokes are kept, and drawn again whenever the skin is bound.
      </p>
      <label class="check"
        ><input type="checkbox" class="form-check-input" [checked]="s.brush.isOn" (change)="store.setBrush({ isOn: !s.brush.isOn })" /> the
        pointer draws</label
      >
      <hs-number
        name="radius"
        unit="cm"
        [value]="s.brush.radius * 100"
        [low]="1"
        [high]="50"
        [step]="1"
        (changed)="store.setBrush({ radius: $event / 100 })"
      />
      <hs-number
        name="strength"
        [value]="s.brush.strength"
        [low]="0.1"
        [high]="1"
        [step]="0.1"
        (changed)="store.setBrush({ strength: $event })"
      />
      <div class="row">
        @if (place(); as at) {
          <button type="button" class="btn btn-sm btn-plain" [disabled]="!!s.busy" (click)="store.strokeAt([at])">
            Even out at {{ s.joint }}
          </button>
        }
        <button type="button" class="btn btn-sm btn-plain" [disabled]="strokes() === 0 || !!s.busy" (click)="clear()">
          Take all strokes away
        </button>
      </div>
    </hs-group>
  `,
  styleUrl: './panel.scss',
})
export class WeightsPanelComponent {
  protected readonly store = inject(FitStore);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly strokes = computed(() => this.state().mesh?.choices.strokes.length ?? 0);
  protected readonly joints = computed(() => {
    const { bound } = this.state();
    const most = Math.max(1e-9, ...(bound?.weights ?? []));
    const own = (bound?.names ?? []).map((name, j) => ({
      name,
      bar: (100 * bound!.weights[j]) / most,
      percent: (100 * bound!.weights[j]).toFixed(1),
    }));
    return [{ name: 'all', bar: 0, percent: '' }, ...own];
  });

  /** Where the chosen joint is: the brush by keyboard. */
  protected readonly place = computed(() => {
    const { laid, joint } = this.state();
    return laid?.bones.find(({ name }) => name === joint)?.from;
  });

  protected clear(): void {
    this.store.change({ strokes: [] }, 'take all strokes of the brush away');
    this.store.bind();
  }
}
