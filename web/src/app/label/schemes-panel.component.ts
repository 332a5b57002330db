import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { safeName, type NamingScheme } from '@hollow-stride/core';
import type { BodyView } from '../body/messages';
import { saveText } from '../deliver/save';
import { IntakeStore } from '../project/intake.store';
import { KeepByNameComponent } from '../shared/keep-by-name.component';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { LabelStore, SCHEME_FITS } from './label.store';

/** Naming schemes: the best known one first with how much of it fits; keep, export, bring in. */
@Component({
  selector: 'hs-schemes-panel',
  imports: [KeepByNameComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (known of store.schemes(view()); track known.id) {
      <div class="scheme">
        <span class="name">{{ known.scheme.name }}</span>
        <span class="num" [class.soft]="known.score < 0.5">{{ percent(known.score) }}</span>
        @if (known.score >= fits) {
          <button
            type="button"
            class="btn btn-sm btn-plain"
            (click)="store.applyScheme(known.scheme)"
            [attr.aria-label]="'Apply the scheme ' + known.scheme.name"
          >
            Apply
          </button>
        } @else {
          <span class="soft">does not fit</span>
        }
        <button
          type="button"
          class="btn btn-quiet"
          (click)="download(known.scheme)"
          [attr.aria-label]="'Export the scheme ' + known.scheme.name"
          title="Export as a file"
        >
          <i class="bi bi-download" aria-hidden="true"></i>
        </button>
        <button
          type="button"
          class="btn btn-quiet"
          (click)="items.remove('schemes', known.id, known.scheme.name)"
          [attr.aria-label]="'Remove the scheme ' + known.scheme.name + ' from the rack'"
          title="Remove from the rack"
        >
          <i class="bi bi-trash3" aria-hidden="true"></i>
        </button>
      </div>
    } @empty {
      <p class="soft">None yet. Keep these labels by a name and the next skeleton of this kind gets them with one press.</p>
    }
    <hs-keep-by-name label="Name of the new scheme" (kept)="store.keepScheme($event)">Keep as scheme</hs-keep-by-name>
    <label class="btn btn-sm btn-plain"
      >Bring a scheme in<input type="file" accept=".json" class="visually-hidden" (change)="bringIn($event)"
    /></label>
  `,
  styles: `
    .scheme {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-bottom: 3px;
      font-size: 12.5px;
    }
    .name {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    p {
      margin: 0 0 6px;
      font-size: 12.5px;
    }
    label:focus-within {
      outline: 2px solid var(--hs-act);
    }
  `,
})
export class SchemesPanelComponent {
  protected readonly store = inject(LabelStore);
  protected readonly project = inject(ProjectStore);
  protected readonly items = inject(ItemsStore);
  private readonly intake = inject(IntakeStore);
  readonly view = input.required<BodyView>();
  protected readonly fits = SCHEME_FITS;
  /** Counts the schemes on the rack, so that the list is drawn again. */
  readonly count = input(0);

  protected percent(score: number): string {
    return `${Math.round(score * 100)} % fits`;
  }

  protected download(scheme: NamingScheme): void {
    saveText(`${JSON.stringify(scheme, undefined, 2)}\n`, `${safeName(scheme.name)}.scheme.json`);
  }

  protected bringIn(event: Event): void {
    const input = event.target as HTMLInputElement;
    this.intake.bringIn([...(input.files ?? [])]);
    input.value = '';
  }
}
