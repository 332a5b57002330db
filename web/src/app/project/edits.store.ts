import { inject, Injectable } from '@angular/core';
import { asName } from '@hollow-stride/contract';
import type {
  ChangeMesh,
  ChangeReel,
  ChangeSkeleton,
  ChangeTake,
  PairingJson,
  ProductionLimits,
  SavePairing,
  SkeletonJson,
  SolveChoices,
} from '@hollow-stride/contract';
import { ApiService } from '../api/api.service';
import { HistoryService, type Apply } from '../history/history.service';
import { NoticesService } from '../notices/notices.service';
import { DEFAULT_CHOICES, ProjectStore } from './project.store';
import { RowsService } from './rows.service';

/** The edit of each kind of row; the version that it was made from is added when it is sent. */
export type TakeFields = Omit<ChangeTake, 'base'>;
export type SkeletonFields = Omit<ChangeSkeleton, 'base'>;
export type ReelFields = Omit<ChangeReel, 'base'>;
export type MeshFields = Omit<ChangeMesh, 'base'>;
export interface PairingFields {
  readonly choices?: SolveChoices;
  readonly name?: string;
}

/** Edits of takes, skeletons, pairings and limits: shown at once, sent by and by, each a step that can be undone. */
@Injectable({ providedIn: 'root' })
export class EditsStore {
  private readonly api = inject(ApiService);
  private readonly project = inject(ProjectStore);
  private readonly rows = inject(RowsService);
  private readonly notices = inject(NoticesService);
  private readonly history = inject(HistoryService);

  constructor() {
    // A step may be undone after the page was loaded again, before its rack is here.
    const later =
      (apply: Apply): Apply =>
      (target, value) =>
        this.project.whenLoaded(() => apply(target, value));
    const { history } = this;
    history.register(
      'take',
      later((id, value) => this.putTake(id, value as TakeFields)),
    );
    history.register(
      'skeleton',
      later((id, value) => this.putSkeleton(id, value as SkeletonFields)),
    );
    history.register(
      'pairing',
      later((pair, value) => this.putPairing(pair, value as PairingFields)),
    );
    history.register(
      'reel',
      later((id, value) => this.putReel(id, value as ReelFields)),
    );
    history.register(
      'mesh',
      later((id, value) => this.putMesh(id, value as MeshFields)),
    );
    history.register(
      'limits',
      later((_, value) => this.putLimits(value as ProductionLimits)),
    );
  }

  /** Changes a take's settings, tags or note. @param key steps with the same key that follow at once are one */
  changeTake(id: string, change: TakeFields, text: string, key?: string): void {
    const take = this.project.state.rack.takes.find((t) => t.id === id);
    if (!take) return;
    const before: TakeFields = { tags: take.tags, note: take.note, choices: take.choices };
    this.decide(text, key, 'take', id, change, pick(before, change), (value) => this.putTake(id, value));
  }

  private putTake(id: string, value: TakeFields): void {
    const take = this.project.state.rack.takes.find((t) => t.id === id);
    if (!take) {
      // A take of another page of the list: it is brought first.
      this.api.take(id).subscribe({
        next: (found) => {
          this.project.learn([found]);
          this.putTake(id, value);
        },
        error: (error: unknown) => this.notices.failed(error),
      });
      return;
    }
    this.project.patchRack({ takes: this.project.state.rack.takes.map((t) => (t.id === id ? { ...t, ...value } : t)) });
    this.rows.save(`take ${id}`, value, {
      what: take.name,
      request: (base, whole) => this.api.changeTake(id, { base: base ?? take.version, ...(whole as TakeFields) }),
      leave: (base, whole) => this.api.leave('PATCH', `/api/takes/${id}/settings`, { base: base ?? take.version, ...whole }),
    });
  }

  /** Changes what is decided about a skeleton: for every take and character that stands on it. */
  changeSkeleton(id: string, wanted: SkeletonFields, text: string, key?: string): void {
    const skeleton = this.project.state.rack.skeletons.find((k) => k.id === id);
    if (!skeleton) return;
    const change = remeasured(skeleton, wanted);
    const before: SkeletonFields = { name: skeleton.name, choices: skeleton.choices, rests: skeleton.rests };
    this.decide(text, key, 'skeleton', id, change, pick(before, change), (value) => this.putSkeleton(id, value));
  }

  private putSkeleton(id: string, value: SkeletonFields): void {
    const skeleton = this.project.skeleton(id);
    if (!skeleton) return;
    this.project.patchRack({ skeletons: this.project.state.rack.skeletons.map((k) => (k.id === id ? { ...k, ...value } : k)) });
    this.rows.save(`skeleton ${id}`, value, {
      what: skeleton.name,
      request: (base, whole) => this.api.changeSkeleton(id, { base: base ?? skeleton.version, ...(whole as SkeletonFields) }),
      leave: (base, whole) => this.api.leave('PATCH', `/api/skeletons/${id}`, { base: base ?? skeleton.version, ...whole }),
    });
  }

  /** Changes what is decided about the skeleton of a mesh. */
  changeMesh(id: string, change: MeshFields, text: string, key?: string): void {
    const mesh = this.project.state.rack.meshes.find((one) => one.id === id);
    if (mesh) this.decide(text, key, 'mesh', id, change, { choices: mesh.choices }, (value) => this.putMesh(id, value));
  }

  private putMesh(id: string, value: MeshFields): void {
    const { meshes } = this.project.state.rack;
    const mesh = meshes.find((one) => one.id === id);
    if (!mesh) return;
    this.project.patchRack({ meshes: meshes.map((one) => (one.id === id ? { ...one, ...value } : one)) });
    this.rows.save(`mesh ${id}`, value, {
      what: mesh.name,
      request: (base, whole) => this.api.changeMesh(id, { base: base ?? mesh.version, ...(whole as MeshFields) }),
      leave: (base, whole) => this.api.leave('PATCH', `/api/meshes/${id}/fit`, { base: base ?? mesh.version, ...whole }),
    });
  }

  /** Changes a reel's clips or name. */
  changeReel(id: string, change: ReelFields, text: string, key?: string): void {
    const reel = this.project.state.rack.reels.find((one) => one.id === id);
    if (!reel) return;
    const before: ReelFields = { name: reel.name, content: reel.content };
    this.decide(text, key, 'reel', id, change, pick(before, change), (value) => this.putReel(id, value));
  }

  private putReel(id: string, value: ReelFields): void {
    const { reels } = this.project.state.rack;
    const reel = reels.find((one) => one.id === id);
    if (!reel) return;
    this.project.patchRack({ reels: reels.map((one) => (one.id === id ? { ...one, ...value } : one)) });
    this.rows.save(`reel ${id}`, value, {
      what: reel.name,
      request: (base, whole) => this.api.changeReel(id, { base: base ?? reel.version, ...(whole as ReelFields) }),
      leave: (base, whole) => this.api.leave('PATCH', `/api/reels/${id}`, { base: base ?? reel.version, ...whole }),
    });
  }

  /** Changes a pairing's choices or name; one that is not there yet is made. */
  changePairing(performer: string, character: string, change: PairingFields, text: string, key?: string): void {
    const found = this.project.pairing(performer, character);
    const before = { choices: found?.choices ?? DEFAULT_CHOICES, name: found?.name ?? this.pairingName(character) };
    const pair = `${performer} ${character}`;
    this.decide(text, key, 'pairing', pair, change, pick(before, change), (value) => this.putPairing(pair, value));
  }

  private putPairing(pair: string, value: PairingFields): void {
    const [performer, character] = pair.split(' ');
    const { rack } = this.project.state;
    const now = this.project.pairing(performer, character);
    const whole: PairingJson = {
      id: now?.id ?? crypto.randomUUID(),
      version: now?.version ?? 1,
      name: value.name ?? now?.name ?? this.pairingName(character),
      performer,
      character,
      choices: value.choices ?? now?.choices ?? DEFAULT_CHOICES,
      changedAt: new Date().toISOString(),
    };
    this.project.patchRack({ pairings: [whole, ...rack.pairings.filter((p) => p !== now)] });
    // All that an edit may be made of goes with it: the server keeps a pairing whole.
    const body = (base: number | null, { choices, name }: PairingFields): SavePairing => ({
      base,
      performer,
      character,
      choices: choices ?? whole.choices,
      name,
    });
    this.rows.save(
      `pairing ${pair}`,
      { name: whole.name, choices: whole.choices },
      {
        what: `the pairing ${whole.name}`,
        before: { name: this.pairingName(character), choices: DEFAULT_CHOICES },
        request: (base, fields) => this.api.savePairing(body(base, fields)),
        leave: (base, fields) => this.api.leave('PUT', '/api/pairings', body(base, fields)),
      },
    );
  }

  private pairingName(character: string): string {
    return asName(`to ${this.project.state.rack.characters.find((c) => c.id === character)?.name ?? 'character'}`);
  }

  /** Puts labels in; a step that its caller keeps. */
  putLabels(id: string, labels: Readonly<Record<string, string>> | null): void {
    const choices = this.project.skeleton(id)?.choices;
    if (choices) this.putSkeleton(id, { choices: { ...choices, labels: labels && { ...labels } } });
  }

  /** Sets the limits of the production. */
  setLimits(limits: ProductionLimits, text: string): void {
    this.decide(text, undefined, 'limits', '', limits, this.project.state.rack.limits, (value) => this.putLimits(value));
  }

  private putLimits(limits: ProductionLimits): void {
    this.project.patchRack({ limits });
    const body = (base: number | null, fields: object) => ({ base: base ?? 0, limits: (fields as { limits: ProductionLimits }).limits });
    this.rows.save(
      'limits',
      { limits },
      {
        what: 'the limits of the production',
        request: (base, fields) => this.api.setLimits(body(base, fields)),
        leave: (base, fields) => this.api.leave('PUT', '/api/limits', body(base, fields)),
      },
    );
  }

  private decide<T>(
    text: string,
    key: string | undefined,
    kind: string,
    target: string,
    change: T,
    before: T,
    set: (value: T) => void,
  ): void {
    if (JSON.stringify(change) === JSON.stringify(before)) return;
    set(change);
    this.did(text, key && `${key} ${target}`, kind, target, before, change);
  }

  private did(text: string, key: string | undefined, kind: string, target: string, before: unknown, after: unknown): void {
    this.history.did({ text, key, edits: [{ kind, target, before, after }] });
  }
}

/** A measure that came with a recipe holds for the labels, unit, up axis and rest pose that it was made by, and no others. */
function remeasured({ choices }: SkeletonJson, change: SkeletonFields): SkeletonFields {
  const next = change.choices;
  if (!next?.reference || next.reference !== choices.reference) return change;
  const by = ({ labels, unit, up, rest, facing }: SkeletonJson['choices']): string => JSON.stringify([labels, unit, up, rest, facing]);
  return by(next) === by(choices) ? change : { ...change, choices: { ...next, reference: null } };
}

/** The values that something had before, of the parts that a change has. */
function pick<T extends object>(before: T, change: T): T {
  return Object.fromEntries(Object.keys(change).map((key) => [key, before[key as keyof T]])) as T;
}
