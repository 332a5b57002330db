import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { describeFault, type Fault } from '@hollow-stride/core';
import { combineLatest, map } from 'rxjs';
import { ProjectStore } from '../project/project.store';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { ProportionsComponent } from '../shared/proportions.component';
import { SparklineComponent } from '../shared/sparkline.component';
import { FactsPanelComponent } from './facts-panel.component';
import { ItemRowComponent } from './item-row.component';

/** Station Gather: bring takes and characters in and see at once what they are. */
@Component({
  selector: 'hs-gather',
  imports: [AsyncPipe, ChoicesComponent, FactsPanelComponent, ItemRowComponent, ProportionsComponent, RouterLink, SparklineComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './gather.component.html',
  styleUrl: './gather.component.scss',
})
export class GatherComponent {
  protected readonly store = inject(ProjectStore);
  /** Which of the two chosen items the facts are about. */
  protected readonly about = signal<'take' | 'character'>('take');
  protected readonly vm$ = combineLatest([this.store.state$, this.store.take$, this.store.character$]).pipe(
    map(([state, take, character]) => ({ ...state, take, character })),
  );

  protected chooseTake(id: string): void {
    this.store.choose({ take: id });
    this.about.set('take');
  }

  protected chooseCharacter(id: string): void {
    this.store.choose({ character: id });
    this.about.set('character');
  }

  protected sides(take: boolean, character: boolean): Choice[] {
    return [
      { value: 'take', name: 'take', disabled: !take },
      { value: 'character', name: 'character', disabled: !character },
    ];
  }

  protected setAbout(value: string): void {
    this.about.set(value === 'character' ? 'character' : 'take');
  }

  protected picked(event: Event): void {
    const input = event.target as HTMLInputElement;
    this.store.bringIn([...(input.files ?? [])]);
    input.value = '';
  }

  protected describe(fault: unknown): string {
    return describeFault(fault as Fault);
  }
}
