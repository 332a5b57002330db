import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { NameRule } from '@hollow-stride/core';
import type { JointsView } from '../../body/messages';
import { JointsStore } from './joints.store';

/** Names that are read as others: typed rules, and what each of them fits as it is typed. */
@Component({
  selector: 'hs-rules-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p class="hint">A name of the performer, and what it is called on the character. * stands for any letters.</p>
    @for (rule of rules(); track $index; let i = $index) {
      <div class="rule">
        <input
          class="form-control form-control-sm"
          [attr.aria-label]="'Rule ' + (i + 1) + ', name of the performer'"
          maxlength="200"
          [value]="rule.from"
          (input)="set(i, { from: text($event) })"
        />
        <i class="bi bi-arrow-right" aria-hidden="true"></i>
        <input
          class="form-control form-control-sm"
          [attr.aria-label]="'Rule ' + (i + 1) + ', name on the character'"
          maxlength="200"
          [value]="rule.to"
          (input)="set(i, { to: text($event) })"
        />
        <button type="button" class="btn btn-quiet" [attr.aria-label]="'Remove rule ' + (i + 1)" (click)="remove(i)">
          <i class="bi bi-trash3" aria-hidden="true"></i>
        </button>
      </div>
      <p class="fits" role="status">{{ rule.fits }}</p>
    }
    <button type="button" class="btn btn-sm btn-plain" (click)="add()">Add a rule</button>
  `,
  styles: `
    .hint,
    .fits {
      margin: 0 0 5px;
      color: var(--hs-ink-soft);
      font-size: 12px;
      overflow-wrap: anywhere;
    }
    .rule {
      display: flex;
      gap: 4px;
      align-items: center;
      margin-bottom: 2px;
    }
    .btn-quiet {
      flex: none;
      padding: 1px 4px;
    }
  `,
})
export class RulesPanelComponent {
  private readonly store = inject(JointsStore);
  readonly view = input.required<JointsView>();
  protected readonly rules = computed(() => {
    const { settings, map, performer } = this.view();
    return settings.rules.map((rule, i) => {
      const names = (map.ruled[i] ?? []).map((joint) => performer.names[joint]);
      const fits =
        names.length === 0 ? 'fits no joint' : `fits ${names.length}: ${names.slice(0, 8).join(', ')}${names.length > 8 ? ' …' : ''}`;
      return { ...rule, fits };
    });
  });

  protected text(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }

  protected add(): void {
    const first = this.view().map.leftOver.performer.at(0);
    const from = first === undefined ? '*' : this.view().performer.keys[first];
    const other = this.view().map.leftOver.character.at(0);
    this.put([...this.now, { from, to: other === undefined ? '*' : this.view().character.keys[other] }], 'add a rule for names');
  }

  protected remove(at: number): void {
    this.put(
      this.now.filter((_, i) => i !== at),
      'remove a rule for names',
    );
  }

  /** A rule without text is not one yet. */
  protected set(at: number, change: Partial<NameRule>): void {
    const rules = this.now.map((rule, i) => (i === at ? { ...rule, ...change } : rule));
    if (rules.every(({ from, to }) => from.trim() !== '' && to.trim() !== '')) this.put(rules, 'change a rule for names', `rule ${at}`);
  }

  private get now(): readonly NameRule[] {
    return this.store.settings.rules;
  }

  private put(rules: readonly NameRule[], text: string, key?: string): void {
    this.store.setRules(rules, text, key);
  }
}
