import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { FactsJson, SkeletonJson, TakeJson } from '@hollow-stride/contract';
import { describeFault, type Fault, type SkeletonChoices } from '@hollow-stride/core';
import { BodiesStore, type BodyState } from '../body/bodies.store';
import { ProjectStore } from '../project/project.store';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { ProportionsComponent } from '../shared/proportions.component';
import { SparklineComponent } from '../shared/sparkline.component';
import { FactsPanelComponent } from './facts-panel.component';
import { ItemRowComponent } from './item-row.component';

type Order = 'added' | 'name' | 'length';

/** Takes that stand on one skeleton. */
interface Performer {
  readonly skeleton: SkeletonJson | undefined;
  readonly takes: readonly TakeJson[];
}

/** Station Gather: bring takes and characters in and see at once what they are. */
@Component({
  selector: 'hs-gather',
  imports: [ChoicesComponent, FactsPanelComponent, ItemRowComponent, ProportionsComponent, RouterLink, SparklineComponent],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './gather.component.html',
  styleUrl: './gather.component.scss',
})
export class GatherComponent {
  protected readonly store = inject(ProjectStore);
  /** Which of the two chosen items the facts are about. */
  protected readonly about = signal<'take' | 'character'>('take');
  private readonly bodies = inject(BodiesStore);
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly take = toSignal(this.store.take$);
  protected readonly character = toSignal(this.store.character$);
  private readonly takeBody = toSignal(this.bodies.performer$);
  private readonly characterBody = toSignal(this.bodies.character$);
  protected readonly order = signal<Order>('added');
  protected readonly tag = signal('');
  protected readonly search = signal('');
  protected readonly orders: readonly Choice[] = [
    { value: 'added', name: 'as added' },
    { value: 'name', name: 'name' },
    { value: 'length', name: 'length' },
  ];
  protected readonly tags = computed(() => [...new Set(this.state().rack.takes.flatMap((take) => take.tags))].sort());

  /** Takes by the skeleton that they were recorded on: labelling one labels all. */
  protected readonly performers = computed((): Performer[] => {
    const { takes, skeletons } = this.state().rack;
    const wanted = takes.filter((take) => (this.tag() === '' || take.tags.includes(this.tag())) && this.isFound(take.name));
    const ids = [...new Set(wanted.map((take) => take.skeleton))];
    return ids.map((id) => ({
      skeleton: skeletons.find((skeleton) => skeleton.id === id),
      takes: this.sorted(wanted.filter((take) => take.skeleton === id)),
    }));
  });

  protected readonly characters = computed(() => this.state().rack.characters.filter(({ name }) => this.isFound(name)));

  /** The facts as they are by what was decided; those of the file until they are found anew. */
  protected readonly takeFacts = computed(() => this.factsOf(this.take(), this.takeBody()));
  protected readonly characterFacts = computed(() => this.factsOf(this.character(), this.characterBody()));

  private factsOf(item: { file: string; facts: FactsJson } | undefined, body: BodyState | undefined): FactsJson | undefined {
    const found = body?.view?.source.file === item?.file ? (body?.view?.facts as FactsJson | undefined) : undefined;
    return found ?? item?.facts;
  }

  private sorted(takes: readonly TakeJson[]): TakeJson[] {
    const length = (take: TakeJson): number => take.facts.clips[take.clip].seconds;
    if (this.order() === 'name') return [...takes].sort((a, b) => a.name.localeCompare(b.name));
    return this.order() === 'length' ? [...takes].sort((a, b) => length(b) - length(a)) : [...takes];
  }

  private isFound(name: string): boolean {
    return name.toLowerCase().includes(this.search().trim().toLowerCase());
  }

  protected decided(item: { skeleton: string } | undefined): SkeletonJson | undefined {
    return this.state().rack.skeletons.find((skeleton) => skeleton.id === item?.skeleton);
  }

  protected overrule(
    skeleton: SkeletonJson | undefined,
    { choices, text, key }: { choices: Partial<SkeletonChoices>; text: string; key?: string },
  ): void {
    if (skeleton)
      this.store.changeSkeleton(skeleton.id, { choices: { ...skeleton.choices, ...choices } }, `${text}, ${skeleton.name}`, key);
  }

  protected renameSkeleton(skeleton: SkeletonJson, event: Event): void {
    const field = event.target as HTMLInputElement;
    const name = field.value.trim();
    if (name === '') field.value = skeleton.name;
    else this.store.changeSkeleton(skeleton.id, { name }, `rename ${skeleton.name} to ${name}`);
  }

  protected isTrimmed({ choices }: TakeJson): boolean {
    return choices.from !== null || choices.to !== null;
  }

  protected readiness({ takes, skeleton }: Performer): { ready: boolean; text: string } {
    const labels = takes[0].facts.labels;
    if (skeleton?.choices.labels) return { ready: true, text: 'labelled by hand' };
    if (!labels || labels.missing.length > 0) return { ready: false, text: 'not labelled' };
    return { ready: true, text: 'labelled' };
  }

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

  protected value(event: Event): string {
    return (event.target as HTMLSelectElement | HTMLInputElement).value;
  }

  protected describe(fault: unknown): string {
    return describeFault(fault as Fault);
  }
}
