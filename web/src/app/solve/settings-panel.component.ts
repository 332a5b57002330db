import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import type { SolveChoices } from '@hollow-stride/contract';
import { DEFAULT_DETECTION, LIMB_NAMES, type Detection, type LimbName } from '@hollow-stride/core';
import { PairStore } from '../pair/pair.store';
import { ProjectStore } from '../project/project.store';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { NumberComponent } from '../shared/number.component';
import { KeptStore } from './kept.store';
import { SolveStore } from './solve.store';

interface Setting {
  readonly key: 'stride' | 'floor';
  readonly label: string;
  readonly choices: readonly Choice[];
}

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
];

const KEPT_OUT: readonly Choice[] = [
  { value: 'out', name: 'kept out', title: 'Hands stay out of trunk, head and thighs' },
  { value: 'let', name: 'let be' },
];
const APART: readonly Choice[] = [
  { value: 'apart', name: 'kept apart', title: 'Legs stay out of each other' },
  { value: 'let', name: 'let be', title: 'Legs may cross through each other' },
];

/** A share that is set in percent, or a factor. */
interface Share<K extends string> {
  readonly key: K;
  readonly name: string;
  readonly usual: number;
  readonly low?: number;
  readonly title?: string;
}

/** How the rest of parts of the body is carried: 0 as the character's own, 100 as the performer's. */
const CARRIED: readonly Share<'clavicles' | 'head' | 'palms' | 'thumbs'>[] = [
  { key: 'clavicles', name: 'shoulders', usual: 0 },
  { key: 'head', name: 'head', usual: 0 },
  { key: 'palms', name: 'palms', usual: 100 },
  { key: 'thumbs', name: 'thumbs', usual: 100 },
];
const SHARES: readonly Share<'clavicleHelp' | 'spineHelp' | 'balance' | 'softReach' | 'tails'>[] = [
  { key: 'clavicleHelp', name: 'shoulders help reach', usual: 0 },
  { key: 'spineHelp', name: 'spine helps reach', usual: 0 },
  { key: 'balance', name: 'balance', usual: 0 },
  { key: 'softReach', name: 'legs straighten to', usual: 98.5, low: 90 },
  { key: 'tails', name: 'tails swing', usual: 0 },
];
const LIMBS: Readonly<Record<LimbName, string>> = {
  leftArm: 'left arm holds',
  rightArm: 'right arm holds',
  leftLeg: 'left leg holds',
  rightLeg: 'right leg holds',
};
const DETECTION: readonly Share<Exclude<keyof Detection, 'floor'>>[] = [
  { key: 'feetSpeed', name: 'feet, speed', usual: 100, low: 20 },
  { key: 'feetHeight', name: 'feet, height', usual: 100, low: 20 },
  { key: 'handsSpeed', name: 'hands, speed', usual: 100, low: 20 },
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
        <span aria-hidden="true">legs</span>
        <hs-choices label="Legs in each other" [choices]="apart" [value]="s.choices.apart ? 'apart' : 'let'" (chosen)="keepApart($event)" />
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
      @for (limb of limbs; track limb) {
        <hs-number
          [name]="limbName(limb)"
          unit="%"
          [value]="(s.choices.follow[limb] ?? 1) * 100"
          [low]="0"
          [high]="100"
          [step]="5"
          [digits]="0"
          [usual]="100"
          (changed)="follow(s.choices, limb, $event)"
        />
      }
      @for (share of shares; track share.key) {
        <hs-number
          [name]="share.name"
          unit="%"
          [value]="s.choices[share.key] * 100"
          [low]="share.low ?? 0"
          [high]="100"
          [step]="share.low ? 0.5 : 5"
          [digits]="share.low ? 1 : 0"
          [usual]="share.usual"
          (changed)="apply(share, $event)"
        />
      }
      <h4 title="0 % lies as the character's own rest, 100 % as the performer's">rest as the performer's</h4>
      @for (part of carried; track part.key) {
        <hs-number
          [name]="part.name"
          [label]="part.name + ' carried, %'"
          unit="%"
          [value]="carriedShare(s.choices[part.key])"
          [low]="0"
          [high]="100"
          [step]="10"
          [digits]="0"
          [usual]="part.usual"
          (changed)="carry(part, $event)"
        />
      }
      @if (pairs.pair$ | async; as pair) {
        @if (pair.take; as take) {
          <h4 title="Higher finds more rests, lower fewer; for this take">found in the take</h4>
          @for (part of detection; track part.key) {
            <hs-number
              [name]="part.name"
              [label]="part.name + ' of rests, %'"
              unit="%"
              [value]="(take.choices.detection ?? usualDetection)[part.key] * 100"
              [low]="20"
              [high]="500"
              [step]="10"
              [digits]="0"
              [usual]="100"
              (changed)="detect(part, $event)"
            />
          }
        }
      }
      @if (s.solved; as solved) {
        <p class="scale soft">
          lift <b class="num">{{ solved.lift | number: '1.3-3' }}</b>, stride <b class="num">{{ solved.stride | number: '1.3-3' }}</b>;
          floor found at <b class="num">{{ solved.contacts.floor * 100 | number: '1.1-1' }} cm</b><br />
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
      margin-bottom: 6px;
    }
    hs-number {
      display: block;
      margin-bottom: 3px;
    }
    h4 {
      margin: 10px 0 4px;
      font-size: 12.5px;
      font-weight: 600;
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
  protected readonly pairs = inject(PairStore);
  private readonly project = inject(ProjectStore);
  private readonly kept = inject(KeptStore);
  protected readonly settings = SETTINGS;
  protected readonly keptOut = KEPT_OUT;
  protected readonly apart = APART;
  protected readonly limbs = LIMB_NAMES;
  protected readonly shares = SHARES;
  protected readonly carried = CARRIED;
  protected readonly detection = DETECTION;
  protected readonly usualDetection = DEFAULT_DETECTION;

  protected limbName(limb: LimbName): string {
    return LIMBS[limb];
  }

  protected carriedShare(choice: SolveChoices['clavicles']): number {
    return choice === 'keep' ? 0 : choice === 'match' ? 100 : choice * 100;
  }

  protected keepOut(value: string): void {
    this.kept.change({ keepOut: value === 'out' }, 'hands in the body');
  }

  protected keepApart(value: string): void {
    this.kept.change({ apart: value === 'apart' }, 'legs in each other');
  }

  protected hold(percent: number): void {
    this.kept.change({ hands: percent / 100 }, 'how far hands hold', 'hands hold');
  }

  protected follow({ follow }: SolveChoices, limb: LimbName, percent: number): void {
    this.kept.change({ follow: { ...follow, [limb]: percent / 100 } }, LIMBS[limb], LIMBS[limb]);
  }

  protected apply({ key, name }: (typeof SHARES)[number], percent: number): void {
    this.kept.change({ [key]: percent / 100 }, name, name);
  }

  protected carry({ key, name }: (typeof CARRIED)[number], percent: number): void {
    this.kept.change({ [key]: percent / 100 }, `how ${name} are carried`, `carried ${name}`);
  }

  protected detect({ key, name }: (typeof DETECTION)[number], percent: number): void {
    const { take } = this.pairs.now;
    if (!take) return;
    this.kept.waitFor();
    const detection = { ...DEFAULT_DETECTION, ...take.choices.detection, [key]: percent / 100 };
    this.project.changeTake(take.id, { choices: { ...take.choices, detection } }, `how rests are found: ${name}`, `detection ${key}`);
  }

  protected set(key: Setting['key'], value: string): void {
    this.kept.change({ [key]: value } as Partial<SolveChoices>);
  }
}
