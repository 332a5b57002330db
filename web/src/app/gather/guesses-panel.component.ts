import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { FactsJson, SkeletonJson } from '@hollow-stride/contract';
import { UNIT_METRES, UP_CHOICES, type SkeletonChoices } from '@hollow-stride/core';
import { NumberComponent } from '../shared/number.component';

/** Guesses about a skeleton, each with its reason and a way to overrule it. */
@Component({
  selector: 'hs-guesses-panel',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let choices = skeleton().choices;
    <dl>
      <dt><label for="guess-unit">unit</label></dt>
      <dd>
        <select id="guess-unit" class="form-select form-select-sm" (change)="setUnit($event)">
          <option value="" [selected]="choices.unit === null">as found{{ choices.unit === null ? ': ' + body().unit.unit : '' }}</option>
          @for (unit of units; track unit.name) {
            <option [value]="unit.metres" [selected]="isUnit(unit.metres)">{{ unit.name }}</option>
          }
          @if (oddUnit(); as metres) {
            <option [value]="metres" selected>{{ metres }} m a unit</option>
          }
        </select>
        <small>{{ body().unit.reason }}</small>
        <hs-number
          name="factor"
          label="metres for one unit of the file"
          unit="m"
          [digits]="5"
          [step]="0.0001"
          [low]="0.00001"
          [high]="1000"
          [value]="body().unit.metres"
          (changed)="setFactor($event)"
          (cleared)="overruled.emit({ choices: { unit: null }, text: 'unit as found' })"
        />
        <hs-number
          name="body height"
          label="true height of the body"
          unit="m"
          [digits]="3"
          [step]="0.01"
          [low]="0.05"
          [high]="100"
          [value]="body().height"
          (changed)="setHeight($event)"
        />
      </dd>
      <dt><label for="guess-up">up</label></dt>
      <dd>
        <select id="guess-up" class="form-select form-select-sm" (change)="setUp($event)">
          <option value="" [selected]="choices.up === null">as found{{ choices.up === null ? ': ' + body().up.axis : '' }}</option>
          @for (up of ups; track up) {
            <option [value]="up" [selected]="choices.up === up">{{ up }}</option>
          }
        </select>
        <small>{{ body().up.reason }}</small>
      </dd>
      <dt>facing</dt>
      <dd>
        <hs-number
          [name]="choices.facing === null ? 'as found' : 'by hand'"
          label="facing, degrees from +Z"
          unit="°"
          [value]="body().facing"
          [low]="-360"
          [high]="360"
          (changed)="overruled.emit({ choices: { facing: $event }, text: 'facing', key: 'facing' })"
          (cleared)="overruled.emit({ choices: { facing: null }, text: 'facing as found' })"
        />
        <small>from +Z towards +X{{ choices.facing === null ? ', by the hip joints' : '; double click on the name for as found' }}</small>
      </dd>
      <dt><label for="guess-rest">rest</label></dt>
      <dd>
        <select id="guess-rest" class="form-select form-select-sm" (change)="setRest($event)">
          <option value="auto" [selected]="choices.rest === 'auto'">as found</option>
          <option value="file" [selected]="choices.rest === 'file'">the file's own</option>
          @for (rest of skeleton().rests; track rest.name) {
            <option [value]="'kept ' + rest.name" [selected]="restName() === rest.name">{{ rest.name }}</option>
          }
          @if (looseRest(); as name) {
            <option value="" selected>{{ name }}</option>
          }
        </select>
        <small [class.caution]="!body().rest.clean">{{ body().rest.clean ? 'clean: ' : 'not clean: ' }}{{ body().rest.reason }}</small>
      </dd>
    </dl>
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: 46px 1fr;
      gap: 6px 8px;
      margin: 0;
    }
    dt {
      padding-top: 3px;
      font-weight: 400;
      color: var(--hs-ink-soft);
    }
    dd {
      margin: 0;
      min-width: 0;
    }
    small {
      display: inline-block;
      margin-top: 1px;
      color: var(--hs-ink-soft);
      font-size: 12px;
      line-height: 1.3;
    }
    small.caution {
      color: var(--hs-caution);
    }
  `,
})
export class GuessesPanelComponent {
  readonly body = input.required<NonNullable<FactsJson['body']>>();
  readonly skeleton = input.required<SkeletonJson>();
  readonly overruled = output<{ choices: Partial<SkeletonChoices>; text: string; key?: string }>();
  protected readonly units = Object.entries(UNIT_METRES).map(([name, metres]) => ({ name, metres }));
  protected readonly ups = UP_CHOICES;
  protected readonly restName = computed(() => {
    const { rest } = this.skeleton().choices;
    return typeof rest === 'string' ? undefined : rest.name;
  });
  protected readonly looseRest = computed(() => {
    const name = this.restName();
    return name !== undefined && !this.skeleton().rests.some((rest) => rest.name === name) ? name : undefined;
  });
  protected readonly oddUnit = computed(() => {
    const { unit } = this.skeleton().choices;
    return unit !== null && !this.units.some(({ metres }) => metres === unit) ? unit : undefined;
  });

  protected isUnit(metres: number): boolean {
    return this.skeleton().choices.unit === metres;
  }

  protected setUnit(event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    this.overruled.emit({
      choices: { unit: value === '' ? null : Number(value) },
      text: value === '' ? 'unit as found' : `unit ${this.nameOf(Number(value))}`,
    });
  }

  /** @param metres for one unit of the file */
  protected setFactor(metres: number): void {
    this.overruled.emit({ choices: { unit: metres }, text: `unit ${this.nameOf(metres)}`, key: 'unit' });
  }

  /** The unit that makes the body so high. */
  protected setHeight(metres: number): void {
    const { unit, height } = this.body();
    if (height > 0) this.setFactor((unit.metres * metres) / height);
  }

  private nameOf(metres: number): string {
    return this.units.find((unit) => unit.metres === metres)?.name ?? `${Number(metres.toPrecision(5))} m`;
  }

  protected setUp(event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    this.overruled.emit({
      choices: { up: value === '' ? null : (value as SkeletonChoices['up']) },
      text: value === '' ? 'up as found' : `up ${value}`,
    });
  }

  protected setRest(event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    const kept = this.skeleton().rests.find(({ name }) => `kept ${name}` === value);
    if (kept) this.overruled.emit({ choices: { rest: kept, turns: {} }, text: `rest pose "${kept.name}"` });
    else if (value === 'auto' || value === 'file') {
      this.overruled.emit({ choices: { rest: value, turns: {} }, text: value === 'auto' ? 'rest as found' : "the file's own rest" });
    }
  }
}
