import type { Group, Scene } from 'three';
import type { Clip, Pose } from '@hollow-stride/core';
import type { FloorPlan } from '../solver/floor-plan';
import type { DisplayBody } from '../solver/messages';
import { Footprints } from './footprints';
import type { StageOptions } from './options';
import { PointMarks } from './point-marks';
import { Rooms } from './rooms';
import { Trails } from './trails';

/** A motion as its overlays need it. */
export interface Overlaid {
  readonly body: DisplayBody;
  readonly clip: Clip;
  readonly plan: FloorPlan;
  /** Height of the body's floor, and by what its plan is larger than it. */
  readonly floor: number;
  readonly planScale: number;
}

const KINDS = ['trails', 'prints', 'rooms', 'points'] as const;
type Kind = (typeof KINDS)[number];
interface Overlay {
  readonly group: Group;
  readonly pose?: (pose: Pose) => void;
  readonly dispose: () => void;
}

/** Trails, footprints, rooms and watched points of one body: each made when it is asked for, and anew when what it shows is another. */
export class Overlays {
  private readonly shown = new Map<Kind, { readonly of: readonly unknown[]; readonly figure: Overlay }>();

  constructor(
    private readonly scene: Scene,
    private readonly colour: string,
  ) {}

  update(options: StageOptions, now: Overlaid | undefined): void {
    for (const kind of KINDS) {
      const of = now && options[kind] ? needsOf(kind, now) : undefined;
      const kept = this.shown.get(kind);
      if (kept && of && kept.of.every((part, i) => part === of[i])) continue;
      kept?.figure.dispose();
      this.shown.delete(kind);
      if (!of || !now) continue;
      const figure = this.make(kind, now);
      this.scene.add(figure.group);
      this.shown.set(kind, { of, figure });
    }
  }

  pose(pose: Pose): void {
    for (const { figure } of this.shown.values()) figure.pose?.(pose);
  }

  /** Draws all of it at another scale. */
  scale(x: number, y: number, z: number): void {
    for (const { figure } of this.shown.values()) figure.group.scale.set(x, y, z);
  }

  dispose(): void {
    for (const { figure } of this.shown.values()) figure.dispose();
    this.shown.clear();
  }

  private make(kind: Kind, { body, clip, plan, floor, planScale }: Overlaid): Overlay {
    switch (kind) {
      case 'trails':
        return new Trails(body, clip, this.colour);
      case 'prints':
        return new Footprints(plan, this.colour, floor, planScale);
      case 'rooms':
        return new Rooms(body, this.colour);
      case 'points':
        return new PointMarks(body, this.colour);
    }
  }
}

/** Inputs of an overlay: while they are the same, the overlay is kept. */
function needsOf(kind: Kind, { body, clip, plan }: Overlaid): readonly unknown[] {
  return kind === 'trails' ? [body, clip] : kind === 'prints' ? [plan] : [body];
}
