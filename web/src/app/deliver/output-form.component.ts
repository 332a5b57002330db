import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { RunOutput } from '@hollow-stride/contract';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { NumberComponent } from '../shared/number.component';

const FORMATS: readonly Choice[] = [
  { value: 'own', name: 'as it came', title: 'GLB for a character that came as GLB, BVH for one that came as BVH' },
  { value: 'glb', name: 'all GLB' },
  { value: 'bvh', name: 'all BVH' },
];
const ROOTS: readonly Choice[] = [
  { value: 'own', name: 'as set', title: 'As each pairing says' },
  { value: 'travelling', name: 'all travelling' },
  { value: 'in place', name: 'all in place' },
];
const UNITS: readonly { readonly value: number | null; readonly name: string }[] = [
  { value: null, name: 'as it came' },
  { value: 1, name: 'metres' },
  { value: 0.01, name: 'centimetres' },
  { value: 0.001, name: 'millimetres' },
  { value: 0.0254, name: 'inches' },
];
const UPS: readonly { readonly value: RunOutput['up']; readonly name: string }[] = [
  { value: null, name: 'as it came' },
  { value: '+Y', name: '+Y' },
  { value: '+Z', name: '+Z' },
];
const RATES = [24, 25, 30, 50, 60, 100, 120] as const;

/** How files are written. */
@Component({
  selector: 'hs-output-form',
  imports: [ChoicesComponent, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let now = value();
    @if (many()) {
      <div class="line">
        <span aria-hidden="true">format</span>
        <hs-choices label="format of the run" [choices]="formats" [value]="now.format ?? 'own'" (chosen)="setFormat($event)" />
      </div>
      <label class="line"
        >frame rate
        <select class="form-select form-select-sm" (change)="set({ fps: numberOf($event) })">
          <option value="" [selected]="now.fps === null">as each take</option>
          @for (rate of rates; track rate) {
            <option [value]="rate" [selected]="now.fps === rate">{{ rate }} a second</option>
          }
        </select>
      </label>
      <div class="line">
        <span aria-hidden="true">root motion</span>
        <hs-choices
          label="root motion of the run"
          [choices]="roots"
          [value]="now.inPlace === null ? 'own' : now.inPlace ? 'in place' : 'travelling'"
          (chosen)="setRoot($event)"
        />
      </div>
    }
    @if (now.format !== 'bvh') {
      <label class="check" title="The motion on bare nodes: small, for a program that has the character already">
        <input type="checkbox" class="form-check-input" [checked]="now.bare" (change)="set({ bare: !now.bare })" /> motion alone, without
        mesh
      </label>
      <label class="check" title="Keys are left out as long as hands, feet and head stay within the tolerance; checked after">
        <input
          type="checkbox"
          class="form-check-input"
          [checked]="now.tolerance !== null"
          (change)="set({ tolerance: now.tolerance === null ? 1 : null })"
        />
        fewer keys
      </label>
      @if (now.tolerance !== null) {
        <hs-number
          name="within"
          label="key tolerance, mm"
          unit="mm"
          [value]="now.tolerance"
          [low]="0.01"
          [high]="100"
          [step]="0.1"
          [digits]="2"
          [usual]="1"
          (changed)="set({ tolerance: $event })"
        />
      }
      @if (many()) {
        <label class="check"
          ><input type="checkbox" class="form-check-input" [checked]="now.together" (change)="set({ together: !now.together })" /> all takes
          of a character in one GLB file</label
        >
      }
    }
    @if (now.format !== 'glb') {
      <label class="check">
        <input type="checkbox" class="form-check-input" [checked]="!now.unlabelled" (change)="set({ unlabelled: !now.unlabelled })" />
        BVH: labelled joints only
      </label>
      <label class="line"
        >BVH: unit
        <select class="form-select form-select-sm" (change)="set({ unit: numberOf($event) })">
          @for (unit of units; track unit.name) {
            <option [value]="unit.value ?? ''" [selected]="unit.value === now.unit">{{ unit.name }}</option>
          }
        </select>
      </label>
      <label class="line"
        >BVH: up axis
        <select class="form-select form-select-sm" (change)="setUp($event)">
          @for (up of ups; track up.name) {
            <option [value]="up.value ?? ''" [selected]="up.value === now.up">{{ up.name }}</option>
          }
        </select>
      </label>
    }
    <label class="check" title="First and last pose are drawn together, so that the motion can be played on end">
      <input type="checkbox" class="form-check-input" [checked]="now.loop > 0" (change)="set({ loop: now.loop > 0 ? 0 : 0.3 })" /> loop
      without a seam
    </label>
    @if (now.loop > 0) {
      <hs-number
        name="over"
        label="loop over, seconds"
        unit="s"
        [value]="now.loop"
        [low]="0.05"
        [high]="5"
        [step]="0.05"
        [digits]="2"
        [usual]="0.3"
        (changed)="set({ loop: $event })"
      />
    }
  `,
  styles: `
    :host {
      display: block;
      font-size: 13px;
    }
    .line {
      display: flex;
      gap: 8px;
      align-items: center;
      justify-content: space-between;
      margin-bottom: 5px;
    }
    .line select {
      width: 170px;
    }
    .check {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-bottom: 4px;
    }
    hs-number {
      display: block;
      margin: 0 0 5px 22px;
    }
  `,
})
export class OutputFormComponent {
  readonly value = input.required<RunOutput>();
  /** Of a run, not of one file. */
  readonly many = input(true);
  readonly changed = output<RunOutput>();
  protected readonly formats = FORMATS;
  protected readonly roots = ROOTS;
  protected readonly units = UNITS;
  protected readonly ups = UPS;
  protected readonly rates = RATES;

  protected set(change: Partial<RunOutput>): void {
    this.changed.emit({ ...this.value(), ...change });
  }

  protected setFormat(value: string): void {
    this.set({ format: value === 'own' ? null : (value as 'glb' | 'bvh') });
  }

  protected setRoot(value: string): void {
    this.set({ inPlace: value === 'own' ? null : value === 'in place' });
  }

  protected setUp(event: Event): void {
    const { value } = event.target as HTMLSelectElement;
    this.set({ up: value === '' ? null : (value as RunOutput['up']) });
  }

  protected numberOf(event: Event): number | null {
    const { value } = event.target as HTMLSelectElement;
    return value === '' ? null : Number(value);
  }
}
