import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { FitChoices, FitDetail } from '@hollow-stride/core';
import { FitStore } from './fit.store';

/** How fine the skeleton is. */
@Component({
  selector: 'hs-detail-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (choices(); as c) {
      @if (hasSkeleton()) {
        <label
          >skeleton
          <select class="form-select form-select-sm" aria-label="Skeleton" (change)="setSkeleton($event)">
            <option value="new" [selected]="c.skeleton === 'new'">by the landmarks</option>
            <option value="keep" [selected]="c.skeleton === 'keep'">as the file has it</option>
          </select>
        </label>
      }
      @for (field of fields; track field.name) {
        <label
          >{{ field.label }}
          <select
            class="form-select form-select-sm"
            [attr.aria-label]="field.label"
            [disabled]="c.skeleton === 'keep'"
            (change)="set(field.name, $event)"
          >
            @for (value of field.values; track value) {
              <option [value]="value" [selected]="value === c.detail[field.name]">{{ value === 0 ? 'none' : value }}</option>
            }
          </select>
        </label>
      }
      <label class="check"
        ><input
          type="checkbox"
          class="form-check-input"
          [checked]="c.detail.twists"
          [disabled]="c.skeleton === 'keep'"
          (change)="store.setDetail({ twists: !c.detail.twists })"
        />
        twist joints in arms and thighs</label
      >
      <label class="check"
        ><input type="checkbox" class="form-check-input" [checked]="hocks()" (change)="store.change({ hocks: !hocks() }, 'hocks')" /> legs
        with hocks</label
      >
      <label class="check"
        ><input
          type="checkbox"
          class="form-check-input"
          [checked]="c.mirrored"
          (change)="store.change({ mirrored: !c.mirrored }, 'one place for both sides')"
        />
        one place for both sides</label
      >
      @if (parts().length > 1) {
        <details>
          <summary>Pieces that move whole ({{ wholeCount() }})</summary>
          @for (part of parts(); track part) {
            <label
              >{{ part }}
              <select class="form-select form-select-sm" [attr.aria-label]="'What moves ' + part" (change)="setWhole(part, $event)">
                <option value="">by the skin</option>
                @for (name of joints(); track name) {
                  <option [value]="name" [selected]="c.whole[part] === name">{{ name }}</option>
                }
              </select>
            </label>
          }
        </details>
      }
    }
  `,
  styleUrl: './panel.scss',
})
export class DetailPanelComponent {
  protected readonly store = inject(FitStore);
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly choices = computed(() => this.state().mesh?.choices);
  protected readonly hasSkeleton = computed(() => (this.state().laid?.facts.joints ?? 0) > 0);
  protected readonly hocks = computed(() => this.choices()?.hocks ?? this.state().laid?.hasHocks ?? false);
  protected readonly parts = computed(() => this.state().laid?.parts ?? []);
  protected readonly joints = computed(() => [...new Set((this.state().laid?.bones ?? []).map(({ name }) => name))]);
  protected readonly wholeCount = computed(() => Object.keys(this.choices()?.whole ?? {}).length);
  protected readonly fields = [
    { name: 'fingers', label: 'fingers', values: [0, 3, 5] },
    { name: 'spine', label: 'spine joints', values: [1, 2, 3, 4, 5] },
    { name: 'neck', label: 'neck joints', values: [1, 2] },
  ] as const;

  protected set(name: 'fingers' | 'spine' | 'neck', event: Event): void {
    this.store.setDetail({ [name]: Number((event.target as HTMLSelectElement).value) } as Partial<FitDetail>);
  }

  protected setSkeleton(event: Event): void {
    const skeleton = (event.target as HTMLSelectElement).value as FitChoices['skeleton'];
    this.store.change({ skeleton }, skeleton === 'keep' ? 'keep the skeleton of the file' : 'a new skeleton');
  }

  protected setWhole(part: string, event: Event): void {
    this.store.setWhole(part, (event.target as HTMLSelectElement).value);
  }
}
