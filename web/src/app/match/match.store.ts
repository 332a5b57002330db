import { inject, Injectable } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { SkeletonJson, SolveChoices } from '@hollow-stride/contract';
import {
  asFault,
  DEFAULT_BY_JOINT,
  mirrorRole,
  mirrorTurn,
  parseRecipe,
  writeRecipe,
  type Fault,
  type Press,
  type Recipe,
  type Role,
  type Rung,
  type SkeletonChoices,
  type Turns,
} from '@hollow-stride/core';
import { BehaviorSubject, catchError, distinctUntilChanged, EMPTY, map, type Observable, switchMap, tap } from 'rxjs';
import type { Party } from '../body/bodies.store';
import { BodyService } from '../body/body.service';
import type { JointsView, MatchView } from '../body/messages';
import { HistoryService } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { EditsStore } from '../project/edits.store';
import { ProjectStore } from '../project/project.store';
import { PairStore } from '../pair/pair.store';
import { KeptStore } from '../solve/kept.store';
import type { BodySource, PairRequest } from '../solver/messages';
import { faultOf } from '../solver/worker-client';
import { PlaybackService } from '../timeline/playback.service';
import { turnInPlane, type Plane } from './plane';

export interface MatchState {
  /** The last good view of the pair; it stays while the next is on its way. */
  readonly view: MatchView | undefined;
  /** The same of a pairing that goes joint by joint. */
  readonly joints: JointsView | undefined;
  readonly fault: Fault | undefined;
  /** The limb segment that is turned. */
  readonly segment: Role | undefined;
  readonly mirrored: boolean;
}

/** Holds the pairing that is being matched: looks at it anew at every change, and makes every change a step. */
@Injectable({ providedIn: 'root' })
export class MatchStore {
  private readonly project = inject(ProjectStore);
  private readonly edits = inject(EditsStore);
  private readonly pairs = inject(PairStore);
  private readonly kept = inject(KeptStore);
  private readonly bodies = inject(BodyService);
  private readonly playback = inject(PlaybackService);
  private readonly history = inject(HistoryService);
  private readonly notices = inject(NoticesService);
  private readonly subject = new BehaviorSubject<MatchState>({
    view: undefined,
    joints: undefined,
    fault: undefined,
    segment: undefined,
    mirrored: true,
  });
  readonly state$ = this.subject.asObservable();

  constructor() {
    this.pairs.pair$
      .pipe(
        map(({ request }) => request),
        distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
        switchMap((pair) => this.look(pair)),
        takeUntilDestroyed(),
      )
      .subscribe();
  }

  get state(): MatchState {
    return this.subject.value;
  }

  choose(segment: Role | undefined): void {
    this.patch({ segment });
  }

  setMirrored(mirrored: boolean): void {
    this.patch({ mirrored });
  }

  /** Turns a segment of the character by hand; mirrored, its partner too. @param turn degrees about left, up and ahead */
  turn(role: Role, turn: Turns[string]): void {
    let turns = this.choices.turns;
    const set = (at: Role, value: Turns[string]): void => {
      const isNone = value.every((v) => Math.abs(v) < 1e-3);
      turns = withEntry(turns, at, isNone ? undefined : [wrap(value[0]), wrap(value[1]), wrap(value[2])]);
    };
    set(role, turn);
    if (this.state.mirrored) {
      const [other, mirrored] = mirrorTurn(role, turn);
      if (other !== role && this.state.view && other in this.state.view.character.roles) set(other, mirrored);
    }
    this.change({ turns }, `turn ${role}`, `turn ${role}`);
  }

  /** Turns the chosen segment on, in a plane. @param by degrees counter-clockwise as drawn */
  turnBy(plane: Plane, by: number): void {
    const { segment } = this.state;
    if (segment !== undefined) this.turn(segment, turnInPlane(this.choices.turns[segment], plane, by));
  }

  /** Sets one part of the chosen segment's turn. @param axis 0 about left, 1 about up, 2 about ahead */
  setAxis(axis: number, degrees: number): void {
    const { segment } = this.state;
    if (segment === undefined) return;
    const turn = [...(this.choices.turns[segment] ?? [0, 0, 0])] as Turns[string];
    turn[axis] = degrees;
    this.turn(segment, turn);
  }

  /** Goes joint by joint, or by parts of the body again; what was decided about joints is kept meanwhile by the history alone. */
  setByJoint(isOn: boolean): void {
    if (isOn === Boolean(this.choices.byJoint)) return;
    this.change({ byJoint: isOn ? DEFAULT_BY_JOINT : null }, isOn ? 'pair joint by joint' : 'pair by parts of the body');
  }

  /** Takes every turn by hand back: the application's own match of all segments holds. */
  alignAll(): void {
    this.change({ turns: {} }, 'align all');
  }

  /** A rung set by hand; null cuts it, undefined gives it back to the application. */
  rung(role: Role, rung: Rung | undefined, drag = false): void {
    let links = this.choices.links;
    const set = (at: Role, value: Rung | undefined): void => {
      links = withEntry(links, at, value);
    };
    set(role, rung);
    const other = mirrorRole(role);
    if (this.state.mirrored && other !== role && this.state.view && other in this.state.view.character.roles) {
      set(other, rung && { a: mirrorRole(rung.a), b: mirrorRole(rung.b), t: rung.t });
    }
    const what = rung === undefined ? 'link automatically' : rung === null ? 'cut the rung of' : 'move the rung of';
    this.change({ links }, `${what} ${role}`, drag ? `rung ${role}` : undefined);
  }

  change(change: Partial<SolveChoices>, text: string, key?: string): void {
    this.kept.change(change, text, key);
  }

  /** Corrects a rest pose at a single press. */
  press(party: Party, press: Press, name: string): void {
    const source = this.source(party);
    if (!source) return;
    this.bodies.press(source, press).subscribe({
      next: (turns) => this.changeSkeleton(party, { turns }, `${name.toLowerCase()}, ${party}`),
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  setRest(party: Party, rest: SkeletonChoices['rest']): void {
    const name = typeof rest === 'string' ? (rest === 'auto' ? 'as found' : "the file's own") : `"${rest.name}"`;
    this.changeSkeleton(party, { rest, turns: {} }, `rest pose of the ${party}: ${name}`);
  }

  /** Takes the rest pose from a frame of a take on the same skeleton. @param frame of the file, from 0 */
  restFromFrame(party: Party, take: { file: string; name: string; clip: number }, frame: number): void {
    const source = this.source(party);
    if (!source) return;
    this.bodies
      .keep(
        { ...take, skeleton: source.skeleton, reference: null, choices: this.takeChoices() },
        frame,
        `frame ${frame + 1} of ${take.name}`,
      )
      .subscribe({
        next: (rest) => this.changeSkeleton(party, { rest, turns: {} }, `rest pose of the ${party}: ${rest.name}`),
        error: (error: unknown) => this.notices.fault(faultOf(error)),
      });
  }

  /** Keeps the rest pose that stands now, by name, with the skeleton. */
  keepRest(party: Party, name: string): void {
    const source = this.source(party);
    const skeleton = this.skeleton(party);
    if (!source || !skeleton) return;
    this.bodies.keep({ ...source, choices: this.takeChoices() }, undefined, name).subscribe({
      next: (rest) => {
        const rests = [...skeleton.rests.filter((kept) => kept.name !== name), rest];
        this.edits.changeSkeleton(skeleton.id, { rests }, `keep the rest pose "${name}"`);
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  rename(name: string): void {
    const { take, character } = this.pairs.now;
    if (take && character && name.trim() !== '') {
      this.edits.changePairing(take.skeleton, character.id, { name: name.trim() }, `name the pairing ${name.trim()}`);
    }
  }

  /** Copies what fits of this pairing to the performer's pairing with another character, and goes there. */
  copyTo(character: string): void {
    const { take } = this.pairs.now;
    const { choices } = this;
    const target = this.project.state.rack.characters.find(({ id }) => id === character);
    if (!take || !target) return;
    this.bodies.fit(this.project.pairRequest(take, target, choices)).subscribe({
      next: ({ choices: fitting, dropped }) => {
        this.edits.changePairing(take.skeleton, target.id, { choices: { ...choices, ...fitting } }, `copy the pairing to ${target.name}`);
        this.project.choose({ character: target.id });
        this.notices.done(dropped.length > 0 ? `copied to ${target.name}; ${dropped.join('; ')}` : `copied to ${target.name}, all of it`);
      },
      error: (error: unknown) => this.notices.fault(faultOf(error)),
    });
  }

  /** Every decision about the pair as a recipe's text, and its name. */
  recipe(): Observable<{ name: string; text: string }> {
    const { take, character, request } = this.pairs.now;
    if (!take || !character || !request) return EMPTY;
    const name = this.project.pairing(take.skeleton, character.id)?.name ?? `to ${character.name}`;
    return this.bodies.recipe(request, name).pipe(
      map((recipe) => ({ name, text: writeRecipe(recipe) })),
      catchError((error: unknown) => {
        this.notices.fault(faultOf(error));
        return EMPTY;
      }),
    );
  }

  /** Brings a recipe in: its decisions about both skeletons, the take and the pairing, as one step. */
  applyRecipe(text: string, file: string): void {
    const { take, character } = this.pairs.now;
    if (!take || !character) return;
    let recipe: Recipe;
    try {
      recipe = parseRecipe(text, file);
    } catch (error) {
      this.notices.fault(asFault(error, file));
      return;
    }
    const request: PairRequest = {
      take: { ...this.project.takeSource(take), skeleton: recipe.performer },
      character: { ...this.project.characterSource(character), skeleton: recipe.character },
      choices: { ...recipe.pairing, ...recipe.solve, touchUps: [], layers: [] },
      touchUps: recipe.touchUps,
      layers: recipe.layers,
    };
    // Keyed and masked touch-ups belong to this take, constant ones to the pairing. Touch-ups of its other takes stay.
    const touchUps = [
      ...this.choices.touchUps.filter((one) => one.take !== null && one.take !== take.id),
      ...recipe.touchUps.map((touchUp) => ({ touchUp, take: touchUp.keys.length > 0 || touchUp.mask ? take.id : null })),
    ];
    // Layers are laid over the result of this take.
    const layers = [
      ...this.choices.layers.filter((one) => one.take !== null && one.take !== take.id),
      ...recipe.layers.map((layer) => ({ layer, take: take.id })),
    ];
    this.bodies.fit(request).subscribe({
      next: ({ choices, dropped }) => {
        this.history.together(`apply the recipe "${recipe.name}"`, () => {
          this.edits.changeSkeleton(take.skeleton, { choices: recipe.performer }, 'performer');
          this.edits.changeSkeleton(character.skeleton, { choices: recipe.character }, 'character');
          this.edits.changeTake(take.id, { choices: recipe.take }, 'take');
          this.edits.changePairing(
            take.skeleton,
            character.id,
            { choices: { ...choices, ...recipe.solve, touchUps, layers }, name: recipe.name },
            'pairing',
          );
        });
        this.notices.done([`recipe "${recipe.name}" applied`, ...dropped].join('; '));
      },
      error: (error: unknown) =>
        this.notices.fault({ ...faultOf(error), message: `the recipe does not fit this pair: ${faultOf(error).message}` }),
    });
  }

  skeleton(party: Party): SkeletonJson | undefined {
    const { take, character } = this.pairs.now;
    return this.project.skeleton((party === 'performer' ? take : character)?.skeleton);
  }

  /** As the rack holds them now: the solve's state follows a moment later. */
  private get choices(): SolveChoices {
    return this.pairs.now.choices;
  }

  private source(party: Party): BodySource | undefined {
    const { request } = this.pairs.now;
    return party === 'performer' ? request?.take : request?.character;
  }

  private takeChoices(): PairRequest['take']['choices'] {
    return this.pairs.now.request!.take.choices;
  }

  private changeSkeleton(party: Party, change: Partial<SkeletonChoices>, text: string): void {
    const skeleton = this.skeleton(party);
    if (skeleton) this.edits.changeSkeleton(skeleton.id, { choices: { ...skeleton.choices, ...change } }, text);
  }

  private look(pair: PairRequest | undefined) {
    const before = (this.state.view ?? this.state.joints)?.pair;
    const isOther = !pair || before?.take.file !== pair.take.file || before.character.file !== pair.character.file;
    if (isOther) this.patch({ view: undefined, joints: undefined, fault: undefined });
    if (!pair) return EMPTY;
    const { frame } = this.playback.state;
    const looked: Observable<unknown> = pair.choices.byJoint
      ? this.bodies.joints(pair, frame).pipe(tap((joints) => this.patch({ joints, view: undefined, fault: undefined })))
      : this.bodies.match(pair, frame).pipe(tap((view) => this.patch({ view, joints: undefined, fault: undefined })));
    return looked.pipe(
      catchError((error: unknown) => {
        this.patch({ fault: faultOf(error) });
        return EMPTY;
      }),
    );
  }

  private patch(change: Partial<MatchState>): void {
    this.subject.next({ ...this.state, ...change });
  }
}

/** Degrees within −180…180, to a thousandth. */
function wrap(degrees: number): number {
  const turned = degrees - 360 * Math.round(degrees / 360);
  return Math.round(turned * 1000) / 1000;
}

/** A record with one entry set, or without it. */
function withEntry<T>(record: Readonly<Record<string, T>>, key: string, value: T | undefined): Record<string, T> {
  const others = Object.entries(record).filter(([other]) => other !== key);
  return Object.fromEntries(value === undefined ? others : [...others, [key, value]]) as Record<string, T>;
}
