import { DecimalPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { describeFault, UP_CHOICES, type Fault } from '@hollow-stride/core';
import { map } from 'rxjs';
import type { Party } from '../../body/bodies.store';
import type { JointsView } from '../../body/messages';
import { EditsStore } from '../../project/edits.store';
import { ItemsStore } from '../../project/items.store';
import { ProjectStore } from '../../project/project.store';
import { ChoicesComponent, type Choice } from '../../shared/choices.component';
import { GroupComponent } from '../../shared/group.component';
import { KeepByNameComponent } from '../../shared/keep-by-name.component';
import { KeptListComponent } from '../../shared/kept-list.component';
import { KeysService } from '../../shared/keys.service';
import { NumberComponent } from '../../shared/number.component';
import { ResizeDirective } from '../../shared/resize.directive';
import { SolveStore } from '../../solve/solve.store';
import { FigureStageComponent } from '../../stage/figure-stage.component';
import type { Figure } from '../../stage/figure-view';
import type { ViewName } from '../../stage/options';
import { PlaybackService } from '../../timeline/playback.service';
import { transportKey } from '../../timeline/transport-keys';
import { TransportComponent } from '../../timeline/transport.component';
import { MatchStore } from '../match.store';
import { PairingPanelComponent } from '../pairing-panel.component';
import { CarryFormComponent } from './carry-form.component';
import { IntoPanelComponent } from './into-panel.component';
import { JointListsComponent } from './joint-lists.component';
import { JointsStore } from './joints.store';
import { RulesPanelComponent } from './rules-panel.component';
import { REASONS } from './words';

/** Match of two rigs joint by joint: which joint drives which, what is carried, and where it is laid. */
@Component({
  selector: 'hs-joints-match',
  imports: [
    CarryFormComponent,
    ChoicesComponent,
    DecimalPipe,
    FigureStageComponent,
    GroupComponent,
    IntoPanelComponent,
    JointListsComponent,
    KeepByNameComponent,
    KeptListComponent,
    NumberComponent,
    PairingPanelComponent,
    ResizeDirective,
    RulesPanelComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './joints-match.component.html',
  styleUrl: './joints-match.component.scss',
})
export class JointsMatchComponent {
  protected readonly match = inject(MatchStore);
  protected readonly store = inject(JointsStore);
  private readonly items = inject(ItemsStore);
  private readonly edits = inject(EditsStore);
  private readonly project = inject(ProjectStore);
  private readonly playback = inject(PlaybackService);
  readonly view = input.required<JointsView>();
  protected readonly solving = toSignal(inject(SolveStore).state$, { requireSync: true });
  protected readonly chosen = toSignal(this.store.chosen$, { requireSync: true });
  protected readonly schemes = toSignal(this.project.rack$.pipe(map(({ jointSchemes }) => jointSchemes)), { initialValue: [] });
  protected readonly frame = toSignal(this.playback.state$.pipe(map(({ frame }) => frame)), { initialValue: 0 });
  protected readonly looked = signal<ViewName>('free');
  protected readonly ways: readonly Choice[] = [
    { value: 'names', name: 'names', title: 'By names, whatever prefix, signs and case; what has none by its place in the tree' },
    { value: 'order', name: 'order', title: 'The first with the first, and so on' },
    { value: 'shape', name: 'shape', title: 'By the place in the tree, whatever the names' },
  ];
  protected readonly ups = UP_CHOICES;
  protected readonly parties = ['performer', 'character'] as const;
  protected readonly degrees = computed(() => (this.view().map.heading * 180) / Math.PI);
  protected readonly figures = computed((): Figure[] => {
    const { pair, character, window } = this.view();
    const { solved } = this.solving();
    const isNow = solved !== undefined && JSON.stringify(solved.pair) === JSON.stringify(pair);
    const key = `${pair.character.file} ${JSON.stringify(pair.character.skeleton)}`;
    const moving = isNow ? { clip: solved.solved, shift: 0 } : { clip: window.clip, shift: window.first };
    return [{ key, display: character.display, look: 'character', show: 'mesh', ...moving }];
  });
  protected readonly marks = computed(() => {
    const { character } = this.chosen();
    return character < 0 ? [] : [{ joint: character, solid: true }];
  });
  /** The chosen joint of the character: what drives it, and what of it is carried. */
  protected readonly joint = computed(() => {
    const { character, map: pairs, performer, settings } = this.view();
    const { character: joint } = this.chosen();
    if (joint < 0 || joint >= character.keys.length) return undefined;
    const pair = pairs.pairs.find(({ target }) => target === joint);
    const key = character.keys[joint];
    return {
      joint,
      name: character.names[joint],
      why: pair ? REASONS[pair.why] : 'left at rest',
      sources: (pair?.sources ?? []).map(({ joint: source, weight }) => ({ joint: source, name: performer.names[source], weight })),
      isByHand: key in settings.pairs,
      isOwn: key in settings.own,
      carry: this.store.carryOf(key),
      hasBelow: this.store.hasBelow(joint),
    };
  });
  protected readonly other = computed(() => {
    const { performer } = this.chosen();
    return performer < 0 || performer >= this.view().performer.names.length ? undefined : this.view().performer.names[performer];
  });
  protected readonly left = computed(() =>
    this.parties.map((party) => ({ party, names: this.view().map.leftOver[party].map((joint) => this.view()[party].names[joint]) })),
  );
  protected readonly clashes = computed(() =>
    this.view().map.clashes.map(({ of, joints }) => ({
      of,
      joints,
      names: joints.map((joint) => this.view()[of].names[joint]).join(', '),
    })),
  );
  protected readonly rigs = computed(() =>
    this.parties.map((party) => {
      const { unit, up, upReason } = this.view()[party];
      return { party, unit, up, upReason };
    }),
  );

  constructor() {
    inject(KeysService).listen((event) => this.key(event));
    effect(() => {
      const { frames, frameTime } = this.view();
      const now = this.playback.state;
      if (frames !== now.frames || frameTime !== now.frameTime) this.playback.setClip(frames, frameTime);
    });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected describe(fault: Fault): string {
    return describeFault(fault);
  }

  protected setUp(party: Party, event: Event): void {
    const value = (event.target as HTMLSelectElement).value;
    const up = UP_CHOICES.find((one) => one === value) ?? null;
    this.change(party, { up }, `${up ?? 'found'} up for the ${party}`);
  }

  protected setUnit(party: Party, metres: number): void {
    this.change(party, { unit: metres > 0 ? metres : null }, `unit of the ${party}`);
  }

  private change(party: Party, change: { up?: (typeof UP_CHOICES)[number] | null; unit?: number | null }, text: string): void {
    const skeleton = this.match.skeleton(party);
    if (skeleton) this.edits.changeSkeleton(skeleton.id, { choices: { ...skeleton.choices, ...change, reference: null } }, text, text);
  }

  protected use(id: string): void {
    const scheme = this.schemes().find((one) => one.id === id);
    if (scheme) this.store.use(scheme.name, scheme.byJoint);
  }

  protected keep(name: string): void {
    this.items.addJointScheme({ name, byJoint: this.store.settings });
  }

  private key(event: KeyboardEvent): boolean {
    const key = event.key.toLowerCase();
    if (key === 'p') this.store.pair(event.shiftKey);
    else if (key === 'delete') this.store.leave();
    else return transportKey(event, this.playback);
    return true;
  }
}
