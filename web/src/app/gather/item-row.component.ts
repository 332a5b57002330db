import { ChangeDetectionStrategy, Component, type ElementRef, input, output, signal, viewChild } from '@angular/core';

/** One line of a list: a name that can be changed in place, what is known, and what can be done. */
@Component({
  selector: 'hs-item-row',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row-line" [class.chosen]="chosen()">
      @if (marked() === undefined) {
        <span class="mark" [class.none]="kind() === 'recording' || kind() === 'mesh'" aria-hidden="true"></span>
      } @else {
        <label class="tick"
          ><input type="checkbox" [checked]="marked()" (click)="mark.emit($event)" /><span class="visually-hidden"
            >Choose {{ title() }} together with others</span
          ></label
        >
      }
      @if (editing()) {
        <input
          #name
          class="form-control form-control-sm"
          [value]="title()"
          maxlength="120"
          [attr.aria-label]="'New name of ' + title()"
          (keydown.enter)="keep()"
          (keydown.escape)="editing.set(false)"
          (blur)="keep()"
        />
      } @else {
        <button type="button" class="name" [attr.aria-pressed]="chosen()" (click)="choose.emit($event)" (dblclick)="edit()">
          {{ title() }}
        </button>
      }
      <span class="facts"><ng-content /></span>
      <span class="acts">
        <ng-content select="[acts]" />
        <button type="button" class="btn btn-quiet" (click)="edit()" [title]="'Rename ' + title()">
          <i class="bi bi-pencil" aria-hidden="true"></i><span class="visually-hidden">Rename {{ title() }}</span>
        </button>
        <a class="btn btn-quiet" [href]="'/api/files/' + file()" download [title]="'Download ' + title()"
          ><i class="bi bi-download" aria-hidden="true"></i><span class="visually-hidden">Download {{ title() }}</span></a
        >
        <button type="button" class="btn btn-quiet" (click)="remove.emit()" [title]="'Remove ' + title() + ' from the rack'">
          <i class="bi bi-trash3" aria-hidden="true"></i><span class="visually-hidden">Remove {{ title() }} from the rack</span>
        </button>
      </span>
    </div>
  `,
  styles: `
    .row-line {
      display: flex;
      align-items: center;
      gap: 10px;
      height: 40px;
      padding: 2px 8px;
      border-bottom: 1px solid var(--hs-rule);
      border-left: 3px solid transparent;
    }
    .chosen {
      background: var(--hs-sheet);
      border-left-color: var(--hs-act);
    }
    .mark {
      flex: none;
      padding: 0;
      background: none;
      width: 10px;
      height: 10px;
      border-radius: 50%;
      border: 2px solid var(--hs-character);
    }
    .mark.none {
      visibility: hidden;
    }
    .tick {
      display: flex;
      flex: none;
    }
    .tick input {
      width: 14px;
      height: 14px;
      margin: 0;
      accent-color: var(--hs-performer);
    }
    .name {
      flex: 0 0 auto;
      width: 152px;
      min-width: 90px;
      border: 0;
      padding: 3px 0;
      background: none;
      text-align: left;
      font-weight: 600;
      color: inherit;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .name:hover {
      color: var(--hs-act);
    }
    input.form-control {
      width: 220px;
    }
    .facts {
      flex: 1;
      min-width: 0;
      color: var(--hs-ink-soft);
      display: flex;
      gap: 14px;
      align-items: center;
      white-space: nowrap;
      overflow: hidden;
      font-size: 13px;
    }
    .acts {
      display: flex;
    }
  `,
})
export class ItemRowComponent {
  readonly kind = input.required<'take' | 'character' | 'recording' | 'mesh'>();
  readonly title = input.required<string>();
  readonly file = input.required<string>();
  readonly chosen = input(false);
  /** Whether it is chosen together with others; undefined where that cannot be. */
  readonly marked = input<boolean>();
  readonly mark = output<MouseEvent>();
  readonly choose = output<MouseEvent>();
  readonly renamed = output<string>();
  readonly remove = output<void>();
  protected readonly editing = signal(false);
  private readonly field = viewChild<ElementRef<HTMLInputElement>>('name');

  protected edit(): void {
    this.editing.set(true);
    setTimeout(() => this.field()?.nativeElement.select());
  }

  protected keep(): void {
    if (!this.editing()) return;
    const value = this.field()?.nativeElement.value ?? '';
    this.editing.set(false);
    this.renamed.emit(value);
  }
}
