import { AsyncPipe, DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import type { SolveChoices, TakeJson } from '@hollow-stride/contract';
import { DEFAULT_DETECTION, LIMB_NAMES, type Detection, type LimbName } from '@hollow-stride/core';
import { PairStore } from '../pair/pair.store';
import { EditsStore } from '../project/edits.store';

import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { NumberComponent } from '../shared/number.component';
import { KeptStore } from './kept.store';
import type { Solved } from '../solver/messages';
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

/** A number that is set: as it stands, its limits, and what a new one does. */
interface Dial {
  readonly name: string;
  /** How it is called where its name alone would not tell it from another. */
  readonly label?: string;
  readonly unit: string;
  readonly value: number;
  readonly usual: number;
  readonly low: number;
  readonly high: number;
  readonly step: number;
  readonly digits: number;
  readonly set: (value: number) => void;
}

/** Dials under one heading. */
interface Dials {
  readonly heading: string;
  readonly title: string;
  readonly dials: readonly Dial[];
}

type ShareKey = 'hands' | 'clavicleHelp' | 'spineHelp' | 'balance' | 'softReach' | 'stretch' | 'tails';
const SHARES: readonly {
  readonly key: ShareKey;
  readonly name: string;
  readonly usual: number;
  readonly low?: number;
  readonly high?: number;
}[] = [
  { key: 'hands', name: 'hands hold', usual: 100 },
  { key: 'clavicleHelp', name: 'shoulders help reach', usual: 50 },
  { key: 'spineHelp', name: 'spine helps reach', usual: 50 },
  { key: 'balance', name: 'balance', usual: 0 },
  { key: 'softReach', name: 'legs straighten to', usual: 98.5, low: 90 },
  { key: 'stretch', name: 'limbs stretch by up to', usual: 0, high: 30 },
  { key: 'tails', name: 'tails swing', usual: 0 },
];
/** How the rest of parts of the body is carried: 0 as the character's own, 100 as the performer's. */
const CARRIED = [
  { key: 'clavicles', name: 'shoulders', usual: 0 },
  { key: 'head', name: 'head', usual: 0 },
  { key: 'palms', name: 'palms', usual: 100 },
  { key: 'thumbs', name: 'thumbs', usual: 100 },
] as const;
const LIMBS: Readonly<Record<LimbName, string>> = {
  leftArm: 'left arm holds',
  rightArm: 'right arm holds',
  leftLeg: 'left leg holds',
  rightLeg: 'right leg holds',
};
const DETECTION = [
  { key: 'feetSpeed', name: 'feet, speed' },
  { key: 'feetHeight', name: 'feet, height' },
  { key: 'handsSpeed', name: 'hands, speed' },
] as const;

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
      @if (pairs.pair$ | async; as pair) {
        @for (group of groups(s.choices, pair.take, s.solved?.contacts); track group.heading) {
          @if (group.heading !== '') {
            <h4 [title]="group.title">{{ group.heading }}</h4>
          }
          @for (dial of group.dials; track dial.name) {
            <hs-number
              [name]="dial.name"
              [label]="dial.label ?? ''"
              [unit]="dial.unit"
              [value]="dial.value"
              [low]="dial.low"
              [high]="dial.high"
              [step]="dial.step"
              [digits]="dial.digits"
              [usual]="dial.usual"
              (changed)="dial.set($event)"
            />
          }
        }
        @if (pair.take; as take) {
          @if (isFloorSet(take)) {
            <button type="button" class="btn btn-quiet" (click)="findFloor(take)">find the floor again</button>
          }
        }
      }
      @if (s.solved; as solved) {
        <p class="scale soft">
          lift <b class="num">{{ solved.lift | number: '1.3-3' }}</b>, stride <b class="num">{{ solved.stride | number: '1.3-3' }}</b>;
          floor found at <b class="num">{{ solved.contacts.floor * 100 | number: '1.1-1' }} cm</b>
          @if (solved.contacts.slope; as slope) {
            <span
              >, rising <b class="num">{{ slope.degrees | number: '1.1-1' }}°</b> toward
              <b class="num">{{ slope.toward | number: '1.0-0' }}°</b></span
            >
          }
          <br />
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
  private readonly edits = inject(EditsStore);
  private readonly kept = inject(KeptStore);
  protected readonly settings = SETTINGS;
  protected readonly keptOut = KEPT_OUT;
  protected readonly apart = APART;

  /** All that is set by a number. @param contacts the performer's floor as it is now */
  protected groups(choices: SolveChoices, take: TakeJson | undefined, contacts: Solved['contacts'] | undefined): Dials[] {
    const percent = (change: (share: number) => void) => ({
      unit: '%',
      low: 0,
      high: 100,
      step: 5,
      digits: 0,
      set: (v: number) => change(v / 100),
    });
    const holds = LIMB_NAMES.map((limb): Dial => {
      const set = (share: number): void => this.kept.change({ follow: { ...choices.follow, [limb]: share } }, LIMBS[limb], LIMBS[limb]);
      return { ...percent(set), name: LIMBS[limb], value: choices.follow[limb] * 100, usual: 100 };
    });
    const [hands, ...shares] = SHARES.map(({ key, name, usual, low = 0, high = 100 }): Dial => {
      const isFine = low > 0 || high < 100;
      const fine = isFine ? { low, high, step: 0.5, digits: 1 } : {};
      return { ...percent((share) => this.kept.change({ [key]: share }, name, name)), ...fine, name, value: choices[key] * 100, usual };
    });
    const carried = CARRIED.map(({ key, name, usual }): Dial => {
      const set = (share: number): void => this.kept.change({ [key]: share }, `how ${name} are carried`, `carried ${name}`);
      return { ...percent(set), step: 10, name, label: `${name} carried, %`, value: carriedShare(choices[key]), usual };
    });
    const own: Dials[] = [
      { heading: '', title: '', dials: [hands, ...holds, ...shares] },
      { heading: "rest as the performer's", title: "0 % lies as the character's own rest, 100 % as the performer's", dials: carried },
    ];
    return take ? [...own, this.found(take, contacts)] : own;
  }

  /** How rests are found in the take, and where its floor lies. */
  private found(take: TakeJson, contacts: Solved['contacts'] | undefined): Dials {
    const detection = { ...DEFAULT_DETECTION, ...take.choices.detection };
    const change = (part: Partial<Detection>, name: string): void => {
      this.kept.waitFor();
      const choices = { ...take.choices, detection: { ...detection, ...part } };
      this.edits.changeTake(take.id, { choices }, `how rests are found: ${name}`, `detection ${name}`);
    };
    const dials = DETECTION.map(({ key, name }): Dial => {
      const label = `${name} of rests, %`;
      const limits = { unit: '%', low: 20, high: 500, step: 10, digits: 0, usual: 100 };
      return { ...limits, name, label, value: detection[key] * 100, set: (v) => change({ [key]: v / 100 }, name) };
    });
    const now = (contacts?.floor ?? 0) * 100;
    const found = contacts?.slope ?? { degrees: 0, toward: 0 };
    const slope = detection.slope ?? found;
    const height: Dial = {
      name: 'floor at',
      label: 'height of the floor in the take, cm',
      unit: 'cm',
      low: -1000,
      high: 10_000,
      step: 0.5,
      digits: 1,
      value: detection.floor === null ? now : detection.floor * 100,
      usual: now,
      set: (v) => change({ floor: v / 100 }, 'the floor'),
    };
    const toSlope = (part: Partial<NonNullable<Detection['slope']>>): void =>
      change({ slope: { degrees: slope.degrees, toward: slope.toward, ...part } }, 'the slope of the floor');
    const rising: Dial = {
      name: 'floor rises by',
      label: 'slope of the floor in the take, °',
      unit: '°',
      low: 0,
      high: 45,
      step: 0.5,
      digits: 1,
      value: slope.degrees,
      usual: found.degrees,
      set: (v) => toSlope({ degrees: v }),
    };
    const toward: Dial = {
      name: 'toward',
      label: 'heading in which the floor rises, °: 0 is +Z, 90 is +X',
      unit: '°',
      low: -180,
      high: 180,
      step: 5,
      digits: 0,
      value: slope.toward,
      usual: found.toward,
      set: (v) => toSlope({ toward: v }),
    };
    const floor = [height, rising, ...(slope.degrees > 0 ? [toward] : [])];
    return { heading: 'found in the take', title: 'Higher finds more rests, lower fewer; for this take', dials: [...dials, ...floor] };
  }

  /** A person has set the floor. */
  protected isFloorSet({ choices: { detection } }: TakeJson): boolean {
    const { floor, slope } = { ...DEFAULT_DETECTION, ...detection };
    return floor !== null || slope !== null;
  }

  /** The floor as it is found again. */
  protected findFloor(take: TakeJson): void {
    this.kept.waitFor();
    const choices = { ...take.choices, detection: { ...DEFAULT_DETECTION, ...take.choices.detection, floor: null, slope: null } };
    this.edits.changeTake(take.id, { choices }, 'find the floor');
  }

  protected keepOut(value: string): void {
    this.kept.change({ keepOut: value === 'out' }, 'hands in the body');
  }

  protected keepApart(value: string): void {
    this.kept.change({ apart: value === 'apart' }, 'legs in each other');
  }

  protected set(key: Setting['key'], value: string): void {
    this.kept.change({ [key]: value } as Partial<SolveChoices>);
  }
}

function carriedShare(choice: SolveChoices['clavicles']): number {
  return choice === 'keep' ? 0 : choice === 'match' ? 100 : choice * 100;
}
