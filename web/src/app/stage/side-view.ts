import { type Scene, type Vector3 } from 'three';
import { ClipReader, type Clip } from '@hollow-stride/core';
import type { DisplayBody, Incline } from '../solver/messages';
import type { Floor } from './floor';
import type { MeshFigure } from './mesh-figure';
import { Overlays } from './overlays';
import { makeScene } from './scenery';
import { HollowSkeleton, type SkeletonFigure } from './skeleton-figure';

const GHOST = '#8C8677';

/** One side of the stage: a figure on its floor. */
export interface SideView {
  readonly scene: Scene;
  readonly floor: Floor;
  skeleton: SkeletonFigure | undefined;
  mesh: MeshFigure | undefined;
  reader: ClipReader | undefined;
  before: ClipReader | undefined;
  /** The motion as it was before it was changed by hand. */
  ghost: { readonly skeleton: SkeletonFigure; readonly reader: ClipReader } | undefined;
  readonly overlays: Overlays;
  floorHeight: number;
  incline: Incline | undefined;
}

/** An empty side. */
export function makeSide(colour: string): SideView {
  const made = makeScene();
  return {
    ...made,
    overlays: new Overlays(made.scene, colour),
    skeleton: undefined,
    mesh: undefined,
    reader: undefined,
    before: undefined,
    ghost: undefined,
    floorHeight: 0,
    incline: undefined,
  };
}

/** Lets all go that is drawn on a side; its floor stays. */
export function clearSide(side: SideView): void {
  side.ghost?.skeleton.dispose();
  side.overlays.dispose();
  side.ghost = undefined;
  side.skeleton?.dispose();
  side.mesh?.dispose();
  side.skeleton = side.mesh = side.reader = side.before = undefined;
}

/** Lets a clip be shown behind what a side shows, as a ghost; undefined for none. @returns false where it is so already */
export function haunt(side: SideView, body: DisplayBody | undefined, clip: Clip | undefined): boolean {
  if (side.ghost?.reader.clip === clip) return false;
  if (side.ghost) {
    side.scene.remove(side.ghost.skeleton.group);
    side.ghost.skeleton.dispose();
    side.ghost = undefined;
  }
  if (clip && body) {
    const skeleton = new HollowSkeleton(body, GHOST);
    side.ghost = { skeleton, reader: new ClipReader(body.skeleton, clip) };
    side.scene.add(skeleton.group);
  }
  return true;
}

/** Where the hips of a clip are in its first frame: it is asked for with every frame that is drawn. */
const firsts = new WeakMap<Clip, Float64Array>();

/** Where the hips are in the first frame, for a view that stays. */
export function firstHips({ reader }: SideView, body: DisplayBody | undefined, out: Vector3): Vector3 {
  if (!reader || !body) return out.set(0, 0, 0);
  let first = firsts.get(reader.clip);
  if (!first) {
    first = new ClipReader(reader.skeleton, reader.clip).at(0).positions.slice(body.hips * 3, body.hips * 3 + 3);
    firsts.set(reader.clip, first);
  }
  return out.fromArray(first);
}
