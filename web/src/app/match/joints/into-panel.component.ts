import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { Into } from '@hollow-stride/core';
import type { JointsView } from '../../body/messages';
import { NumberComponent } from '../../shared/number.component';
import { JointsStore } from './joints.store';

/** A motion of the character's own file that the take is laid into: put in between, in its place, or mixed with it. */
@Component({
  selector: 'hs-into-panel',
  imports: [NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (view().motions.length === 0) {
      <p class="hint">The character's file holds no motion that the take could be laid into.</p>
    } @else {
      <label class="line">
        <span>motion</span>
        <select class="form-select form-select-sm" (change)="pick($event)">
          <option value="" [selected]="into() === null">none: the take alone</option>
          @for (motion of view().motions; track $index; let i = $index) {
            <option [value]="i + 1" [selected]="into()?.clip === i + 1">{{ motion.name }}, {{ motion.seconds.toFixed(1) }} s</option>
          }
        </select>
      </label>
      @if (into(); as how) {
        <label class="line">
          <span>way</span>
          <select class="form-select form-select-sm" (change)="way($event)">
            @for (one of ways; track one.value) {
              <option [value]="one.value" [selected]="how.way === one.value">{{ one.name }}</option>
            }
          </select>
        </label>
        <hs-number
          name="from second"
          unit="s"
          [value]="how.at"
          [step]="0.1"
          [digits]="2"
          [low]="0"
          [high]="3600"
          (changed)="set({ at: $event })"
        />
        <hs-number
          name="eased over"
          unit="s"
          [value]="how.ease"
          [step]="0.05"
          [digits]="2"
          [low]="0"
          [high]="60"
          (changed)="set({ ease: $event })"
        />
        @if (how.way === 'merge') {
          <hs-number
            name="share of the take"
            unit=""
            [value]="how.weight"
            [step]="0.05"
            [digits]="2"
            [low]="0"
            [high]="1"
            (changed)="set({ weight: $event })"
          />
        }
      }
    }
    <p class="hint">A part of the take, another rate, or other seconds: its handles and its rate on Gather.</p>
  `,
  styles: `
    .line {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-bottom: 4px;
      font-size: 12.5px;
    }
    .line span {
      flex: none;
      width: 58px;
    }
    .hint {
      margin: 4px 0;
      color: var(--hs-ink-soft);
      font-size: 12px;
    }
  `,
})
export class IntoPanelComponent {
  private readonly store = inject(JointsStore);
  readonly view = input.required<JointsView>();
  protected readonly into = computed(() => this.view().settings.into);
  protected readonly ways = [
    { value: 'insert', name: 'put in: what follows moves on' },
    { value: 'replace', name: 'in place of what is there' },
    { value: 'merge', name: 'mixed with what is there' },
  ];

  protected pick(event: Event): void {
    const clip = Number((event.target as HTMLSelectElement).value);
    this.store.setInto(clip === 0 ? null : { way: 'replace', at: 0, ease: 0.2, weight: 1, ...this.store.settings.into, clip });
  }

  protected way(event: Event): void {
    this.set({ way: (event.target as HTMLSelectElement).value as Into['way'] });
  }

  protected set(change: Partial<Into>): void {
    const { into } = this.store.settings;
    if (into) this.store.setInto({ ...into, ...change });
  }
}
