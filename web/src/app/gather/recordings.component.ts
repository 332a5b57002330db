import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { Router } from '@angular/router';
import type { RecordingJson } from '@hollow-stride/contract';
import { map } from 'rxjs';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';
import { ItemRowComponent } from './item-row.component';

/** Faces and sounds on the rack, which belong beside takes. */
@Component({
  selector: 'hs-recordings',
  imports: [DecimalPipe, ItemRowComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (recordings().length > 0) {
      <section aria-labelledby="recordings-title">
        <h2 id="recordings-title">Faces and sounds</h2>
        @for (one of recordings(); track one.id) {
          <hs-item-row
            kind="recording"
            [title]="one.name"
            [file]="one.file"
            (choose)="lay()"
            (renamed)="items.rename('recordings', one.id, $event)"
            (remove)="items.remove('recordings', one.id, one.name)"
          >
            @if (one.facts.kind === 'face') {
              <span class="num">{{ one.facts.channels.length }} channels</span>
              <span class="num">{{ one.facts.fps | number: '1.0-2' }}/s, {{ one.facts.seconds | number: '1.1-1' }} s</span>
              @if (faultsOf(one); as count) {
                <span class="caution"
                  ><i class="bi bi-exclamation-triangle-fill" aria-hidden="true"></i> {{ count }}
                  {{ count === 1 ? 'fault' : 'faults' }}</span
                >
              }
            } @else {
              <span>sound</span>
              <span class="num">{{ one.facts.rate / 1000 | number: '1.0-1' }} kHz, {{ one.facts.seconds | number: '1.1-1' }} s</span>
            }
          </hs-item-row>
        }
      </section>
    }
  `,
  styles: `
    h2 {
      margin: 14px 0 4px;
      font-size: 15px;
    }
    .caution {
      color: var(--hs-caution);
    }
  `,
})
export class RecordingsComponent {
  protected readonly items = inject(ItemsStore);
  private readonly router = inject(Router);
  protected readonly recordings = toSignal(inject(ProjectStore).rack$.pipe(map(({ recordings }) => recordings)), { initialValue: [] });

  /** A channel that does not move is no fault of the recorder. */
  protected faultsOf({ facts }: RecordingJson): number {
    return facts.kind === 'face' ? facts.faults.filter(({ kind }) => kind !== 'flat').length : 0;
  }

  /** Where recordings are laid at takes. */
  protected lay(): void {
    void this.router.navigateByUrl('/match/face');
  }
}
