import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { NgbDropdown, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import type { Solved } from '../solver/messages';
import { WHOLE, type StageOptions } from './options';

const named = (...list: readonly (readonly [string, string] | string)[]): Choice[] =>
  list.map((entry) => (typeof entry === 'string' ? { value: entry, name: entry } : { value: entry[0], name: entry[1] }));

/** Choices of the stage's toolbar, by the option that each sets. */
const STAGE_CHOICES: readonly { readonly key: 'layout' | 'view' | 'show'; readonly label: string; readonly choices: readonly Choice[] }[] =
  [
    { key: 'layout', label: 'Layout', choices: named('beside', ['over', 'laid over'], 'performer', 'character') },
    { key: 'view', label: 'View', choices: named('front', 'side', 'top', 'free') },
    { key: 'show', label: 'Show', choices: named('mesh', 'skeleton', 'both', ['through', 'see-through']) },
  ];

type Overlay = 'trails' | 'prints' | 'rooms' | 'points';
/** Overlays on offer. */
const OVERLAYS: readonly { readonly key: Overlay; readonly name: string; readonly title: string }[] = [
  { key: 'trails', name: 'trails', title: 'The ways of feet, hands and hips through the take (R)' },
  { key: 'prints', name: 'footprints', title: 'Where the feet stand through the take, and what they stand on above the floor' },
  { key: 'rooms', name: 'rooms of the body', title: 'Volumes that hands and legs are kept out of' },
  { key: 'points', name: 'watched points', title: 'The points of the body that are watched for what they touch' },
];

/** How the stage is looked at: layout, view, what is shown, overlays and framing. */
@Component({
  selector: 'hs-stage-tools',
  imports: [ChoicesComponent, NgbDropdown, NgbDropdownMenu, NgbDropdownToggle],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (group of groups; track group.key) {
      <hs-choices [label]="group.label" [choices]="group.choices" [value]="options()[group.key]" (chosen)="set(group.key, $event)" />
    }
    <button
      type="button"
      class="btn btn-quiet"
      [class.on]="options().follow"
      [attr.aria-pressed]="options().follow"
      (click)="changed.emit({ follow: !options().follow })"
      title="The view goes with the hips"
    >
      follow
    </button>
    <button
      type="button"
      class="btn btn-quiet"
      [class.on]="options().before"
      [attr.aria-pressed]="options().before"
      (click)="changed.emit({ before: !options().before })"
      [title]="before()"
    >
      before
    </button>
    <div ngbDropdown autoClose="outside">
      <button type="button" class="btn btn-quiet" ngbDropdownToggle [class.on]="isOverlaid()" title="Overlays and framing of the view">
        look
      </button>
      <div ngbDropdownMenu class="look">
        @for (one of overlays; track one.key) {
          <label class="check" [title]="one.title">
            <input type="checkbox" class="form-check-input" [checked]="options()[one.key]" (change)="toggle(one.key)" />
            {{ one.name }}
          </label>
        }
        <label class="framed"
          >framed on
          <select class="form-select form-select-sm" (change)="frame($event)">
            @for (part of parts(); track part) {
              <option [value]="part" [selected]="options().part === part">{{ part }}</option>
            }
          </select>
        </label>
      </div>
    </div>
  `,
  styles: `
    :host {
      display: contents;
    }
    .on {
      box-shadow: inset 0 -2px 0 var(--hs-act);
      font-weight: 600;
    }
    .look {
      padding: 8px 12px;
      font-size: 13px;
    }
    .check {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-bottom: 4px;
      white-space: nowrap;
    }
    .framed {
      display: flex;
      gap: 8px;
      align-items: center;
      white-space: nowrap;
    }
  `,
})
export class StageToolsComponent {
  readonly options = input.required<StageOptions>();
  readonly solved = input<Solved | undefined>();
  /** What is shown as before. */
  readonly before = input.required<string>();
  readonly changed = output<Partial<StageOptions>>();
  protected readonly groups = STAGE_CHOICES;
  protected readonly overlays = OVERLAYS;
  protected readonly isOverlaid = computed(() => OVERLAYS.some(({ key }) => this.options()[key]) || this.options().part !== WHOLE);
  /** Parts that the view can be framed on. */
  protected readonly parts = computed(() => [WHOLE, ...Object.keys(this.solved()?.character.about?.parts ?? {})]);

  protected set(key: 'layout' | 'view' | 'show', value: string): void {
    this.changed.emit({ [key]: value } as Partial<StageOptions>);
  }

  protected toggle(key: Overlay): void {
    this.changed.emit({ [key]: !this.options()[key] });
  }

  protected frame(event: Event): void {
    this.changed.emit({ part: (event.target as HTMLSelectElement).value });
  }
}
