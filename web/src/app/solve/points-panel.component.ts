import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { mirrorPoint, PROBE_POINTS, type ProbePoint, type SkeletonChoices } from '@hollow-stride/core';
import { map } from 'rxjs';
import { PairStore } from '../pair/pair.store';
import { EditsStore } from '../project/edits.store';
import { ProjectStore } from '../project/project.store';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { NumberComponent } from '../shared/number.component';
import { pointName } from '../stage/point-names';

const BODIES: readonly Choice[] = [
  { value: 'performer', name: 'performer' },
  { value: 'character', name: 'character' },
];
const WAYS = [
  { name: 'to its left', at: 0 },
  { name: 'up', at: 1 },
  { name: 'ahead', at: 2 },
] as const;
const NONE = [0, 0, 0] as const;

/** Points of both bodies that are watched for what they touch, moved by hand where they were found wrong: kept with the skeleton. */
@Component({
  selector: 'hs-points-panel',
  imports: [ChoicesComponent, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="line">
      <hs-choices label="Points of" [choices]="bodies" [value]="body()" (chosen)="choose($event)" />
      <button type="button" class="btn btn-quiet" [class.on]="shown()" [attr.aria-pressed]="shown()" (click)="show.emit(!shown())">
        show them
      </button>
    </div>
    <select class="form-select form-select-sm" aria-label="Point" (change)="pick($event)">
      @for (name of names; track name) {
        <option [value]="name" [selected]="name === point()">{{ nameOf(name) }}{{ isMoved(name) ? ' (moved)' : '' }}</option>
      }
    </select>
    @for (way of ways; track way.at) {
      <hs-number
        [name]="way.name"
        [label]="nameOf(point()) + ' moved ' + way.name + ', cm'"
        unit="cm"
        [value]="offset()[way.at] * 100"
        [low]="-50"
        [high]="50"
        [step]="0.5"
        [digits]="1"
        [usual]="0"
        (changed)="move(way.at, $event)"
      />
    }
    @if (isSided()) {
      <label class="check"
        ><input type="checkbox" class="form-check-input" [checked]="mirrored()" (change)="mirrored.set(!mirrored())" /> the other side
        alike</label
      >
    }
  `,
  styles: `
    .line {
      display: flex;
      justify-content: space-between;
      margin-bottom: 5px;
    }
    select {
      margin-bottom: 5px;
    }
    .check {
      display: flex;
      gap: 6px;
      font-size: 12.5px;
    }
  `,
})
export class PointsPanelComponent {
  /** They are seen on the stage. */
  readonly shown = input(false);
  readonly show = output<boolean>();
  private readonly pairs = inject(PairStore);
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  protected readonly bodies = BODIES;
  protected readonly names = PROBE_POINTS;
  protected readonly nameOf = pointName;
  protected readonly ways = WAYS;
  protected readonly body = signal<'performer' | 'character'>('character');
  protected readonly point = signal<ProbePoint>('left.heel');
  protected readonly mirrored = signal(true);
  private readonly ids = toSignal(
    this.pairs.pair$.pipe(map(({ take, character }) => ({ performer: take?.skeleton, character: character?.skeleton }))),
  );
  private readonly rack = toSignal(this.project.rack$);
  private readonly skeleton = computed(() => this.rack()?.skeletons.find(({ id }) => id === this.ids()?.[this.body()]));
  private readonly points = computed((): NonNullable<SkeletonChoices['points']> => this.skeleton()?.choices.points ?? {});
  protected readonly offset = computed(() => this.points()[this.point()] ?? NONE);
  protected readonly isSided = computed(() => this.point().includes('.'));

  protected isMoved(name: ProbePoint): boolean {
    return (this.points()[name] ?? NONE).some((v) => v !== 0);
  }

  protected choose(body: string): void {
    this.body.set(body as 'performer' | 'character');
  }

  protected pick(event: Event): void {
    this.point.set((event.target as HTMLSelectElement).value as ProbePoint);
  }

  protected move(at: 0 | 1 | 2, centimetres: number): void {
    const skeleton = this.skeleton();
    if (!skeleton) return;
    const name = this.point();
    const by: [number, number, number] = [...this.offset()];
    by[at] = centimetres / 100;
    const [other, there] = mirrorPoint(name, by);
    const points = { ...this.points(), [name]: by, ...(this.mirrored() && { [other]: there }) };
    const choices = { ...skeleton.choices, points };
    this.edits.changeSkeleton(skeleton.id, { choices }, `move the ${this.nameOf(name)}`, `point ${name} ${at}`);
    if (!this.shown()) this.show.emit(true);
  }
}
