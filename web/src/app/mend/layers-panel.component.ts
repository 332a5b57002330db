import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { LAYER_KINDS, type LayerKind } from '@hollow-stride/core';
import { NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { RovingDirective } from '../shared/roving.directive';
import { LayersStore, type LayerEntry } from './layers.store';
import { ICONS, NAMES, SAYS } from './words';

/** The layers over a result, the topmost first: laid on or not, alone or not, one of them worked on. */
@Component({
  selector: 'hs-layers-panel',
  imports: [AsyncPipe, NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle, RovingDirective],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let current = store.current$ | async;
    <ol class="layers" hsRoving="button.name" aria-label="Layers, the topmost first">
      @for (entry of reversed(store.entries$ | async); track entry.index) {
        @let layer = entry.layer;
        <li [class.here]="entry.index === current?.index" [class.off]="!layer.on">
          <input
            type="checkbox"
            class="form-check-input"
            [checked]="layer.on"
            [attr.aria-label]="layer.name + ', laid on'"
            (change)="store.change(entry.index, { on: !layer.on }, (layer.on ? 'mute ' : 'lay on ') + layer.name)"
          />
          <button
            type="button"
            class="name"
            [title]="says[layer.does.kind]"
            [attr.aria-pressed]="entry.index === current?.index"
            (click)="store.choose(entry.index === current?.index ? -1 : entry.index)"
            (keydown)="key($event, entry)"
          >
            <i [class]="'bi ' + icons[layer.does.kind]" aria-hidden="true"></i><span>{{ layer.name }}</span>
          </button>
          <span class="soft num small">{{ (layer.strength * 100).toFixed(0) }} %</span>
          <button
            type="button"
            class="alone"
            [class.on]="layer.alone"
            [attr.aria-pressed]="layer.alone"
            [attr.aria-label]="layer.name + ', alone'"
            title="Lay on this one alone"
            (click)="store.change(entry.index, { alone: !layer.alone }, (layer.alone ? 'with the others ' : 'alone ') + layer.name)"
          >
            alone
          </button>
        </li>
      } @empty {
        <li class="none soft small">None yet. Add one, or press “mend” beside a figure.</li>
      }
    </ol>
    <div ngbDropdown class="add">
      <button type="button" class="btn btn-sm btn-plain" ngbDropdownToggle>
        <i class="bi bi-plus-lg" aria-hidden="true"></i> Add a layer
      </button>
      <div ngbDropdownMenu>
        @for (kind of kinds; track kind) {
          <button type="button" ngbDropdownItem (click)="store.add(kind)">
            <i [class]="'bi ' + icons[kind]" aria-hidden="true"></i> {{ names[kind] }} <span class="soft small">{{ says[kind] }}</span>
          </button>
        }
      </div>
    </div>
  `,
  styles: `
    .layers {
      margin: 0 0 6px;
      padding: 0;
      list-style: none;
    }
    li {
      display: flex;
      align-items: center;
      gap: 6px;
      padding: 2px 4px;
      border-left: 3px solid transparent;
    }
    li.none {
      padding: 2px 0;
    }
    li.here {
      border-left-color: var(--hs-act);
      background: #f3eee2;
    }
    .name {
      flex: 1;
      display: flex;
      gap: 6px;
      min-width: 0;
      padding: 2px 0;
      border: 0;
      background: none;
      color: inherit;
      font-size: 13px;
      text-align: left;
    }
    .name span {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .here .name {
      font-weight: 600;
    }
    .off .name {
      color: var(--hs-ink-soft);
      text-decoration: line-through;
    }
    .alone {
      padding: 0 5px;
      border: 1px solid var(--hs-rule);
      border-radius: 3px;
      background: none;
      color: var(--hs-ink-soft);
      font-size: 12px;
    }
    .alone.on {
      border-color: var(--hs-act);
      color: var(--hs-act);
      font-weight: 600;
    }
    .add [ngbDropdownItem] .small {
      display: block;
      padding-left: 22px;
      white-space: normal;
    }
    [ngbDropdownMenu] {
      width: 270px;
      font-size: 13px;
    }
  `,
})
export class LayersPanelComponent {
  protected readonly store = inject(LayersStore);
  protected readonly kinds: readonly LayerKind[] = LAYER_KINDS;
  protected readonly names = NAMES;
  protected readonly says = SAYS;
  protected readonly icons = ICONS;

  protected reversed(entries: readonly LayerEntry[] | null): LayerEntry[] {
    return [...(entries ?? [])].reverse();
  }

  protected key(event: KeyboardEvent, entry: LayerEntry): void {
    if (event.key === 'Delete' || event.key === 'Backspace') this.store.remove(entry);
    else if (event.altKey && event.key === 'ArrowUp') this.store.move(entry.index, 1);
    else if (event.altKey && event.key === 'ArrowDown') this.store.move(entry.index, -1);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}
