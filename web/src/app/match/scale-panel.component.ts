import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { AsyncPipe, DecimalPipe } from '@angular/common';
import { RouterLink } from '@angular/router';
import type { MatchView } from '../body/messages';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { NumberComponent } from '../shared/number.component';
import { SolveStore } from '../solve/solve.store';
import { MatchStore } from './match.store';

/** Stride and lift with their reason, heights and legs beside each other, and what a person sets in their place. */
@Component({
  selector: 'hs-scale-panel',
  imports: [AsyncPipe, ChoicesComponent, DecimalPipe, NumberComponent, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <table>
      <thead>
        <tr>
          <th></th>
          <th scope="col" class="of-performer">performer</th>
          <th scope="col" class="of-character">character</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">unit</th>
          <td [title]="view().performer.unitReason">{{ view().performer.unit }}</td>
          <td [title]="view().character.unitReason">{{ view().character.unit }}</td>
        </tr>
        <tr>
          <th scope="row">height</th>
          <td class="num">{{ view().performer.height | number: '1.2-2' }} m</td>
          <td class="num">{{ view().character.height | number: '1.2-2' }} m</td>
        </tr>
        <tr>
          <th scope="row">legs</th>
          <td class="num">{{ view().performer.legLength | number: '1.2-2' }} m</td>
          <td class="num">{{ view().character.legLength | number: '1.2-2' }} m</td>
        </tr>
      </tbody>
    </table>
    <p class="soft">{{ view().scale.reason }}. The unit of each is set on <a routerLink="/gather">Gather</a>.</p>
    @if (solve.state$ | async; as s) {
      <hs-choices
        label="stride"
        [choices]="strides"
        [value]="s.choices.stride === 'legs' || s.choices.stride === 'marks' ? s.choices.stride : 'number'"
        (chosen)="setStride($event)"
      />
      <hs-number
        name="stride"
        unit="×"
        [value]="view().scale.stride"
        [step]="0.01"
        [digits]="3"
        [low]="0.05"
        [high]="20"
        (changed)="store.change({ stride: $event }, 'set the stride', 'stride')"
        (cleared)="store.change({ stride: 'legs' }, 'stride by the legs')"
      />
      <hs-choices
        label="lift"
        [choices]="lifts"
        [value]="s.choices.lift === 'hips' ? 'hips' : 'number'"
        (chosen)="store.change({ lift: $event === 'hips' ? 'hips' : view().scale.lift }, 'set the lift')"
      />
      <hs-number
        name="lift"
        unit="×"
        [value]="view().scale.lift"
        [step]="0.01"
        [digits]="3"
        [low]="0.05"
        [high]="20"
        (changed)="store.change({ lift: $event }, 'set the lift', 'lift')"
        (cleared)="store.change({ lift: 'hips' }, 'lift by the hips')"
      />
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 4px;
      justify-items: start;
    }
    hs-number {
      width: 100%;
    }
    table {
      width: 100%;
      font-size: 12.5px;
    }
    th {
      font-weight: 400;
    }
    td,
    thead th {
      text-align: right;
    }
    p {
      margin: 0;
      font-size: 12.5px;
    }
  `,
})
export class ScalePanelComponent {
  protected readonly store = inject(MatchStore);
  protected readonly solve = inject(SolveStore);
  readonly view = input.required<MatchView>();
  protected readonly strides: readonly Choice[] = [
    { value: 'legs', name: 'match the stride', title: 'Steps as long as the legs allow' },
    { value: 'marks', name: 'keep marks', title: "The performer's marks on the floor are kept" },
    { value: 'number', name: 'by number' },
  ];
  protected readonly lifts: readonly Choice[] = [
    { value: 'hips', name: 'by hip height' },
    { value: 'number', name: 'by number' },
  ];

  protected setStride(value: string): void {
    const stride = value === 'legs' || value === 'marks' ? value : this.view().scale.stride;
    this.store.change(
      { stride },
      value === 'marks' ? "keep the performer's marks" : value === 'legs' ? 'match the stride' : 'set the stride',
    );
  }
}
