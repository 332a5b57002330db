import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { PRESSES, type Press } from '@hollow-stride/core';
import type { Party } from '../body/bodies.store';
import type { MatchBody } from '../body/messages';
import { ProjectStore } from '../project/project.store';
import { SolveStore } from '../solve/solve.store';
import { TakePickerComponent } from '../shared/take-picker.component';
import { PlaybackService } from '../timeline/playback.service';
import { MatchStore } from './match.store';

/** The rest pose of one body: where it comes from, corrections at a press, poses kept by name. */
@Component({
  selector: 'hs-rest-panel',
  imports: [TakePickerComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p class="why soft" [class.caution]="!body().isRestClean">
      @if (!body().isRestClean) {
        <i class="bi bi-exclamation-triangle-fill" aria-hidden="true"></i>
      }
      {{ body().restReason }}
    </p>
    <div class="line">
      <select class="form-select form-select-sm" [attr.aria-label]="'Rest pose of the ' + party()" (change)="setRest($event)">
        <option value="auto" [selected]="chosen() === 'auto'">as found</option>
        <option value="file" [selected]="chosen() === 'file'">the file's own</option>
        @for (rest of rests(); track rest.name) {
          <option [value]="'kept ' + rest.name" [selected]="chosen() === rest.name">{{ rest.name }}</option>
        }
        @if (loose(); as name) {
          <option [value]="'kept ' + name" selected>{{ name }}</option>
        }
      </select>
    </div>
    <div class="presses" role="group" [attr.aria-label]="'Correct the rest pose of the ' + party()">
      @for (press of presses; track press.id) {
        <button type="button" class="btn btn-sm btn-plain" [title]="press.what" (click)="store.press(party(), press.id, press.name)">
          {{ press.name }}
        </button>
      }
    </div>
    @if (from(); as one) {
      <div class="line">
        <hs-take-picker
          [label]="'Take to take the rest pose of the ' + party() + ' from'"
          [take]="one.id"
          [skeleton]="one.skeleton"
          (choose)="take.set($event)"
        />
        <input
          class="form-control form-control-sm num frame"
          type="number"
          min="1"
          [max]="frames()"
          [value]="frame()"
          aria-label="Frame of the take to rest in"
          (input)="frame.set(+value($event))"
        />
        <button type="button" class="btn btn-sm btn-plain" (click)="fromFrame()">Rest from frame</button>
      </div>
    }
    <div class="line">
      <input
        class="form-control form-control-sm"
        [attr.aria-label]="'Name for the rest pose of the ' + party()"
        placeholder="name"
        maxlength="80"
        [value]="name()"
        (input)="name.set(value($event))"
        (keydown.enter)="keep()"
      />
      <button type="button" class="btn btn-sm btn-plain" [disabled]="name().trim() === ''" (click)="keep()">Keep pose</button>
    </div>
  `,
  styles: `
    .why {
      margin: 0 0 5px;
      font-size: 12.5px;
    }
    .why.caution {
      color: var(--hs-caution);
    }
    .line {
      display: flex;
      gap: 6px;
      margin-bottom: 5px;
    }
    .line .btn {
      flex: none;
    }
    .frame {
      flex: none;
      width: 62px;
    }
    .presses {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px;
      margin-bottom: 6px;
    }
  `,
})
export class RestPanelComponent {
  protected readonly store = inject(MatchStore);
  private readonly project = inject(ProjectStore);
  private readonly playback = inject(PlaybackService);
  private readonly rack = toSignal(this.project.rack$, { requireSync: true });
  private readonly solving = toSignal(inject(SolveStore).state$, { requireSync: true });
  readonly party = input.required<Party>();
  readonly body = input.required<MatchBody>();
  protected readonly presses: readonly { id: Press; name: string; what: string }[] = PRESSES;
  protected readonly name = signal('');
  protected readonly take = signal('');
  protected readonly frame = signal(1);

  private readonly skeleton = computed(() => {
    const { take, character } = this.solving();
    const id = (this.party() === 'performer' ? take : character)?.skeleton;
    return this.rack().skeletons.find((skeleton) => skeleton.id === id);
  });
  protected readonly rests = computed(() => this.skeleton()?.rests ?? []);
  protected readonly chosen = computed(() => {
    const rest = this.skeleton()?.choices.rest ?? 'auto';
    return typeof rest === 'string' ? rest : rest.name;
  });
  /** A pose that is in force and not kept. */
  protected readonly loose = computed(() => {
    const chosen = this.chosen();
    return chosen === 'auto' || chosen === 'file' || this.rests().some(({ name }) => name === chosen) ? undefined : chosen;
  });
  /** The take whose frame is taken; undefined where none of the rack stands on the skeleton. */
  protected readonly from = computed(() => {
    const takes = this.rack().takes.filter((take) => take.skeleton === this.skeleton()?.id);
    return takes.find(({ id }) => id === this.take()) ?? takes.at(0);
  });
  protected readonly frames = computed(() => this.from()?.facts.clips[this.from()!.clip].frames ?? 1);

  constructor() {
    this.frame.set(this.playback.state.frame + 1);
  }

  protected value(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  protected setRest(event: Event): void {
    const value = this.value(event);
    if (value === 'auto' || value === 'file') this.store.setRest(this.party(), value);
    else {
      const kept = this.rests().find(({ name }) => `kept ${name}` === value);
      if (kept) this.store.setRest(this.party(), kept);
    }
  }

  protected fromFrame(): void {
    const take = this.from();
    if (!take) return;
    const frame = Math.max(1, Math.min(this.frames(), Math.round(this.frame()))) - 1;
    this.store.restFromFrame(this.party(), { file: take.file, name: take.name, clip: take.clip }, frame);
  }

  protected keep(): void {
    const name = this.name().trim();
    if (name === '') return;
    this.store.keepRest(this.party(), name);
    this.name.set('');
  }
}
