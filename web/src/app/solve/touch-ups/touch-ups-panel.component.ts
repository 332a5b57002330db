import { AsyncPipe } from '@angular/common';
import type { TouchUpSetJson } from '@hollow-stride/contract';
import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { EASES, TOUCH_UP_KINDS, TOUCH_UPS, unitOf, type TouchUp, type TouchUpKind } from '@hollow-stride/core';
import { map } from 'rxjs';
import { ChoicesComponent, type Choice } from '../../shared/choices.component';
import { KeepByNameComponent } from '../../shared/keep-by-name.component';
import { KeptListComponent } from '../../shared/kept-list.component';
import { MaskComponent } from '../../shared/mask.component';
import { NumberComponent } from '../../shared/number.component';
import { ProjectStore } from '../../project/project.store';
import { PlaybackService } from '../../timeline/playback.service';
import { SolveStore } from '../solve.store';
import { nameOf, TouchUpsStore, type TouchUpEntry } from './touch-ups.store';

const SIDES: readonly Choice[] = [
  { value: 'both', name: 'both' },
  { value: 'left', name: 'left' },
  { value: 'right', name: 'right' },
];
const AXES: readonly Choice[] = [
  { value: 'left', name: 'forward', title: 'About the axis from its right to its left' },
  { value: 'up', name: 'around', title: 'About the vertical' },
  { value: 'ahead', name: 'aside', title: 'About the axis from back to front' },
];
const SCOPES: readonly Choice[] = [
  { value: 'all', name: 'all takes', title: 'On every take of this performer on this character' },
  { value: 'take', name: 'this take' },
];

/** Touch-ups: laid on the pose before feet and hands are held, in this order. */
@Component({
  selector: 'hs-touch-ups-panel',
  imports: [AsyncPipe, ChoicesComponent, KeepByNameComponent, KeptListComponent, MaskComponent, NumberComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './touch-ups-panel.component.html',
  styleUrl: './touch-ups-panel.component.scss',
})
export class TouchUpsPanelComponent {
  protected readonly store = inject(TouchUpsStore);
  protected readonly playback = inject(PlaybackService);
  private readonly solve = inject(SolveStore);
  private readonly project = inject(ProjectStore);
  /** Each with how many touch-ups it holds. */
  protected readonly sets$ = this.project.rack$.pipe(map(({ sets }) => sets.map((set) => ({ ...set, note: String(set.touchUps.length) }))));
  protected readonly opened = signal(-1);
  protected readonly kinds = TOUCH_UP_KINDS.map((kind) => ({
    kind,
    name: kind === 'joint' ? 'any joint' : `${TOUCH_UPS[kind].name} ${TOUCH_UPS[kind].way}`,
  }));
  protected readonly sides = SIDES;
  protected readonly axes = AXES;
  protected readonly scopes = SCOPES;
  protected readonly eases = EASES.map((ease): Choice => ({ value: ease, name: ease }));
  protected readonly nameOf = nameOf;
  protected readonly now = (): number => this.store.secondsAt(this.playback.state.frame);

  protected most({ kind }: TouchUp): number {
    return TOUCH_UPS[kind].most;
  }

  protected isSided({ kind }: TouchUp): boolean {
    return TOUCH_UPS[kind].sided;
  }

  protected unit({ kind }: TouchUp): string {
    return unitOf(kind);
  }

  protected roles(): readonly string[] {
    return [...(this.solve.state.solved?.roles.keys() ?? [])];
  }

  protected add(event: Event): void {
    const select = event.target as HTMLSelectElement;
    const kind = select.value as TouchUpKind | '';
    select.value = '';
    if (kind !== '') this.opened.set(this.store.add(kind, kind === 'joint' ? { role: 'head' } : {}));
  }

  protected toggle({ index }: TouchUpEntry): void {
    this.opened.update((open) => (open === index ? -1 : index));
  }

  protected change({ index, touchUp }: TouchUpEntry, change: Partial<TouchUp>, what: string): void {
    this.store.change(index, change, `${what} of ${nameOf(touchUp)}`, `${what} ${index}`);
  }

  protected useSet(id: string, sets: readonly TouchUpSetJson[]): void {
    const set = sets.find((one) => one.id === id);
    if (set) this.store.useSet(set);
  }

  protected side(value: string): Pick<TouchUp, 'side'> {
    return { side: value as TouchUp['side'] };
  }

  protected axis(value: string): Pick<TouchUp, 'axis'> {
    return { axis: value as TouchUp['axis'] };
  }

  protected ease(value: string): Pick<TouchUp, 'ease'> {
    return { ease: value as TouchUp['ease'] };
  }

  protected role(event: Event): Pick<TouchUp, 'role'> {
    return { role: (event.target as HTMLSelectElement).value };
  }
}
