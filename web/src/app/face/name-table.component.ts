import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FACE_REASONS, sumText } from '@hollow-stride/core';
import { map } from 'rxjs';
import { RovingDirective } from '../shared/roving.directive';
import { SolveStore } from '../solve/solve.store';
import { PlaybackService } from '../timeline/playback.service';
import { FaceStore } from './face.store';
import { weightsAt } from '../stage/face-keys';

/** The name table: each shape of the character, the channels that drive it, and how far it is now. */
@Component({
  selector: 'hs-name-table',
  imports: [RovingDirective],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul role="listbox" aria-label="Face shapes and what drives them" hsRoving="li">
      @for (row of rows(); track row.shape) {
        <li
          role="option"
          [attr.aria-selected]="row.shape === chosen()"
          [class.chosen]="row.shape === chosen()"
          [class.bare]="row.text === ''"
          tabindex="-1"
          (click)="store.choose(row.shape)"
          (keydown.enter)="store.choose(row.shape)"
          (focus)="store.choose(row.shape)"
        >
          <span class="shape"><i class="mark" aria-hidden="true"></i>{{ row.shape }}</span>
          <span class="from" [title]="row.why">
            @if (row.text) {
              <i class="bi bi-arrow-left" aria-hidden="true"></i> {{ row.text }}
            } @else {
              <span class="none">stays at rest</span>
            }
          </span>
          <span class="why">{{ row.text ? row.why : '' }}</span>
          <span class="bar" aria-hidden="true"><span [style.width.%]="row.now"></span></span>
        </li>
      }
    </ul>
  `,
  styleUrl: './name-table.component.scss',
})
export class NameTableComponent {
  protected readonly store = inject(FaceStore);
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly solving = toSignal(inject(SolveStore).state$, { requireSync: true });
  private readonly frame = toSignal(inject(PlaybackService).state$.pipe(map(({ frame }) => frame)), { initialValue: 0 });
  protected readonly chosen = computed(() => this.state().chosen);

  private readonly texts = computed(() => {
    const { table } = this.state();
    if (!table) return [];
    const rows = table.rows.map(({ shape, from, reason }) => ({ shape, text: sumText(from), why: FACE_REASONS[reason] }));
    const joints = table.joints.map(({ joint, turns, reason }) => ({
      shape: joint,
      text: turns.map(({ from }) => sumText(from)).join(', '),
      why: `a joint, ${reason === 'hand' ? FACE_REASONS.hand : FACE_REASONS.alike}`,
    }));
    return [...rows, ...joints];
  });

  protected readonly rows = computed(() => {
    const { shown } = this.state();
    const { solved } = this.solving();
    const now = shown && solved ? weightsAt(shown.weights, this.frame() * solved.take.frameTime) : [];
    const at = new Map(shown?.weights.shapes.map((shape, i) => [shape, now[i]]));
    return this.texts().map((row) => ({ ...row, now: Math.max(0, Math.min(1, at.get(row.shape) ?? 0)) * 100 }));
  });
}
