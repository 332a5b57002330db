import { isNoBody } from '../shared/no-body';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import { finalize, type Subscription } from 'rxjs';
import type { FactsJson, SkeletonJson } from '@hollow-stride/contract';
import { describeFault, type Fault, type SkeletonChoices } from '@hollow-stride/core';
import { BodiesStore, type BodyState } from '../body/bodies.store';
import { ApiService } from '../api/api.service';
import { IntakeStore } from '../project/intake.store';
import { EditsStore } from '../project/edits.store';
import { ItemsStore } from '../project/items.store';
import { NoticesService } from '../notices/notices.service';
import { ProjectStore } from '../project/project.store';
import { TakeList } from '../project/take-list';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { InSightDirective } from '../shared/in-sight.directive';
import { ProportionsComponent } from '../shared/proportions.component';
import { FactsPanelComponent } from './facts-panel.component';
import { MeshesComponent } from './meshes.component';
import { RecordingsComponent } from './recordings.component';
import { ItemRowComponent } from './item-row.component';
import { SeveralBarComponent } from './several-bar.component';
import { SeveralStore } from './several.store';
import { TakeRowsComponent, type TakePick } from './take-rows.component';
import { ResizeDirective } from '../shared/resize.directive';

/** Station Gather: bring takes and characters in and see at once what they are. */
@Component({
  selector: 'hs-gather',
  imports: [
    ResizeDirective,
    ChoicesComponent,
    FactsPanelComponent,
    InSightDirective,
    ItemRowComponent,
    ProportionsComponent,
    RouterLink,
    SeveralBarComponent,
    TakeRowsComponent,
    MeshesComponent,
    RecordingsComponent,
  ],
  providers: [TakeList],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './gather.component.html',
  styleUrl: './gather.component.scss',
})
export class GatherComponent {
  protected readonly isNoBody = isNoBody;
  protected readonly store = inject(ProjectStore);
  protected readonly notices = inject(NoticesService);
  protected readonly items = inject(ItemsStore);
  protected readonly edits = inject(EditsStore);
  private readonly api = inject(ApiService);
  private readonly router = inject(Router);
  /** Which of the two chosen items the facts are about. */
  protected readonly about = signal<'take' | 'character'>('take');
  private readonly bodies = inject(BodiesStore);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly take = toSignal(this.store.take$);
  protected readonly character = toSignal(this.store.character$);
  private readonly takeBody = toSignal(this.bodies.performer$);
  private readonly characterBody = toSignal(this.bodies.character$);
  protected readonly intake = inject(IntakeStore);
  private readonly intakeState = toSignal(this.intake.state$, { requireSync: true });
  protected readonly refused = computed(() => this.intakeState().refused);
  protected readonly takes = inject(TakeList);
  protected readonly list = toSignal(this.takes.state$, { requireSync: true });
  protected readonly several = inject(SeveralStore);
  protected readonly chosen = toSignal(this.several.chosen$, { requireSync: true });
  protected readonly orders: readonly Choice[] = [
    { value: 'added', name: 'as added' },
    { value: 'name', name: 'name' },
    { value: 'length', name: 'length' },
  ];
  protected readonly characters = computed(() => this.state().rack.characters.filter(({ name }) => this.isFound(name)));
  /** Opens Fit with the mesh of a character. */
  protected fit(character: string): void {
    this.items.addMeshOf(character, (mesh) => void this.router.navigate(['/gather/fit'], { queryParams: { mesh } }));
  }

  /** The demo production can be brought in where nothing of it is on the rack. */
  protected readonly hasDemo = computed(() => {
    const { characters, takes } = this.state().rack;
    return [...characters, ...takes].some(({ isDemo }) => isDemo);
  });

  /** The facts as they are by what was decided; those of the file until they are found anew. */
  protected readonly takeFacts = computed(() => this.factsOf(this.take(), this.takeBody()));
  protected readonly characterFacts = computed(() => this.factsOf(this.character(), this.characterBody()));

  private factsOf(item: { file: string; facts: FactsJson } | undefined, body: BodyState | undefined): FactsJson | undefined {
    const found = body?.view?.source.file === item?.file ? (body?.view?.facts as FactsJson | undefined) : undefined;
    return found ?? item?.facts;
  }

  private isFound(name: string): boolean {
    return name.toLowerCase().includes(this.list().query.text.trim().toLowerCase());
  }

  protected decided(item: { skeleton: string } | undefined): SkeletonJson | undefined {
    return this.state().rack.skeletons.find((skeleton) => skeleton.id === item?.skeleton);
  }

  protected overrule(
    skeleton: SkeletonJson | undefined,
    { choices, text, key }: { choices: Partial<SkeletonChoices>; text: string; key?: string },
  ): void {
    if (skeleton)
      this.edits.changeSkeleton(skeleton.id, { choices: { ...skeleton.choices, ...choices } }, `${text}, ${skeleton.name}`, key);
  }

  protected pick({ id, how }: TakePick): void {
    if (how === 'beside') this.several.toggle(id);
    else if (how === 'range') this.withAllIds((ids) => this.several.extendTo(id, ids));
    else {
      this.several.startAt(id);
      this.store.choose({ take: id });
      this.about.set('take');
    }
  }

  /** True while it is asked which takes a choice is of: what is done to all that are chosen waits for it. */
  protected readonly isFinding = signal(false);
  private finding: Subscription | undefined;

  protected chooseAll(): void {
    this.withAllIds((ids) => this.several.all(ids));
  }

  /** The ids of all that are found: a range may reach over pages that were never in sight. */
  private withAllIds(use: (ids: readonly string[]) => void): void {
    const { ids, query } = this.list();
    this.finding?.unsubscribe();
    if (ids.every((id) => id !== undefined)) use(ids as readonly string[]);
    else {
      this.isFinding.set(true);
      this.finding = this.api
        .takeIds(query)
        .pipe(finalize(() => this.isFinding.set(false)))
        .subscribe({ next: use, error: (error: unknown) => this.notices.failed(error) });
    }
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
    this.intake.bringIn([...(input.files ?? [])]);
    input.value = '';
  }

  protected value(event: Event): string {
    return (event.target as HTMLSelectElement | HTMLInputElement).value;
  }

  protected describe(fault: unknown): string {
    return describeFault(fault as Fault);
  }
}
