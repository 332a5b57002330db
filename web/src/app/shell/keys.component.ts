import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbActiveModal } from '@ng-bootstrap/ng-bootstrap';

import { KeysService } from '../shared/keys.service';

export const KEYS: readonly (readonly [string, string])[] = [
  ['1 … 7', 'walk to a station'],
  ['Space', 'play or pause'],
  ['← →', 'one frame back or on; with Shift ten'],
  ['Home End', 'first or last frame'],
  [', .', 'slower, faster'],
  ['L', 'loop'],
  ['H', 'Solve: handles for touch-ups, on or off; arrow keys move the one in focus'],
  ['U', 'Solve: make a touch by pressing what touches and what it touches'],
  ['Arrow keys on a footprint', 'Solve: go to the next footprint; with Alt move the step over the floor, with Alt and Shift turn it'],
  ['H', 'Mend: handles of the layer, on or off; arrow keys move the one in focus'],
  ['K', 'Mend: a key at this frame on everything that the layer keys'],
  ['C', 'Mend: lanes or curves'],
  ['Alt+↑, Alt+↓', 'Mend: move the layer in focus up or down'],
  ['R', 'Solve, Mend: trails of feet, hands and hips'],
  ['Delete', 'Solve: remove the bar in focus'],
  ['P N', 'previous or next start of a plant'],
  ['B (hold)', 'before: the plain transfer, nothing pinned; on Mend the result without its layers'],
  ['F S T', 'front, side, top view'],
  ['V', 'free view'],
  ['X', 'Solve, Mend: both whole bodies in sight again'],
  ['Ctrl+Z, Ctrl+Shift+Z', 'undo, redo a decision'],
  ['M', 'Label, Match: mirrored, on or off'],
  ['W', 'Label: wiggle the joint or not'],
  ['?', 'this list'],
];

/** The list of keys. */
@Component({
  selector: 'hs-keys',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="modal-header">
      <h2 class="modal-title fs-6" id="keys-title">Keys</h2>
      <button type="button" class="btn-close" aria-label="Close" (click)="modal.close()"></button>
    </div>
    <div class="modal-body">
      <label class="letters">
        <input type="checkbox" class="form-check-input" [checked]="letters()" (change)="setLetters($event)" />
        single letters and digits are keys
      </label>
      <dl>
        @for (key of keys; track key[0]) {
          <dt>
            <kbd>{{ key[0] }}</kbd>
          </dt>
          <dd>{{ key[1] }}</dd>
        }
      </dl>
    </div>
  `,
  styles: `
    .letters {
      display: flex;
      gap: 8px;
      align-items: center;
      margin-bottom: 12px;
    }
    dl {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 6px 16px;
      margin: 0;
    }
    dd {
      margin: 0;
    }
    kbd {
      background: var(--hs-paper);
      color: var(--hs-ink);
      border: 1px solid var(--hs-rule);
    }
  `,
})
export class KeysComponent {
  protected readonly modal = inject(NgbActiveModal);
  protected readonly keys = KEYS;
  private readonly service = inject(KeysService);
  protected readonly letters = toSignal(this.service.letters$, { requireSync: true });

  protected setLetters(event: Event): void {
    this.service.setLetters((event.target as HTMLInputElement).checked);
  }
}
