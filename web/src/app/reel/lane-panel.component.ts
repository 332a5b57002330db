import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { DEFAULT_DELIVERY, safeName, type ReelLane } from '@hollow-stride/core';
import { saveBytes } from '../deliver/save';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore } from '../project/project.store';
import { NumberComponent } from '../shared/number.component';
import { TakePickerComponent } from '../shared/take-picker.component';
import { faultOf } from '../solver/worker-client';
import { ReelService } from './reel.service';
import { ReelStore } from './reel.store';

/** The chosen lane: its takes, its time and place, the same for others, and its file. */
@Component({
  selector: 'hs-lane-panel',
  imports: [NumberComponent, TakePickerComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (lane(); as one) {
      <label class="line"
        ><span>name</span><input class="form-control form-control-sm" maxlength="80" [value]="one.name" (change)="rename($event)"
      /></label>
      <div class="line">
        <hs-take-picker label="Take to put on the lane" [take]="takeId()" (choose)="take.set($event)" />
        <button type="button" class="btn btn-sm btn-primary" [disabled]="!takeId()" (click)="addClip()">Add clip</button>
      </div>
      @if (rack().poses.length > 0) {
        <div class="line">
          <select class="form-select form-select-sm" aria-label="Pose to hold" (change)="pose.set(value($event))">
            @for (item of rack().poses; track item.id) {
              <option [value]="item.id">{{ item.name }}</option>
            }
          </select>
          <button type="button" class="btn btn-sm btn-plain" (click)="addPose()">Hold pose</button>
        </div>
      }
      <hs-number
        name="later by"
        unit="s"
        [value]="one.shift"
        [usual]="0"
        [step]="0.05"
        [digits]="2"
        [low]="-600"
        [high]="600"
        (changed)="set({ shift: $event }, 'shift')"
      />
      <hs-number
        name="pace"
        unit="×"
        [value]="one.pace"
        [usual]="1"
        [step]="0.01"
        [digits]="2"
        [low]="0.1"
        [high]="10"
        (changed)="set({ pace: $event }, 'pace')"
      />
      <hs-number
        name="moved along X"
        unit="m"
        [value]="one.place[0]"
        [usual]="0"
        [step]="0.1"
        [digits]="2"
        [low]="-1000"
        [high]="1000"
        (changed)="set({ place: [$event, one.place[1]] }, 'place')"
      />
      <hs-number
        name="moved along Z"
        unit="m"
        [value]="one.place[1]"
        [usual]="0"
        [step]="0.1"
        [digits]="2"
        [low]="-1000"
        [high]="1000"
        (changed)="set({ place: [one.place[0], $event] }, 'place')"
      />
      <hs-number
        name="turned by"
        unit="°"
        [value]="one.heading"
        [usual]="0"
        [step]="5"
        [digits]="1"
        [low]="-360"
        [high]="360"
        (changed)="set({ heading: $event }, 'heading')"
      />
      <div class="line">
        <select class="form-select form-select-sm" aria-label="Character that does the same" (change)="character.set(value($event))">
          @for (item of rack().characters; track item.id) {
            <option [value]="item.id" [selected]="item.id === characterId()">{{ item.name }}</option>
          }
        </select>
        <button type="button" class="btn btn-sm btn-plain" title="The same clips a little later, beside it" (click)="repeat()">
          Does the same
        </button>
      </div>
      <div class="row">
        @if (hasOthers()) {
          <button type="button" class="btn btn-sm btn-plain" title="The other lanes of this character are switched off" (click)="alone()">
            <i class="bi bi-eye" aria-hidden="true"></i> Play this one alone
          </button>
        }
        @if (isGlb()) {
          <button type="button" class="btn btn-sm btn-plain" [disabled]="one.clips.length === 0" (click)="deliver('glb')">
            <i class="bi bi-download" aria-hidden="true"></i> Download lane as GLB
          </button>
        }
        <button type="button" class="btn btn-sm btn-plain" [disabled]="one.clips.length === 0" (click)="deliver('bvh')">
          <i class="bi bi-download" aria-hidden="true"></i> Download lane as BVH
        </button>
        @if (isGlb() && siblings().length > 1) {
          <button
            type="button"
            class="btn btn-sm btn-plain"
            title="Lanes of this character that are on, as motions by their names"
            (click)="deliver('glb', siblings())"
          >
            <i class="bi bi-download" aria-hidden="true"></i> {{ siblings().length }} lanes in one GLB
          </button>
        }
        <button type="button" class="btn btn-sm btn-plain" (click)="remove()">Remove lane</button>
      </div>
      <p class="hint" role="status">{{ says() }}</p>
    } @else {
      <p class="hint">Choose a lane by its name, or add one for a character.</p>
    }
    <div class="line">
      <select class="form-select form-select-sm" aria-label="Character of a new lane" (change)="character.set(value($event))">
        @for (item of rack().characters; track item.id) {
          <option [value]="item.id" [selected]="item.id === characterId()">{{ item.name }}</option>
        }
      </select>
      <button type="button" class="btn btn-sm btn-plain" [disabled]="!characterId()" (click)="addLane()">Add lane</button>
    </div>
  `,
  styleUrl: './panel.scss',
})
export class LanePanelComponent {
  private readonly store = inject(ReelStore);
  private readonly service = inject(ReelService);
  private readonly notices = inject(NoticesService);
  private readonly project = inject(ProjectStore);
  protected readonly rack = toSignal(this.project.rack$, { requireSync: true });
  private readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly selection = toSignal(this.project.selection$, { requireSync: true });
  protected readonly take = signal('');
  protected readonly character = signal('');
  protected readonly pose = signal('');
  protected readonly lane = computed(() => {
    const { reel, chosen } = this.state();
    return reel?.content.lanes[chosen.lane] as ReelLane | undefined;
  });
  protected readonly takeId = computed(() => this.take() || (this.selection().take ?? this.rack().takes.at(0)?.id ?? ''));
  protected readonly characterId = computed(
    () => this.character() || (this.selection().character ?? this.rack().characters.at(0)?.id ?? ''),
  );
  protected readonly isGlb = computed(() => this.rack().characters.find(({ id }) => id === this.lane()?.character)?.facts.format === 'glb');
  /** Lanes of the same character that are on. */
  protected readonly siblings = computed(() => {
    const lanes = this.state().reel?.content.lanes ?? [];
    return [...lanes.keys()].filter((i) => lanes[i].character === this.lane()?.character && lanes[i].on && lanes[i].clips.length > 0);
  });
  /** The character has other lanes that play. */
  protected readonly hasOthers = computed(() => this.siblings().some((i) => i !== this.state().chosen.lane));
  /** What came of the lane. */
  protected readonly says = computed(() => {
    const { played, chosen, reel } = this.state();
    const own = played?.lanes[chosen.lane];
    if (!own || reel?.content.lanes[chosen.lane]?.clips.length === 0) return '';
    if ('fault' in own) return own.fault.message;
    const slide = own.slide.worst * 1000;
    return `${(own.clip.frames * own.clip.frameTime).toFixed(2)} s; where clips go over or are closed standing feet slide by ${slide.toFixed(1)} mm/s beyond their own${own.slide.frame >= 0 ? `, most at frame ${own.slide.frame + 1}` : ''}`;
  });

  protected value(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  protected set(change: Partial<ReelLane>, key?: string): void {
    this.store.changeLane(this.state().chosen.lane, change, key);
  }

  protected rename(event: Event): void {
    const name = (event.target as HTMLInputElement).value.trim();
    if (name !== '') this.set({ name });
  }

  protected addClip(): void {
    const take = this.rack().takes.find(({ id }) => id === this.takeId());
    if (take) this.store.addClip(this.state().chosen.lane, take);
  }

  protected addPose(): void {
    const pose = this.rack().poses.find(({ id }) => id === this.pose()) ?? this.rack().poses.at(0);
    if (pose) this.store.addPose(this.state().chosen.lane, pose.name, pose.pose);
  }

  protected addLane(): void {
    const character = this.rack().characters.find(({ id }) => id === this.characterId());
    if (character) this.store.addLane(character);
  }

  protected repeat(): void {
    const character = this.rack().characters.find(({ id }) => id === this.characterId());
    if (character) this.store.repeatLane(this.state().chosen.lane, character);
  }

  protected alone(): void {
    this.store.playAlone(this.state().chosen.lane);
  }

  protected remove(): void {
    this.store.removeLane(this.state().chosen.lane);
  }

  protected deliver(format: 'glb' | 'bvh', lanes: readonly number[] = [this.state().chosen.lane]): void {
    const { reel } = this.state();
    const lane = this.lane();
    if (!reel || !lane) return;
    this.service.deliver(this.store.request(reel.content), lanes, { ...DEFAULT_DELIVERY, format }).subscribe({
      next: (bytes) => saveBytes(bytes, `${safeName(`${reel.name} ${lane.name}`)}.${format}`),
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }
}
