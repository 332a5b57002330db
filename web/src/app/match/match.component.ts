import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { DecimalPipe } from '@angular/common';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { describeFault, type Role, type Turns } from '@hollow-stride/core';
import { map } from 'rxjs';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { GroupComponent } from '../shared/group.component';
import { RefusalComponent } from '../shared/refusal.component';
import { KeysService } from '../shared/keys.service';
import { NumberComponent } from '../shared/number.component';
import { SolveStore } from '../solve/solve.store';
import type { Figure } from '../stage/figure-view';
import { FigureStageComponent } from '../stage/figure-stage.component';
import type { ViewName } from '../stage/options';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { cautionOf, DialsComponent, isLimb } from './dials.component';
import { JointsMatchComponent } from './joints/joints-match.component';
import { LadderComponent } from './ladder.component';
import { MatchStore } from './match.store';
import { PairingPanelComponent } from './pairing-panel.component';
import { PLANES } from './plane';
import { PoseViewComponent } from './pose-view.component';
import { RestPanelComponent } from './rest-panel.component';
import { ScalePanelComponent } from './scale-panel.component';
import { ResizeDirective } from '../shared/resize.directive';
import { AddressService } from '../shell/address.service';

const NO_TURN: Turns[string] = [0, 0, 0];

/** Station Match: bring the two rest poses together, settle the scale, link the chains, while the take plays. */
@Component({
  selector: 'hs-match',
  imports: [
    ResizeDirective,
    ChoicesComponent,
    DecimalPipe,
    DialsComponent,
    FigureStageComponent,
    GroupComponent,
    JointsMatchComponent,
    LadderComponent,
    NumberComponent,
    PairingPanelComponent,
    PoseViewComponent,
    RestPanelComponent,
    RefusalComponent,
    RouterLink,
    ScalePanelComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './match.component.html',
  styleUrl: './match.component.scss',
})
export class MatchComponent {
  protected readonly store = inject(MatchStore);
  protected readonly playback = inject(PlaybackService);
  private readonly solve = inject(SolveStore);
  protected readonly describe = describeFault;
  protected readonly cautionOf = cautionOf;
  protected readonly planes = PLANES;
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  protected readonly solving = toSignal(this.solve.state$, { requireSync: true });
  protected readonly frame = toSignal(this.playback.state$.pipe(map((s) => s.frame)), { initialValue: 0 });
  protected readonly looked = signal<ViewName>('free');
  protected readonly below = signal<'dials' | 'ladders'>('dials');
  protected readonly laid = signal<'bodies' | 'limbs'>('bodies');
  protected readonly layings: readonly Choice[] = [
    { value: 'bodies', name: 'body on body', title: 'Both bodies at one scale, hip over hip' },
    { value: 'limbs', name: 'limb on limb', title: 'Each limb root to root and of one length: what is left apart is direction' },
  ];
  protected readonly bys: readonly Choice[] = [
    { value: 'parts', name: 'by parts', title: 'By parts of the body: labelled bodies of any build' },
    { value: 'joints', name: 'joint by joint', title: 'One joint drives another: for rigs that are no bodies, and rigs of one kind' },
  ];
  protected readonly by = computed(() => (this.solving().choices.byJoint ? 'joints' : 'parts'));
  protected readonly belows: readonly Choice[] = [
    { value: 'dials', name: 'pose dials' },
    { value: 'ladders', name: 'limb ladders' },
  ];
  protected readonly axes = [
    { name: 'swing ahead', axis: 0 },
    { name: 'turn', axis: 1 },
    { name: 'lift aside', axis: 2 },
  ] as const;

  /** The character as it moves: the whole solve when it is up to date, else the frames that were solved first. */
  protected readonly figures = computed((): Figure[] => {
    const { view } = this.state();
    if (!view) return [];
    const { solved } = this.solving();
    const isNow = solved !== undefined && JSON.stringify(solved.pair) === JSON.stringify(view.pair);
    const key = `${view.pair.character.file} ${JSON.stringify(view.pair.character.skeleton)}`;
    const moving = isNow ? { clip: solved.solved, shift: 0 } : { clip: view.window.clip, shift: view.window.first };
    return [{ key, display: view.character.display, look: 'character', show: 'mesh', ...moving }];
  });
  protected readonly floor = computed(() => this.state().view?.window.floor ?? 0);
  protected readonly turn = computed(() => this.solving().choices.turns[this.state().segment ?? ''] ?? NO_TURN);
  protected readonly handTurns = computed(() => Object.keys(this.solving().choices.turns).length);
  protected readonly segments = computed(() =>
    [...(this.state().view?.segments ?? [])].sort((a, b) => Number(isLimb(b)) - Number(isLimb(a)) || b.after - a.after),
  );
  protected readonly worst = computed(() => this.segments().find(isLimb)?.after ?? 0);
  protected readonly warnings = computed(() => (this.state().view?.warnings ?? []).filter(({ code }) => code.startsWith('match/')));
  /** Fingers apart from the body. */
  protected readonly ladders = computed(() => {
    const all = (this.state().view?.ladders ?? []).filter((ladder) => ladder.character.length > 0);
    const isFinger = (chain: string): boolean => /\.(thumb|index|middle|ring|little)$/.test(chain);
    return { body: all.filter(({ chain }) => !isFinger(chain)), fingers: all.filter(({ chain }) => isFinger(chain)) };
  });

  constructor() {
    inject(KeysService).listen((event) => this.key(event));
    inject(AddressService).carry('segment', {
      value$: this.store.state$.pipe(map(({ segment }) => segment)),
      adopt: (segment) => this.store.choose(segment),
    });
    this.store.state$
      .pipe(
        map(({ view }) => view),
        takeUntilDestroyed(),
      )
      .subscribe((view) => {
        const { frames, frameTime } = this.playback.state;
        if (view && (view.frames !== frames || view.frameTime !== frameTime)) this.playback.setClip(view.frames, view.frameTime);
      });
    inject(DestroyRef).onDestroy(() => this.playback.pause());
  }

  protected clear(role: Role): void {
    this.store.turn(role, NO_TURN);
  }

  private key(event: KeyboardEvent): boolean {
    if (event.key.toLowerCase() !== 'm') return transportKey(event, this.playback);
    this.store.setMirrored(!this.state().mirrored);
    return true;
  }
}
