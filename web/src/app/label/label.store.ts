import { inject, Injectable } from '@angular/core';
import type { SkeletonJson } from '@hollow-stride/contract';
import {
  bareNames,
  extraChains,
  fillChain,
  FINGERS,
  fitScheme,
  mirrorLabels,
  mirrorRole,
  namesOfRoles,
  schemeOf,
  SIDES,
  type NamingScheme,
  type Role,
} from '@hollow-stride/core';
import { BehaviorSubject, combineLatest, map, shareReplay, switchMap } from 'rxjs';
import { BodiesStore, type BodyState, type Party } from '../body/bodies.store';
import type { BodyView, MistakeView } from '../body/messages';
import { EditsStore } from '../project/edits.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';

/** A scheme is offered where so much of it fits: names that were not meant for the skeleton would tear its labels apart. */
export const SCHEME_FITS = 0.5;

/** Role that the next picked joint gets. */
export type Armed =
  | { readonly kind: 'role'; readonly role: Role }
  | { readonly kind: 'chain'; readonly chain: string; readonly first: number | undefined }
  | undefined;

export interface LabelState extends BodyState {
  readonly party: Party;
  readonly joint: number;
  readonly armed: Armed;
  readonly mirrored: boolean;
  /** Result of the last action, in words; faults say that nothing was changed. */
  readonly said: { readonly good: boolean; readonly text: string } | undefined;
}

interface Choice {
  readonly party: Party;
  readonly joint: number;
  readonly armed: Armed;
  readonly mirrored: boolean;
  readonly said: LabelState['said'];
}

/** Chains that can be filled from their ends, in the order of the body. */
export const CHAINS: readonly string[] = [
  'spine',
  'neck',
  ...SIDES.flatMap((side) => [`${side}.arm`, `${side}.leg`]),
  ...SIDES.flatMap((side) => FINGERS.map((finger) => `${side}.${finger}`)),
];

/** Holds what is being labelled: whose skeleton, which joint, what the next pick is for; makes every change a step. */
@Injectable({ providedIn: 'root' })
export class LabelStore {
  private readonly project = inject(ProjectStore);
  private readonly items = inject(ItemsStore);
  private readonly edits = inject(EditsStore);
  private readonly bodies = inject(BodiesStore);
  private readonly choice = new BehaviorSubject<Choice>({
    party: 'performer',
    joint: -1,
    armed: undefined,
    mirrored: true,
    said: undefined,
  });
  private view: BodyView | undefined;

  readonly state$ = combineLatest([
    this.choice,
    this.choice.pipe(
      map(({ party }) => party),
      switchMap((party) => this.bodies.of(party)),
    ),
  ]).pipe(
    map(([choice, body]): LabelState => {
      this.view = body.view;
      return { ...choice, ...body };
    }),
    shareReplay(1),
  );

  setParty(party: Party): void {
    this.patch({ party, joint: -1, armed: undefined, said: undefined });
  }

  setMirrored(mirrored: boolean): void {
    this.patch({ mirrored });
  }

  get isMirrored(): boolean {
    return this.choice.value.mirrored;
  }

  /** Picks a joint: chosen, or given what was armed before. */
  pick(joint: number): void {
    const { armed } = this.choice.value;
    if (joint < 0) return;
    if (!armed) this.patch({ joint, said: undefined });
    else if (armed.kind === 'role') {
      this.patch({ joint, armed: undefined });
      this.give(armed.role, joint);
    } else if (armed.first === undefined) {
      this.patch({ joint, armed: { ...armed, first: joint }, said: undefined });
    } else this.fill(armed.chain, armed.first, joint);
  }

  /** Chooses a joint and gives it nothing. */
  show(joint: number): void {
    if (Number.isInteger(joint) && joint >= 0) this.patch({ joint, armed: undefined });
  }

  /** The next joint that is picked gets this role. */
  armRole(role: Role): void {
    this.patch({ armed: { kind: 'role', role }, joint: this.view?.roles[role] ?? -1, said: undefined });
  }

  /** The next two joints that are picked are the base and the tip of this chain. */
  armChain(chain: string): void {
    this.patch({ armed: { kind: 'chain', chain, first: undefined }, said: undefined });
  }

  disarm(): void {
    this.patch({ armed: undefined });
  }

  /** Gives a joint a role; the joint's former one goes, and the other side follows when mirrored. */
  give(role: Role, joint: number): void {
    const { view } = this;
    if (!view) return;
    const roles = new Map(Object.entries(view.roles));
    const changed = new Set<Role>([role]);
    for (const [other, at] of roles) {
      if (at !== joint || other === role) continue;
      roles.delete(other);
      changed.add(other);
    }
    roles.set(role, joint);
    this.change(roles, [...changed], `give ${role} to ${view.display.skeleton.names[joint]}`);
  }

  take(role: Role): void {
    const { view } = this;
    if (!view) return;
    const roles = new Map(Object.entries(view.roles));
    roles.delete(role);
    this.change(roles, [role], `remove ${role}`);
  }

  fill(chain: string, first: number, last: number): void {
    const { view } = this;
    if (!view) return;
    const before = new Map(Object.entries(view.roles));
    const filled = fillChain(view.display.skeleton, before, chain, first, last, new Set(view.aside));
    if (typeof filled === 'string') {
      this.patch({
        armed: { kind: 'chain', chain, first: undefined },
        said: { good: false, text: `${filled}. Nothing was changed; click its base again` },
      });
      return;
    }
    const changed = [...new Set([...before.keys(), ...filled.roles.keys()])].filter((role) => before.get(role) !== filled.roles.get(role));
    this.patch({ armed: undefined, joint: last });
    this.change(new Map(filled.roles), changed, `fill ${chain.replace('.', ' ')} with ${filled.joints.length} joints`, filled.notes);
  }

  fix(mistake: MistakeView): void {
    if (mistake.fixed) this.save(mistake.fixed, `correct ${mistake.role}: ${mistake.instead}`);
  }

  /** Labels as the application finds them. */
  automatic(): void {
    const skeleton = this.skeleton();
    if (skeleton) this.edits.changeSkeleton(skeleton.id, { choices: { ...skeleton.choices, labels: null } }, 'label automatically');
    this.patch({ said: { good: true, text: 'labelled automatically' }, armed: undefined });
  }

  /** Lays a scheme over the labels: what fits is applied, what does not is listed. */
  applyScheme(scheme: NamingScheme): void {
    const { view } = this;
    if (!view) return;
    const fit = fitScheme(scheme, view.display.skeleton);
    const taken = new Set(fit.roles.values());
    const kept = Object.entries(view.roles).filter(([role, joint]) => !fit.roles.has(role) && !taken.has(joint));
    this.save(namesOfRoles(view.display.skeleton, new Map([...kept, ...fit.roles])), `label by "${scheme.name}"`);
    const misses = fit.misses.length === 0 ? '' : `; not here: ${fit.misses.join(', ')}`;
    this.patch({ said: { good: true, text: `${fit.roles.size} roles by "${scheme.name}"${misses}` }, armed: undefined });
  }

  /** True where a scheme would label something otherwise than it is. */
  changes(scheme: NamingScheme): boolean {
    const { view } = this;
    if (!view) return false;
    return [...fitScheme(scheme, view.display.skeleton).roles].some(([role, joint]) => view.roles[role] !== joint);
  }

  keepScheme(name: string): void {
    const scheme = this.scheme(name);
    if (scheme) this.items.addScheme(scheme);
  }

  scheme(name: string): NamingScheme | undefined {
    const { view } = this;
    return view && schemeOf(name, view.display.skeleton, new Map(Object.entries(view.roles)));
  }

  /** Schemes on the rack with how well each fits this skeleton, best first. */
  schemes(view: BodyView): { id: string; scheme: NamingScheme; score: number; misses: number }[] {
    return this.project.state.rack.schemes
      .map(({ id, scheme }) => {
        const { score, misses } = fitScheme(scheme, view.display.skeleton);
        return { id, scheme, score, misses: misses.length };
      })
      .sort((a, b) => b.score - a.score);
  }

  /** Takes every role away, to begin anew. */
  clear(): void {
    this.save({}, 'clear the labels');
  }

  /** Names of the chains that a person has named. */
  extras(view: BodyView): string[] {
    return [...extraChains(new Map(Object.entries(view.roles))).keys()];
  }

  removeExtra(name: string): void {
    const { view } = this;
    if (!view) return;
    const roles = new Map(Object.entries(view.roles).filter(([role]) => !role.startsWith(`extra.${name}.`)));
    this.save(namesOfRoles(view.display.skeleton, roles), `remove the chain "${name}"`);
  }

  skeleton(): SkeletonJson | undefined {
    const { rack, selection } = this.project.state;
    const item =
      this.choice.value.party === 'performer'
        ? rack.takes.find(({ id }) => id === selection.take)
        : rack.characters.find(({ id }) => id === selection.character);
    return this.project.skeleton(item?.skeleton);
  }

  private change(roles: Map<Role, number>, changed: readonly Role[], text: string, notes: readonly string[] = []): void {
    const { view } = this;
    if (!view) return;
    const { mirrored } = this.choice.value;
    const both = mirrored && changed.some((role) => mirrorRole(role) !== role);
    const out = both ? mirrorLabels(roles, changed, view.partners) : roles;
    const without = both
      ? changed.filter((role) => mirrorRole(role) !== role && roles.has(role) && view.partners[roles.get(role)!] < 0)
      : [];
    this.save(namesOfRoles(view.display.skeleton, out), both ? `${text}, and its partner` : text);
    const bare = bareNames(view.display.skeleton);
    const all = [...notes, ...without.map((role) => `${bare[roles.get(role)!]} has no partner on the other side`)];
    this.patch({ said: all.length > 0 ? { good: true, text: all.join('; ') } : undefined });
  }

  private save(labels: Readonly<Record<Role, string>>, text: string): void {
    const skeleton = this.skeleton();
    if (!skeleton) return;
    this.edits.changeSkeleton(skeleton.id, { choices: { ...skeleton.choices, labels: { ...labels } } }, text);
  }

  private patch(change: Partial<Choice>): void {
    this.choice.next({ ...this.choice.value, ...change });
  }
}
