import { toObservable } from '@angular/core/rxjs-interop';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { KeysService } from '../shared/keys.service';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { CheckSheetComponent } from './sheet.component';
import { RunCheckComponent } from './run-check.component';
import { AddressService } from '../shell/address.service';

const REMEMBERED = 'hollow-stride.check.view';
const VIEWS: readonly Choice[] = [
  { value: 'sheet', name: 'this transfer', title: 'The check sheet of the take and the character that are chosen' },
  { value: 'grid', name: 'a whole run', title: 'All takes on all characters of a run' },
];

/** Station Check: the check sheet of one transfer, and the grid of a run. */
@Component({
  selector: 'hs-check',
  imports: [CheckSheetComponent, ChoicesComponent, RunCheckComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h1 class="visually-hidden">Check</h1>
    <div class="views"><hs-choices label="Subject of the check" [choices]="views" [value]="view()" (chosen)="show($event)" /></div>
    @if (view() === 'sheet') {
      <hs-check-sheet />
    } @else {
      <hs-run-check />
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-height: 0;
    }
    .views {
      flex: none;
      padding: 5px 8px;
      border-bottom: 1px solid var(--hs-rule);
      background: var(--hs-sheet);
    }
    hs-check-sheet,
    hs-run-check {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class CheckComponent {
  private readonly playback = inject(PlaybackService);
  protected readonly views = VIEWS;
  protected readonly view = signal(localStorage.getItem(REMEMBERED) ?? 'sheet');

  constructor() {
    inject(AddressService).carry('view', {
      value$: toObservable(this.view),
      adopt: (view) => {
        if (VIEWS.some(({ value }) => value === view)) this.show(view);
      },
    });
    inject(KeysService).listen((event) => this.view() === 'sheet' && transportKey(event, this.playback));
  }

  protected show(view: string): void {
    this.view.set(view);
    localStorage.setItem(REMEMBERED, view);
  }
}
