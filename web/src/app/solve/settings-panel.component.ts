import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import type { SolveChoices } from '@hollow-stride/contract';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { NumberComponent } from '../shared/number.component';
import { KeptStore } from './kept.store';
import { SolveStore } from './solve.store';

interface Setting {
  readonly key: 'stride' | 'floor' | 'clavicles' | 'head';
  readonly label: string;
  readonly choices: readonly Choice[];
}

const OWN_OR_MATCHED: readonly Choice[] = [
  { value: 'keep', name: 'own', title: "The character's own rest" },
  { value: 'match', name: 'matched', title: "Turned like the performer's" },
];

const SETTINGS: readonly Setting[] = [
  {
    key: 'stride',
    label: 'stride',
    choices: [
      { value: 'legs', name: 'by legs', title: 'Steps as long as the legs allow' },
      { value: 'marks', name: 'keep marks', title: "The performer's marks on the floor are kept" },
    ],
  },
  {
    key: 'floor',
    label: 'floor',
    choices: [
      { value: 'take', name: 'as taken', title: 'Where the take has it, scaled' },
      { value: 'zero', name: 'at zero', title: 'At height zero' },
    ],
  },
  { key: 'clavicles', label: 'clavicles', choices: OWN_OR_MATCHED },
  { key: 'head', label: 'head', choices: OWN_OR_MATCHED },
];

const KEPT_OUT: readonly Choice[] = [
  { value: 'out', name: 'kept out', title: 'Hands stay out of trunk and head' },
  { value: 'let', name: 'let be' },
];

/** The settings of a solve. Each takes effect at once and can be undone. */
@Component({
  selector: 'hs-settings-panel',
  imports: [AsyncPipe, ChoicesComponent, DecimalPipe, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.state$ | async; as s) {
      <div class="rows">
        @for (setting of settings; track setting.key) {
          <span aria-hidden="true">{{ setting.label }}</span>
          <hs-choices
            [label]="setting.label"
            [choices]="setting.choices"
            [value]="s.choices[setting.key]"
            (chosen)="set(setting.key, $event)"
          />
        }
        <span aria-hidden="true">hands in the body</span>
        <hs-choices label="Hands in the body" [choices]="keptOut" [value]="s.choices.keepOut ? 'out' : 'let'" (chosen)="keepOut($event)" />
      </div>
      <hs-number
        name="hands hold"
        unit="%"
        [value]="s.choices.hands * 100"
        [low]="0"
        [high]="100"
        [step]="5"
        [digits]="0"
        [usual]="100"
        (changed)="hold($event)"
      />
      @if (s.solved; as solved) {
        <p class="scale soft">
          lift <b class="num">{{ solved.lift | number: '1.3-3' }}</b>, stride <b class="num">{{ solved.stride | number: '1.3-3' }}</b><br />
          {{ solved.report.pairing.reason }}
        </p>
      }
    }
  `,
  styles: `
    .rows {
      display: grid;
      grid-template-columns: 1fr auto;
      gap: 5px 8px;
      align-items: center;
    }
    .scale {
      margin: 8px 0;
      font-size: 12.5px;
    }
    .scale b {
      color: var(--hs-ink);
    }
  `,
})
export class SettingsPanelComponent {
  protected readonly store = inject(SolveStore);
  private readonly kept = inject(KeptStore);
  protected readonly settings = SETTINGS;
  protected readonly keptOut = KEPT_OUT;

  protected keepOut(value: string): void {
    this.kept.change({ keepOut: value === 'out' }, 'hands in the body');
  }

  protected hold(percent: number): void {
    this.kept.change({ hands: percent / 100 }, 'how far hands hold', 'hands hold');
  }

  protected set(key: Setting['key'], value: string): void {
    this.kept.change({ [key]: value } as Partial<SolveChoices>);
  }
}
