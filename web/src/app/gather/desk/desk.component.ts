import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { DepotPage, RingSettings } from '@hollow-stride/contract';
import type { Pose } from '@hollow-stride/core';
import { animationFrames, EMPTY, expand, map, reduce, sample, type Observable } from 'rxjs';
import { ApiService } from '../../api/api.service';
import { ProjectStore } from '../../project/project.store';
import { GroupComponent } from '../../shared/group.component';
import { NumberComponent } from '../../shared/number.component';
import { ResizeDirective } from '../../shared/resize.directive';
import type { Figure } from '../../stage/figure-view';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import type { ViewName } from '../../stage/options';
import { DeskStore } from './desk.store';
import { LivePanelComponent } from './live/live-panel.component';
import { LiveStore } from './live/live.store';

/** How far to its side each character is shown from the performer, metres. */
const PLACES = [1.2, -1.2, 2.4];

function aside({ positions, rotations }: Pose, by: number): Pose {
  return { positions: positions.map((v, i) => (i % 3 === 0 ? v + by : v)), rotations };
}

/** Every motion of the depot, page after page. */
function allMotions(api: ApiService): Observable<DepotPage['motions']> {
  const page = (at: number): Observable<DepotPage> => api.searchDepot({ text: '', tag: '', page: String(at) });
  return page(0).pipe(
    expand(({ page: at, pages }) => (at + 1 < pages ? page(at + 1) : EMPTY)),
    reduce((all, { motions }) => [...all, ...motions], [] as DepotPage['motions']),
  );
}

/** The capture desk: streams as they come in, from the ring of eyes or from outside; a held pose; recordings with slate and take. */
@Component({
  selector: 'hs-desk',
  imports: [FigureStageComponent, GroupComponent, LivePanelComponent, NumberComponent, ResizeDirective, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './desk.component.html',
  styleUrl: './desk.component.scss',
})
export class DeskComponent {
  protected readonly store = inject(DeskStore);
  protected readonly view = toSignal(this.store.view$, { requireSync: true });
  private readonly live = inject(LiveStore);
  private readonly pose = signal<Pose | undefined>(undefined);
  protected readonly looked = signal<ViewName>('free');
  protected readonly ring = signal<RingSettings>({
    motion: '',
    rate: 60,
    size: 1,
    noise: 0.2,
    dropouts: 2,
    exchanges: 0,
    tilt: 0,
    seed: 1,
  });
  protected readonly slate = signal({ name: 'Rope loft', tags: '', note: '' });
  protected readonly motions = toSignal(allMotions(inject(ApiService)), { initialValue: [] });
  private readonly takes = toSignal(inject(ProjectStore).rack$.pipe(map(({ takes }) => takes)), { initialValue: [] });
  protected readonly motion = computed(() => this.ring().motion || (this.motions().at(0)?.id ?? ''));
  protected readonly streams = computed(() => this.view().desk?.streams ?? []);
  protected readonly recording = computed(() => this.view().desk?.recording);
  /** Number of the next take under the slate's name. */
  protected readonly next = computed(() => {
    const stem = `${this.slate().name.trim()} `;
    const numbers = this.takes()
      .filter(({ name }) => name.startsWith(stem))
      .map(({ name }) => Number(name.slice(stem.length)))
      .filter(Number.isInteger);
    return Math.max(0, ...numbers) + 1;
  });
  protected readonly figures = computed((): Figure[] => {
    const { body, stream } = this.view();
    const pose = this.pose();
    if (!body || !stream || pose?.positions.length !== body.opening.joints.length * 3) return [];
    return [{ key: stream.session, display: body.display, look: 'performer', pose, show: 'skeleton' }, ...this.beside()];
  });
  private readonly characters = toSignal(this.live.characters$, { requireSync: true });
  protected readonly rates = [30, 60, 120] as const;
  protected readonly numbers = [
    { key: 'size', name: 'performer’s size', unit: '×', low: 0.5, high: 1.5, step: 0.05 },
    { key: 'noise', name: 'noise', unit: '°', low: 0, high: 10, step: 0.1 },
    { key: 'dropouts', name: 'moments unseen', unit: '/min', low: 0, high: 60, step: 1 },
    { key: 'exchanges', name: 'arms exchanged', unit: '/min', low: 0, high: 60, step: 1 },
    { key: 'tilt', name: 'floor leans', unit: '°', low: -20, high: 20, step: 0.5 },
  ] as const;

  constructor() {
    const watching = this.store.look();
    inject(DestroyRef).onDestroy(() => watching.unsubscribe());
    // Frames come faster than they can be drawn.
    this.store.pose$.pipe(sample(animationFrames()), takeUntilDestroyed()).subscribe((pose) => this.pose.set(pose));
  }

  /** The characters as they go along, each beside the performer. */
  private beside(): Figure[] {
    return this.characters().flatMap(({ id, display }, i): Figure[] => {
      const pose = this.live.poses.get(id);
      return display && pose ? [{ key: id, display, look: 'character', pose: aside(pose, PLACES[i]), show: 'mesh' }] : [];
    });
  }

  protected setRing(change: Partial<RingSettings>): void {
    this.ring.update((ring) => ({ ...ring, ...change }));
  }

  protected setRate(event: Event): void {
    const rate = this.rates.find((one) => String(one) === this.valueOf(event));
    if (rate) this.setRing({ rate });
  }

  protected setNumber(key: 'size' | 'noise' | 'dropouts' | 'exchanges' | 'tilt', value: number): void {
    this.setRing({ [key]: value });
  }

  protected setSlate(change: Partial<{ name: string; tags: string; note: string }>): void {
    this.slate.update((slate) => ({ ...slate, ...change }));
  }

  protected valueOf(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  protected connect(): void {
    this.store.connect({ ...this.ring(), motion: this.motion() });
  }

  protected record(): void {
    const { name, tags, note } = this.slate();
    const list = tags
      .split(',')
      .map((tag) => tag.trim())
      .filter((tag) => tag !== '');
    this.store.record({ name: name.trim(), tags: list, note });
  }
}
