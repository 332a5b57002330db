import { AsyncPipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { compareRoles, REQUIRED_ROLES, rolesOfBody, SIDES, type Role } from '@hollow-stride/core';
import { distinctUntilChanged, map } from 'rxjs';
import type { BodyView } from '../body/messages';
import { ProjectStore } from '../project/project.store';
import { ChoicesComponent, type Choice } from '../shared/choices.component';
import { GroupComponent } from '../shared/group.component';
import { RefusalComponent } from '../shared/refusal.component';
import { KeysService } from '../shared/keys.service';
import type { Figure } from '../stage/figure-view';
import { FigureStageComponent } from '../stage/figure-stage.component';
import type { ViewName } from '../stage/options';
import { PlaybackService } from '../timeline/playback.service';
import { transportKey } from '../timeline/transport-keys';
import { TransportComponent } from '../timeline/transport.component';
import { JointTreeComponent } from './joint-tree.component';
import { CHAINS, LabelStore, SCHEME_FITS, type Armed } from './label.store';
import { RailsComponent } from './rails.component';
import { RolesPanelComponent } from './roles-panel.component';
import { SchemesPanelComponent } from './schemes-panel.component';
import { ResizeDirective } from '../shared/resize.directive';
import { AddressService } from '../shell/address.service';

type Shown = 'rest' | 'range' | 'take';

/** Station Label: say which joint is which part of the body, and see at once whether it is so. */
@Component({
  selector: 'hs-label',
  imports: [
    ResizeDirective,
    AsyncPipe,
    ChoicesComponent,
    FigureStageComponent,
    GroupComponent,
    JointTreeComponent,
    RailsComponent,
    RolesPanelComponent,
    RefusalComponent,
    RouterLink,
    SchemesPanelComponent,
    TransportComponent,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './label.component.html',
  styleUrl: './label.component.scss',
})
export class LabelComponent {
  protected readonly store = inject(LabelStore);
  protected readonly project = inject(ProjectStore);
  protected readonly playback = inject(PlaybackService);
  protected readonly chains = CHAINS;
  protected readonly parties: readonly Choice[] = [
    { value: 'performer', name: 'performer' },
    { value: 'character', name: 'character' },
  ];
  protected readonly viewNames: readonly Choice[] = ['front', 'side', 'top', 'free'].map((value) => ({ value, name: value }));
  protected readonly looked = signal<ViewName>('front');
  protected readonly shown = signal<Shown>('rest');
  protected readonly pointed = signal(-1);
  protected readonly wiggles = signal(false);
  protected readonly chain = signal('spine');
  protected readonly extraName = signal('');
  protected readonly state = toSignal(this.store.state$, { requireSync: true });
  private readonly schemeCount = toSignal(this.project.rack$.pipe(map((rack) => rack.schemes.length)), { initialValue: 0 });
  protected readonly frame = toSignal(this.playback.state$.pipe(map((s) => s.frame)), { initialValue: 0 });

  protected readonly figures = computed((): Figure[] => {
    const { view, party } = this.state();
    if (!view) return [];
    const key = `${view.source.file} ${JSON.stringify(view.source.skeleton)}`;
    const shown = this.shown();
    const clip = shown === 'range' ? view.range.clip : shown === 'take' ? view.clip : undefined;
    return [{ key, display: view.display, look: party, pose: view.rest, show: 'both', ...(clip ? { clip } : {}) }];
  });
  protected readonly floor = computed(() => {
    const view = this.state().view;
    if (!view) return 0;
    let low = Infinity;
    for (let i = 1; i < view.rest.positions.length; i += 3) low = Math.min(low, view.rest.positions[i]);
    return low - (view.facts.body?.sole.depth ?? 0);
  });
  protected readonly partner = computed(() => {
    const { view, joint, mirrored } = this.state();
    return view && joint >= 0 && mirrored ? view.partners[joint] : -1;
  });
  protected readonly marks = computed(() => {
    const { joint } = this.state();
    const over = this.pointed();
    return [
      ...(joint >= 0 ? [{ joint, solid: true }] : []),
      ...(this.partner() >= 0 ? [{ joint: this.partner(), solid: false }] : []),
      ...(over >= 0 && over !== joint ? [{ joint: over, solid: false }] : []),
    ];
  });
  protected readonly wiggled = computed(() => {
    if (this.shown() !== 'rest') return -1;
    return this.pointed() >= 0 ? this.pointed() : this.wiggles() ? this.state().joint : -1;
  });
  protected readonly step = computed(() => {
    const steps = this.state().view?.range.steps ?? [];
    return steps.filter(({ first }) => first <= this.frame()).at(-1)?.step.says ?? '';
  });
  protected readonly jointRole = computed(() => {
    const { view, joint } = this.state();
    return view && Object.entries(view.roles).find(([, at]) => at === joint)?.[0];
  });
  protected readonly count = (roles: object): number => Object.keys(roles).length;
  /** The best known scheme for a skeleton that nobody has labelled by hand, where it would change something. */
  protected readonly offer = computed(() => {
    const { view } = this.state();
    this.schemeCount();
    const best = view && view.facts.labelled !== 'hand' ? this.store.schemes(view).at(0) : undefined;
    return best && best.score >= SCHEME_FITS && this.store.changes(best.scheme) ? best : undefined;
  });
  protected readonly allRoles = computed(() => {
    const roles = this.state().view?.roles ?? {};
    const spines = Array.from({ length: 12 }, (_, i) => `spine.${i + 1}`);
    const more = [
      'ground',
      ...spines,
      ...[1, 2, 3].map((i) => `neck.${i}`),
      ...SIDES.flatMap((side) => [`${side}.hock`, `${side}.fetlock`]),
    ];
    return [...new Set<Role>([...rolesOfBody().flatMap((c) => c.roles), ...REQUIRED_ROLES, ...more, ...Object.keys(roles)])].sort(
      compareRoles,
    );
  });

  constructor() {
    inject(KeysService).listen((event) => this.key(event));
    const address = inject(AddressService);
    address.carry('party', {
      value$: this.store.state$.pipe(map(({ party }) => party)),
      adopt: (party) => {
        if (party === 'performer' || party === 'character') this.store.setParty(party);
      },
    });
    // Counted from 1, as frames are.
    address.carry('joint', {
      value$: this.store.state$.pipe(map(({ joint }) => (joint < 0 ? undefined : String(joint + 1)))),
      adopt: (joint) => this.store.show(Number(joint) - 1),
    });
    this.store.state$
      .pipe(
        map(({ view }) => view),
        distinctUntilChanged(),
        takeUntilDestroyed(),
      )
      .subscribe((view) => this.setClip(view));
    inject(DestroyRef).onDestroy(() => {
      this.playback.pause();
      this.store.disarm();
    });
  }

  protected show(shown: string): void {
    this.shown.set(shown as Shown);
    this.setClip(this.state().view);
    this.playback.seek(0);
    if (shown === 'range') {
      // Arms and legs swing ahead: a slanting view shows it.
      this.looked.set('free');
      this.playback.play();
    } else this.playback.pause();
  }

  protected shownChoices(view: BodyView): Choice[] {
    return [
      { value: 'rest', name: 'at rest' },
      { value: 'range', name: 'range check', title: 'Each limb in turn by its labels, left first' },
      { value: 'take', name: 'take', disabled: !view.clip },
    ];
  }

  protected pointRole(role: Role | undefined): void {
    this.pointed.set(role === undefined ? -1 : (this.state().view?.roles[role] ?? -1));
  }

  protected armedRole(armed: Armed): Role | undefined {
    return armed?.kind === 'role' ? armed.role : undefined;
  }

  protected hint(view: BodyView, armed: NonNullable<Armed>): string {
    if (armed.kind === 'role') return `Click the joint of ${armed.role}`;
    const name = armed.chain.replace(/^extra\./, '').replace('.', ' ');
    return armed.first === undefined
      ? `Click the first joint of the ${name}`
      : `Base ${view.display.skeleton.names[armed.first]}; now click the tip of the ${name}`;
  }

  protected giveRole(event: Event): void {
    const role = (event.target as HTMLSelectElement).value;
    const held = this.jointRole();
    if (role !== '') this.store.give(role, this.state().joint);
    else if (held) this.store.take(held);
  }

  protected fillChain(): void {
    this.store.armChain(this.chain());
  }

  protected fillExtra(): void {
    const name = this.extraName()
      .trim()
      .replace(/[^\p{L}\p{N} '-]/gu, '');
    if (name !== '') this.store.armChain(`extra.${name}`);
  }

  protected value(event: Event): string {
    return (event.target as HTMLInputElement | HTMLSelectElement).value;
  }

  private key(event: KeyboardEvent): boolean {
    const actions: Record<string, () => void> = {
      Escape: () => this.store.disarm(),
      m: () => this.store.setMirrored(!this.store.isMirrored),
      w: () => this.wiggles.update((on) => !on),
      f: () => this.looked.set('front'),
      s: () => this.looked.set('side'),
      t: () => this.looked.set('top'),
    };
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (!(key in actions)) return this.shown() !== 'rest' && transportKey(event, this.playback);
    actions[key]();
    return true;
  }

  private setClip(view: BodyView | undefined): void {
    const clip = this.shown() === 'range' ? view?.range.clip : this.shown() === 'take' ? view?.clip : undefined;
    if (clip) this.playback.setClip(clip.frames, clip.frameTime);
  }
}
