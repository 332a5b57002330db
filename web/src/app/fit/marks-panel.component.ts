import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NumberComponent } from '../shared/number.component';
import { FitStore } from './fit.store';

/** All landmarks, how sure each is, and the chosen one in numbers; landmarks as a file. */
@Component({
  selector: 'hs-marks-panel',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (chosen(); as mark) {
      @for (axis of axes; track axis.name) {
        <hs-number
          [name]="axis.label"
          [label]="axis.label + ' of ' + mark.name + ', metres'"
          unit="m"
          [value]="mark.place[axis.index]"
          [step]="0.01"
          [digits]="3"
          (changed)="set(mark.name, axis.index, $event)"
        />
      }
      @if (mark.isSet) {
        <button type="button" class="btn btn-sm btn-plain" (click)="store.release(mark.name)">Where it was found</button>
      }
    }
    <ul class="list" aria-label="Landmarks">
      @for (mark of marks(); track mark.name) {
        <li>
          <button type="button" class="line" [attr.aria-pressed]="mark.name === state().mark" (click)="store.choose(mark.name)">
            <span>{{ mark.name }}</span>
            <span class="soft" [class.unsure]="mark.isUnsure">{{ mark.says }}</span>
          </button>
        </li>
      }
    </ul>
    <div class="row">
      <button type="button" class="btn btn-sm btn-plain" (click)="store.saveLandmarks()">Save as a file</button>
      <label class="btn btn-sm btn-plain"
        >Take from a file …
        <input class="visually-hidden" type="file" accept=".json" aria-label="Landmarks file" (change)="take($event)" />
      </label>
    </div>
  `,
  styleUrl: './panel.scss',
})
export class MarksPanelComponent {
  protected readonly store = inject(FitStore);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly axes = [
    { name: 'x', label: 'to the left', index: 0 },
    { name: 'y', label: 'up', index: 1 },
    { name: 'z', label: 'ahead', index: 2 },
  ] as const;
  protected readonly marks = computed(() => {
    const { laid, mesh } = this.state();
    return Object.entries(laid?.landmarks ?? {}).map(([name, found]) => {
      const isSet = mesh !== undefined && name in mesh.choices.landmarks;
      const sure = laid?.confidence[name] ?? 0;
      return {
        name,
        // What was set a moment ago is not laid yet.
        place: mesh?.choices.landmarks[name] ?? found,
        isSet,
        isUnsure: !isSet && sure < 0.5,
        says: isSet ? 'by hand' : sure >= 0.8 ? 'seen' : sure >= 0.5 ? 'likely' : 'as usual: look at it',
      };
    });
  });
  protected readonly chosen = computed(() => this.marks().find(({ name }) => name === this.state().mark));

  protected set(name: string, index: number, value: number): void {
    const mark = this.chosen();
    if (mark) this.store.move(name, mark.place.map((v, c) => (c === index ? value : v)) as unknown as readonly [number, number, number]);
  }

  protected take(event: Event): void {
    const input = event.target as HTMLInputElement;
    const [file] = [...(input.files ?? [])];
    if (file) void this.store.loadLandmarks(file);
    input.value = '';
  }
}
