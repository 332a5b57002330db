import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { safeName } from '@hollow-stride/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { MatchView } from '../body/messages';
import { saveText } from '../deliver/save';
import { ProjectStore } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';
import { MatchStore } from './match.store';

/** The pairing as a thing that is kept: its name, copies for other characters, recipes. */
@Component({
  selector: 'hs-pairing-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="line"
      ><span>name</span><input class="form-control form-control-sm" maxlength="120" [value]="name()" (change)="store.rename(value($event))"
    /></label>
    <div class="line">
      <select class="form-select form-select-sm" aria-label="Character to copy the pairing to" (change)="target.set(value($event))">
        @for (character of others(); track character.id) {
          <option [value]="character.id" [selected]="character.id === target()">{{ character.name }}</option>
        }
      </select>
      <button type="button" class="btn btn-sm btn-plain" [disabled]="others().length === 0" (click)="copy()">Copy to it</button>
    </div>
    <div class="line">
      <button type="button" class="btn btn-sm btn-plain" (click)="download()">
        <i class="bi bi-download" aria-hidden="true"></i> Export recipe
      </button>
      <label class="btn btn-sm btn-plain"
        ><i class="bi bi-upload" aria-hidden="true"></i> Bring recipe in<input
          type="file"
          accept=".json"
          class="visually-hidden"
          (change)="bringIn($event)"
      /></label>
    </div>
    @for (chain of view()?.extras ?? []; track chain.name) {
      <label class="line chain">
        <span>chain {{ chain.name }}</span>
        <select class="form-select form-select-sm" (change)="link(chain.name, $event)">
          <option value="" [selected]="!chain.partner">keeps its rest</option>
          @for (theirs of view()?.performerExtras ?? []; track theirs) {
            <option [value]="theirs" [selected]="theirs === chain.partner">driven by {{ theirs }}</option>
          }
        </select>
      </label>
    }
    @if (view(); as view) {
      @if (view.props.length > 0) {
        <label class="line chain">
          <span [title]="'Things beside the body: ' + view.props.join(', ')">size of props</span>
          <input
            type="number"
            class="form-control form-control-sm"
            min="0.01"
            max="100"
            step="0.05"
            aria-label="Size of the character's props over the performer's"
            [value]="view.propSize.toFixed(2)"
            (change)="resize($event)"
          />
        </label>
      }
    }
  `,
  styles: `
    .line {
      display: flex;
      gap: 6px;
      align-items: center;
      margin-bottom: 5px;
      font-size: 12.5px;
    }
    .line .btn {
      flex: none;
    }
    .chain span {
      flex: none;
      width: 90px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    label.btn:focus-within {
      outline: 2px solid var(--hs-act);
    }
  `,
})
export class PairingPanelComponent {
  protected readonly store = inject(MatchStore);
  private readonly project = inject(ProjectStore);
  private readonly solving = toSignal(inject(SolveStore).state$, { requireSync: true });
  private readonly rack = toSignal(this.project.rack$, { requireSync: true });
  /** Undefined for a pairing that goes joint by joint: it has no chains of a body and no props. */
  readonly view = input<MatchView>();
  protected readonly target = signal('');

  protected readonly name = computed(() => {
    const { take, character } = this.solving();
    if (!take || !character) return '';
    const kept = this.rack().pairings.find((p) => p.performer === take.skeleton && p.character === character.id);
    return kept?.name ?? `to ${character.name}`;
  });
  protected readonly others = computed(() => this.rack().characters.filter(({ id }) => id !== this.solving().character?.id));

  protected value(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  protected copy(): void {
    const id = this.others().some((c) => c.id === this.target()) ? this.target() : this.others()[0].id;
    this.store.copyTo(id);
  }

  protected link(chain: string, event: Event): void {
    const partner = this.value(event) || null;
    const { extras } = this.solving().choices;
    this.store.change(
      { extras: { ...extras, [chain]: partner } },
      partner ? `drive the chain ${chain} by ${partner}` : `leave the chain ${chain} at rest`,
    );
  }

  /** An empty field goes back to what is automatic. */
  protected resize(event: Event): void {
    const text = this.value(event).trim();
    const props = text === '' ? null : Number(text);
    if (props !== null && !(props >= 0.01 && props <= 100)) return;
    this.store.change({ props }, props === null ? 'let props be as large as they are' : `make props ${props} as large`);
  }

  protected download(): void {
    this.store.recipe().subscribe(({ name, text }) => saveText(text, `${safeName(name)}.recipe.json`));
  }

  protected async bringIn(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (file) this.store.applyRecipe(await file.text(), file.name);
  }
}
