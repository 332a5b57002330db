import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ALL_TAKES, DEFAULT_OUTPUT, MOST_ITEMS, type RunOutput } from '@hollow-stride/contract';
import { namesBy, patternFault, plays } from '@hollow-stride/core';
import { map, of, startWith, timer, switchMap, combineLatest, distinctUntilChanged, catchError } from 'rxjs';
import { toObservable } from '@angular/core/rxjs-interop';
import { ApiService } from '../../api/api.service';
import { SeveralStore } from '../../gather/several.store';
import { ItemsStore } from '../../project/items.store';
import { ProjectStore } from '../../project/project.store';
import { RunsApiService } from '../../runs/runs-api.service';
import { RunsStore } from '../../runs/runs.store';
import { ChoicesComponent, type Choice } from '../../shared/choices.component';
import { KeepByNameComponent } from '../../shared/keep-by-name.component';
import { OutputFormComponent } from '../output-form.component';

/** Pairs are counted when nothing has changed for so long, ms. */
const COUNTED = 100;

const REMEMBERED = 'hollow-stride.run.output';

/** Which takes go into a run. */
type Source = 'chosen' | 'all' | 'tag';

/** A run is put together: which takes, which characters, how the files are written. */
@Component({
  selector: 'hs-run-builder',
  imports: [ChoicesComponent, KeepByNameComponent, OutputFormComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './run-builder.component.html',
  styleUrl: './run-builder.component.scss',
})
export class RunBuilderComponent {
  private readonly api = inject(ApiService);
  protected readonly project = inject(ProjectStore);
  protected readonly items = inject(ItemsStore);
  private readonly runs = inject(RunsStore);
  private readonly runsApi = inject(RunsApiService);
  private readonly rack = toSignal(this.project.rack$, { requireSync: true });
  private readonly several = toSignal(inject(SeveralStore).chosen$, { requireSync: true });
  private readonly page = toSignal(this.project.state$.pipe(map(({ page }) => page)), { requireSync: true });
  protected readonly source = signal<Source>('all');
  protected readonly tag = signal('');
  /** Characters that are left out. */
  private readonly left = signal<ReadonlySet<string>>(new Set());
  /** Reels whose lanes go in. */
  private readonly reelsIn = signal<ReadonlySet<string>>(new Set());
  protected readonly name = signal('');
  protected readonly output = signal<RunOutput>(remembered());
  protected readonly presets = computed(() => this.rack().presets);
  protected readonly tags = computed(() => this.page().tags);
  protected readonly characters = computed(() => this.rack().characters.map((one) => ({ ...one, isIn: !this.left().has(one.id) })));
  /** Reels with lanes that play. */
  protected readonly reels = computed(() =>
    this.rack()
      .reels.map(({ id, name, content }) => ({
        id,
        name,
        lanes: content.lanes.filter(plays),
        isIn: this.reelsIn().has(id),
      }))
      .filter(({ lanes }) => lanes.length > 0),
  );
  private readonly lanes = computed(() =>
    this.reels()
      .filter(({ isIn }) => isIn)
      .flatMap(({ name, lanes }) => lanes.map((lane) => ({ name: `${name}: ${lane.name}`, character: lane.character }))),
  );
  protected readonly sources = computed((): Choice[] => [
    { value: 'all', name: `all takes (${this.page().all})` },
    { value: 'chosen', name: `chosen on Gather (${this.several().size})`, disabled: this.several().size === 0 },
    { value: 'tag', name: 'by tag', disabled: this.tags().length === 0 },
  ]);
  /** Takes that go in, by their ids. */
  protected readonly takes = toSignal(
    combineLatest([toObservable(this.source), toObservable(this.tag), toObservable(this.several), toObservable(this.page)]).pipe(
      distinctUntilChanged(
        (a, b) => JSON.stringify([a[0], a[1], [...a[2]], a[3].all]) === JSON.stringify([b[0], b[1], [...b[2]], b[3].all]),
      ),
      switchMap(([source, tag, several]) => {
        if (source === 'chosen') return of([...several]);
        if (source === 'tag' && tag === '') return of([]);
        return this.api.takeIds({ ...ALL_TAKES, tag: source === 'tag' ? tag : '' }).pipe(catchError(() => of([])));
      }),
    ),
    { initialValue: [] as string[] },
  );
  protected readonly chosen = computed(() => this.characters().filter(({ isIn }) => isIn));
  /** Pairs that do not go together and are left out, as the server counts them. */
  protected readonly leftOut = toSignal(
    combineLatest([toObservable(this.takes), toObservable(this.chosen)]).pipe(
      switchMap(([takes, chosen]) => {
        const all = takes.length * chosen.length;
        if (all === 0 || all > MOST_ITEMS) return of(0);
        return timer(COUNTED).pipe(
          switchMap(() => this.runsApi.countPairs({ takes: [...takes], characters: chosen.map(({ id }) => id) })),
          map(({ left }) => left),
          catchError(() => of(0)),
          startWith(0),
        );
      }),
    ),
    { initialValue: 0 },
  );
  private readonly transfers = computed(() => this.takes().length * this.chosen().length - this.leftOut());
  protected readonly count = computed(() => this.transfers() + this.lanes().length);
  /** What the run comes to, in words. */
  protected readonly says = computed(() => {
    const [transfers, lanes] = [this.transfers(), this.lanes().length];
    const parts = [transfers > 0 || lanes === 0 ? counted(transfers, 'transfer') : [], lanes > 0 ? counted(lanes, 'lane') : []];
    return parts.flat().join(' and ');
  });
  protected readonly patternFault = computed(() => patternFault(this.output().pattern));
  /** Names of the first files, and how many come to the same name. */
  protected readonly names = computed(() => {
    const output = this.output();
    if (this.patternFault() !== undefined) return { names: [], clashes: 0 };
    const titles = new Map(this.rack().takes.map((take) => [take.id, take.name]));
    const parts = this.takes().flatMap((take, t) =>
      this.chosen().map(({ name }, c) => ({
        take: titles.get(take) ?? `take ${t + 1}`,
        character: name,
        fps: output.fps ?? 0,
        frames: 0,
        number: t * this.chosen().length + c + 1,
      })),
    );
    const characters = new Map(this.rack().characters.map(({ id, name }) => [id, name]));
    const lanes = this.lanes().map(({ name, character }, i) => ({
      take: name,
      character: characters.get(character) ?? '',
      fps: output.fps ?? 0,
      frames: 0,
      number: parts.length + i + 1,
    }));
    const { names, clashes } = namesBy(output.pattern, [...parts, ...lanes].slice(0, 2000));
    return { names: names.slice(0, 3), clashes };
  });
  protected readonly refusal = computed(() => {
    const all = this.takes().length * this.chosen().length + this.lanes().length;
    if (all === 0) return this.takes().length === 0 ? 'no take is chosen' : 'no character is chosen';
    if (all > MOST_ITEMS) return `at most ${MOST_ITEMS} files in one run`;
    if (this.count() === 0) return 'no take goes with a character: pair rigs that are no bodies joint by joint on Match';
    return this.patternFault();
  });

  protected setSource(value: string): void {
    this.source.set(value as Source);
    if (value === 'tag' && this.tag() === '') this.tag.set(this.tags().at(0) ?? '');
  }

  protected valueOf(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  protected toggle(id: string): void {
    this.left.update((left) => {
      const next = new Set(left);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  }

  protected toggleReel(id: string): void {
    this.reelsIn.update((reels) => {
      const next = new Set(reels);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  }

  protected all(isIn: boolean): void {
    this.left.set(new Set(isIn ? [] : this.rack().characters.map(({ id }) => id)));
  }

  protected setOutput(output: RunOutput): void {
    this.output.set(output);
    localStorage.setItem(REMEMBERED, JSON.stringify(output));
  }

  protected usePreset(event: Event): void {
    const preset = this.presets().find(({ id }) => id === this.valueOf(event));
    if (preset) this.setOutput(preset.output);
  }

  protected keepPreset(name: string): void {
    this.items.addPreset({ name, output: this.output() });
  }

  protected start(): void {
    const name = this.name().trim() || `Run of ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`;
    this.runs.start({
      name,
      takes: [...this.takes()],
      characters: this.chosen().map(({ id }) => id),
      reels: this.reels().flatMap(({ id, isIn }) => (isIn ? [id] : [])),
      output: this.output(),
    });
    this.name.set('');
  }
}

const counted = (count: number, what: string): string => `${count} ${what}${count === 1 ? '' : 's'}`;

function remembered(): RunOutput {
  try {
    return { ...DEFAULT_OUTPUT, ...(JSON.parse(localStorage.getItem(REMEMBERED) ?? '{}') as Partial<RunOutput>) };
  } catch {
    return DEFAULT_OUTPUT;
  }
}
