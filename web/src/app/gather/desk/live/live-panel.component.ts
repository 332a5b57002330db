import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ProjectStore } from '../../../project/project.store';
import { GroupComponent } from '../../../shared/group.component';
import { TakePickerComponent } from '../../../shared/take-picker.component';
import { LiveStore, MOST_LIVE } from './live.store';

/** Characters that the stream is transferred onto as it comes, and with what delay. */
@Component({
  selector: 'hs-live-panel',
  imports: [GroupComponent, TakePickerComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hs-group name="Live transfer" [note]="live().length > 0 ? live().length + ' of ' + most : ''">
      @for (one of live(); track one.id) {
        <div class="one" role="group" [attr.aria-label]="one.name">
          <b>{{ one.name }}</b>
          <button type="button" class="btn btn-sm btn-quiet" [attr.aria-label]="'Take ' + one.name + ' off'" (click)="store.remove(one.id)">
            <i class="bi bi-x-lg" aria-hidden="true"></i>
          </button>
          @if (one.fault) {
            <p class="small fault" role="alert">{{ one.fault }}</p>
          } @else if (!one.display) {
            <p class="small soft">learning the performer: {{ (one.learned * 100).toFixed(0) }} %</p>
          } @else {
            <p class="small num">
              delay {{ one.delay.half.toFixed(0) }} ms, 99 % under {{ one.delay.most.toFixed(0) }} ms<br />
              work {{ one.work.half.toFixed(1) }} ms, 99 % under {{ one.work.most.toFixed(1) }} ms
              @if (one.lost > 0) {
                <br />{{ one.lost }} frames lost and not bridged
              }
            </p>
          }
        </div>
      }
      @if (live().length < most) {
        <label
          >character
          <select class="form-select form-select-sm" aria-label="Add a character" (change)="add($event)">
            <option value="">add one …</option>
            @for (character of others(); track character.id) {
              <option [value]="character.id">{{ character.name }}</option>
            }
          </select>
        </label>
      }
      <div class="field">
        labels and pairing
        <hs-take-picker label="Labels and pairing as of" none="as found, or as of a take" [take]="like()" (choose)="setLike($event)" />
      </div>
      @if (like()) {
        <button type="button" class="btn btn-sm btn-quiet" (click)="setLike('')">Labels and pairing as found</button>
      }
    </hs-group>
  `,
  styleUrl: './live-panel.component.scss',
})
export class LivePanelComponent {
  protected readonly store = inject(LiveStore);
  protected readonly most = MOST_LIVE;
  private readonly rack = toSignal(inject(ProjectStore).rack$, { requireSync: true });
  protected readonly live = toSignal(this.store.characters$, { requireSync: true });
  /** The take as of which labels and pairing are; empty as found. */
  protected readonly like = signal('');
  protected readonly others = computed(() => {
    const ids = new Set(this.live().map(({ id }) => id));
    return this.rack().characters.filter(({ id }) => !ids.has(id));
  });

  protected add(event: Event): void {
    const select = event.target as HTMLSelectElement;
    const character = this.rack().characters.find(({ id }) => id === select.value);
    select.value = '';
    if (character) this.store.add(character);
  }

  protected setLike(take: string): void {
    this.like.set(take);
    this.store.setLike(this.rack().takes.find(({ id }) => id === take));
  }
}
