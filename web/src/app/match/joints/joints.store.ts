import { inject, Injectable } from '@angular/core';
import {
  childrenOf,
  DEFAULT_BY_JOINT,
  isBelow,
  type ByJoint,
  type Carry,
  type Into,
  type NameRule,
  type PairWay,
} from '@hollow-stride/core';
import { BehaviorSubject } from 'rxjs';
import type { Party } from '../../body/bodies.store';
import type { JointsView } from '../../body/messages';
import { PairStore } from '../../pair/pair.store';
import { MatchStore } from '../match.store';

/** Joints that are looked at: one of the character, and one of the performer that may be paired with it; −1 for none. */
export interface Chosen {
  readonly character: number;
  readonly performer: number;
}

/** Edits of a pairing that goes joint by joint; each is a step. */
@Injectable({ providedIn: 'root' })
export class JointsStore {
  private readonly match = inject(MatchStore);
  private readonly pairs = inject(PairStore);
  private readonly subject = new BehaviorSubject<Chosen>({ character: -1, performer: -1 });
  readonly chosen$ = this.subject.asObservable();

  get chosen(): Chosen {
    return this.subject.value;
  }

  /** Chooses a joint; with one of the character its first source is chosen too. */
  choose(party: Party, joint: number): void {
    if (party === 'performer') this.subject.next({ ...this.chosen, performer: joint });
    else {
      const pair = this.view?.map.pairs.find(({ target }) => target === joint);
      this.subject.next({ character: joint, performer: pair?.sources[0].joint ?? this.chosen.performer });
    }
  }

  /** Pairs the chosen joints. @param more true to add the performer's as one more that drives it */
  pair(more = false): void {
    const { view, chosen } = this;
    if (!view || chosen.character < 0 || chosen.performer < 0) return;
    const [key, source] = [view.character.keys[chosen.character], view.performer.keys[chosen.performer]];
    const before = more ? this.sourcesOf(view, chosen.character) : [];
    const sources = [...before.filter(({ joint }) => joint !== source), { joint: source, weight: 1 }];
    this.setPair(key, sources, more ? `drive ${key} by ${source} too` : `pair ${key} with ${source}`);
  }

  /** Leaves the chosen joint of the character at rest. */
  leave(): void {
    const { view, chosen } = this;
    if (view && chosen.character >= 0)
      this.setPair(view.character.keys[chosen.character], [], `leave ${view.character.keys[chosen.character]} at rest`);
  }

  /** Takes back what was decided by hand about the chosen joint's partner. */
  automatic(): void {
    const { view, chosen } = this;
    if (!view || chosen.character < 0) return;
    const key = view.character.keys[chosen.character];
    const pairs = Object.fromEntries(Object.entries(this.settings.pairs).filter(([other]) => other !== key));
    this.set({ pairs }, `pair ${key} automatically`);
  }

  /** Share of one of several joints that drive the chosen one. */
  setWeight(source: number, weight: number): void {
    const { view, chosen } = this;
    if (!view || chosen.character < 0) return;
    const key = view.character.keys[chosen.character];
    const name = view.performer.keys[source];
    const sources = this.sourcesOf(view, chosen.character).map((one) => (one.joint === name ? { ...one, weight } : one));
    this.setPair(key, sources, `share of ${name} in ${key}`, `weight ${key} ${name}`);
  }

  setWay(by: PairWay): void {
    this.set({ by }, `pair joints by ${by}`);
  }

  setRules(rules: readonly NameRule[], text: string, key?: string): void {
    this.set({ rules: [...rules] }, text, key);
  }

  /** What is carried: of all joints, or of the chosen one alone. */
  setCarry(change: Partial<Carry>, joint: number | undefined, key?: string): void {
    const name = joint === undefined ? undefined : this.view?.character.keys[joint];
    const text = `carry ${Object.keys(change).join(', ')} of ${name ?? 'all joints'} otherwise`;
    if (name === undefined) this.set({ carry: { ...this.settings.carry, ...change } }, text, key && `${key} all`);
    else this.set({ own: { ...this.settings.own, [name]: { ...this.carryOf(name), ...change } } }, text, key && `${key} ${name}`);
  }

  /** What is carried for the chosen joint holds for all that hang on it too. */
  carryBelow(): void {
    const { view, chosen } = this;
    if (!view || chosen.character < 0) return;
    const { skeleton } = view.character.display;
    const carry = this.carryOf(view.character.keys[chosen.character]);
    const below = view.character.keys.filter((_, j) => isBelow(skeleton, j, chosen.character));
    this.set(
      { own: { ...this.settings.own, ...Object.fromEntries(below.map((key) => [key, carry])) } },
      `carry what hangs on ${below[0]} like it`,
    );
  }

  /** The chosen joint is carried as all are. */
  carryAsAll(): void {
    const { view, chosen } = this;
    if (!view || chosen.character < 0) return;
    const key = view.character.keys[chosen.character];
    this.set({ own: Object.fromEntries(Object.entries(this.settings.own).filter(([other]) => other !== key)) }, `carry ${key} as all`);
  }

  setBranch(joint: number | undefined): void {
    const branch = joint === undefined ? null : (this.view?.character.keys[joint] ?? null);
    this.set({ branch }, branch === null ? 'carry the whole over' : `carry only ${branch} and what hangs on it`);
  }

  setPlace(change: Partial<Pick<ByJoint, 'size' | 'heading'>>): void {
    this.set(change, `set ${Object.keys(change).join(', ')} of the pairing`, `place ${Object.keys(change).join()}`);
  }

  setInto(into: Into | null): void {
    this.set({ into }, into === null ? 'lay the take into nothing' : 'lay the take into a motion', 'into');
  }

  /** Uses a scheme that was kept. */
  use(name: string, byJoint: ByJoint): void {
    this.match.change({ byJoint }, `pair by the joint scheme "${name}"`);
  }

  get settings(): ByJoint {
    return this.pairs.now.choices.byJoint ?? DEFAULT_BY_JOINT;
  }

  carryOf(key: string): Carry {
    return (this.settings.own[key] as Carry | undefined) ?? this.settings.carry;
  }

  /** Joints under the chosen one. */
  hasBelow(joint: number): boolean {
    return this.view !== undefined && joint >= 0 && childrenOf(this.view.character.display.skeleton)[joint].length > 0;
  }

  private get view(): JointsView | undefined {
    return this.match.state.joints;
  }

  private sourcesOf(view: JointsView, target: number): { joint: string; weight: number }[] {
    const pair = view.map.pairs.find((one) => one.target === target);
    return (pair?.sources ?? []).map(({ joint, weight }) => ({ joint: view.performer.keys[joint], weight }));
  }

  private setPair(key: string, sources: ByJoint['pairs'][string], text: string, step?: string): void {
    this.set({ pairs: { ...this.settings.pairs, [key]: sources } }, text, step);
  }

  private set(change: Partial<ByJoint>, text: string, key?: string): void {
    this.match.change({ byJoint: { ...this.settings, ...change } }, text, key);
  }
}
