import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import type { ItemKind } from '@hollow-stride/contract';
import { ItemsStore } from '../project/items.store';

/** Something that is kept on the rack by its name. */
export interface KeptItem {
  readonly id: string;
  readonly name: string;
  /** What else is said of it. */
  readonly note?: string;
}

/** What is kept by name: each is used, or taken off the rack. */
@Component({
  selector: 'hs-kept-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul [attr.aria-label]="label()">
      <ng-content />
      @for (one of items(); track one.id) {
        <li>
          <span class="name" [title]="one.name">{{ one.name }}</span>
          @if (one.note) {
            <span class="soft num">{{ one.note }}</span>
          }
          <button
            type="button"
            class="btn btn-quiet"
            [attr.aria-label]="spoken() + ' the ' + what() + ' ' + one.name"
            [title]="hint()"
            (click)="used.emit(one.id)"
          >
            {{ act() }}
          </button>
          <button
            type="button"
            class="btn btn-quiet"
            [attr.aria-label]="'Remove the ' + what() + ' ' + one.name"
            title="Remove"
            (click)="store.remove(kind(), one.id, one.name)"
          >
            <i class="bi bi-trash3" aria-hidden="true"></i>
          </button>
        </li>
      }
    </ul>
  `,
  styles: `
    ul {
      margin: 0 0 6px;
      padding: 0;
      list-style: none;
      font-size: 12.5px;
    }
    li {
      display: flex;
      gap: 4px;
      align-items: center;
    }
    .name {
      flex: 1;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .btn {
      padding: 1px 5px;
    }
  `,
})
export class KeptListComponent {
  protected readonly store = inject(ItemsStore);
  /** Name of the list. */
  readonly label = input.required<string>();
  readonly kind = input.required<ItemKind>();
  /** What one of them is called. */
  readonly what = input.required<string>();
  readonly items = input.required<readonly KeptItem[]>();
  readonly act = input('use');
  readonly hint = input('');
  /** By its id. */
  readonly used = output<string>();
  protected readonly spoken = computed(() => this.act().charAt(0).toUpperCase() + this.act().slice(1));
}
