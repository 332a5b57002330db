import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Carry } from '@hollow-stride/core';
import { NumberComponent } from '../../shared/number.component';

type Part = 'turns' | 'places' | 'sizes';

/** What is carried over: turns, places and sizes, as what, in whose axes, how many times. */
@Component({
  selector: 'hs-carry-form',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (part of parts; track part.key) {
      <label class="line">
        <span>{{ part.name }}</span>
        <select class="form-select form-select-sm" [attr.aria-label]="part.name + ' ' + of()" (change)="pick(part.key, $event)">
          @for (way of waysOf(part.key); track way.value) {
            <option [value]="way.value" [selected]="carry()[part.key] === way.value">{{ way.name }}</option>
          }
        </select>
      </label>
      @if (carry()[part.key] !== 'none') {
        <hs-number
          [name]="part.times"
          [label]="part.times + ' ' + of()"
          unit="×"
          [value]="carry()[part.factor]"
          [usual]="1"
          [step]="0.1"
          [digits]="2"
          [low]="-10"
          [high]="10"
          (changed)="times(part.factor, $event)"
        />
      }
    }
    <label class="line">
      <span>axes</span>
      <select class="form-select form-select-sm" [attr.aria-label]="'axes ' + of()" (change)="pick('axes', $event)">
        @for (axes of allAxes; track axes.value) {
          <option [value]="axes.value" [selected]="carry().axes === axes.value">{{ axes.name }}</option>
        }
      </select>
    </label>
  `,
  styles: `
    .line {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-bottom: 4px;
      font-size: 12.5px;
    }
    .line span {
      flex: none;
      width: 58px;
    }
  `,
})
export class CarryFormComponent {
  readonly carry = input.required<Carry>();
  /** Whose: "of all joints", "of Hook". */
  readonly of = input.required<string>();
  readonly changed = output<Partial<Carry>>();
  protected readonly parts = [
    { key: 'turns', factor: 'turnsTimes', name: 'turns', times: 'turned so far' },
    { key: 'places', factor: 'placesTimes', name: 'places', times: 'moved so far' },
    { key: 'sizes', factor: 'sizesTimes', name: 'sizes', times: 'grown so far' },
  ] as const;
  protected readonly ways = [
    { value: 'rest', name: 'as changes from each rest' },
    { value: 'recorded', name: 'as recorded' },
    { value: 'none', name: 'not carried' },
  ];
  protected readonly allAxes = [
    { value: 'world', name: 'of the world at rest' },
    { value: 'parent', name: 'of the joint above' },
    { value: 'own', name: "the joint's own" },
  ];

  /** A size is a ratio to the own rest: there is no other. */
  protected waysOf(key: Part): typeof this.ways {
    return key === 'sizes' ? this.ways.filter(({ value }) => value !== 'recorded') : this.ways;
  }

  protected times(key: `${Part}Times`, value: number): void {
    this.changed.emit({ [key]: value });
  }

  protected pick(key: Part | 'axes', event: Event): void {
    this.changed.emit({ [key]: (event.target as HTMLSelectElement).value });
  }
}
