import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ProjectStore } from '../project/project.store';
import { SeveralStore } from './several.store';

/** A number that is set for all takes that are chosen. */
interface NumberOfAll {
  readonly name: string;
  readonly unit: string;
  readonly what: string;
  readonly least: number;
  readonly most: number;
  readonly set: (value: number) => void;
}

/** Actions on the takes that are chosen together. */
@Component({
  selector: 'hs-several-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <b role="status">{{ isFinding() ? 'choosing …' : chosen().size === 1 ? '1 take chosen' : chosen().size + ' takes chosen' }}</b>
    @if (chosen().size < total()) {
      <button type="button" class="btn btn-sm btn-plain" (click)="everything.emit()">choose all {{ total() }}</button>
    }
    <button type="button" class="btn btn-sm btn-plain" (click)="several.none()">none</button>
    <fieldset [disabled]="isFinding()">
      <span class="group">
        <label
          >tag
          <input
            class="form-control form-control-sm"
            maxlength="40"
            [attr.list]="'tags-in-use'"
            [value]="tag()"
            (input)="tag.set(valueOf($event))"
            (keydown.enter)="put()"
        /></label>
        <datalist id="tags-in-use">
          @for (name of tags(); track name) {
            <option [value]="name"></option>
          }
        </datalist>
        <button type="button" class="btn btn-sm btn-plain" [disabled]="tag().trim() === ''" (click)="put()">put on</button>
        <button type="button" class="btn btn-sm btn-plain" [disabled]="tag().trim() === ''" (click)="several.untag(tag().trim())">
          take off
        </button>
      </span>
      @if (schemes().length > 0) {
        <label class="group"
          >label by
          <select class="form-select form-select-sm" (change)="label($event)">
            <option value="">a naming scheme …</option>
            @for (scheme of schemes(); track scheme.id) {
              <option [value]="scheme.id">{{ scheme.scheme.name }}</option>
            }
          </select></label
        >
      }
      <span class="group">
        <button type="button" class="btn btn-sm btn-plain" title="They play from behind the rest pose in front" (click)="several.trim()">
          leave out rest poses
        </button>
        <button type="button" class="btn btn-sm btn-plain" title="Gaps filled, spikes of single frames taken out" (click)="several.clean()">
          fill and mend
        </button>
      </span>
      @for (field of numbers; track field.name) {
        <label class="group"
          >{{ field.name }}
          <input
            class="form-control form-control-sm num"
            type="number"
            step="any"
            [min]="field.least"
            [max]="field.most"
            [placeholder]="field.unit"
            [attr.aria-label]="field.what"
            (keydown.enter)="typed($event, field)"
            (change)="typed($event, field)"
        /></label>
      }
      <button
        type="button"
        class="btn btn-sm btn-plain"
        title="From their last frame to their first; once more, and forwards"
        (click)="several.reverse()"
      >
        play backwards
      </button>
      <button type="button" class="btn btn-sm btn-plain off" (click)="several.remove()">
        <i class="bi bi-trash3" aria-hidden="true"></i> remove from the rack
      </button>
    </fieldset>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
      align-items: center;
      margin: 4px 0;
      padding: 4px 8px;
      border: 1px solid var(--hs-act);
      border-radius: 3px;
      background: var(--hs-sheet);
      font-size: 13px;
    }
    fieldset {
      display: contents;
    }
    .group {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    label {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    input {
      width: 110px;
    }
    select {
      width: 160px;
    }
    .off {
      margin-left: auto;
    }
  `,
})
export class SeveralBarComponent {
  /** Takes that are found. */
  readonly total = input.required<number>();
  readonly tags = input.required<readonly string[]>();
  /** It is not known yet which takes are chosen. */
  readonly isFinding = input(false);
  readonly everything = output<void>();
  protected readonly several = inject(SeveralStore);
  private readonly project = inject(ProjectStore);
  protected readonly chosen = toSignal(this.several.chosen$, { requireSync: true });
  private readonly rack = toSignal(this.project.rack$, { requireSync: true });
  protected readonly schemes = computed(() => this.rack().schemes);
  protected readonly tag = signal('');
  protected readonly numbers: readonly NumberOfAll[] = [
    {
      name: 'recorded at',
      unit: '1/s',
      what: 'Frames a second that they were recorded at',
      least: 1,
      most: 1000,
      set: (rate) => this.several.rate(rate),
    },
    {
      name: 'from',
      unit: 's',
      what: 'Second of their own that they play from',
      least: 0.001,
      most: 1e6,
      set: (seconds) => this.several.start(seconds),
    },
    {
      name: 'loop over',
      unit: 's',
      what: 'Seconds over which their ends are drawn together where they are delivered',
      least: 0.01,
      most: 5,
      set: (seconds) => this.several.loop(seconds),
    },
  ];

  protected put(): void {
    const tag = this.tag().trim();
    if (tag !== '') this.several.tag(tag);
  }

  /** Sets a number that was typed, if it is one that can be: the field is free again at once. */
  protected typed(event: Event, { least, most, set }: NumberOfAll): void {
    const field = event.target as HTMLInputElement;
    const value = Number(field.value);
    const isOne = field.value !== '' && value >= least && value <= most;
    field.value = '';
    if (isOne) set(value);
  }

  protected label(event: Event): void {
    const field = event.target as HTMLSelectElement;
    const scheme = this.schemes().find(({ id }) => id === field.value);
    field.value = '';
    if (scheme) this.several.label({ id: scheme.id, name: scheme.scheme.name });
  }

  protected valueOf(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }
}
