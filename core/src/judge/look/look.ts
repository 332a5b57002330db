import { ClipReader } from '../../clip';
import type { Role } from '../../label';
import { emptyPose, withAncestors } from '../../skeleton';
import type { Case } from '../case';
import { BendWatch } from './bends';
import { CopyWatch, type CopiedEnd } from './copied';
import { CrossingWatch } from './crossings';
import { SkinWatch, type Deepest } from './deepest';
import { DirectionWatch, type Direction } from './directions';
import { HipWatch } from './hips';
import type { Jerk } from './jerks';
import { PointWatch } from './places';
import type { BodyPoint } from './points';
import { SegmentWatch } from './segments';
import type { Skin, SkinPart } from './skin';
import { levelled, type Tilts } from './slope';
import { TurnWatch } from './turns';
import { TwistWatch } from './twist';

/** Series collected in one pass over all frames; a number a frame. */
export interface Look {
  readonly frames: number;
  readonly points: readonly BodyPoint[];
  /** Places of the points, frames × points × 3. */
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
  readonly roles: readonly Role[];
  /** Turn of each shared joint from the frame before, radians, frames × roles. */
  readonly myTurns: Float32Array;
  readonly theirTurns: Float32Array;
  readonly jerks: ReadonlyMap<string, Jerk>;
  /** Lowest of the skin, over a floor that is laid level by the tilts. */
  readonly deepest: Readonly<Record<SkinPart, Deepest>>;
  /** Deepest of the performer's own points, and the same over a floor that is laid level. */
  readonly performerDeepest: number;
  readonly performerLowest: number;
  readonly tilts: Tilts | undefined;
  /** Mean angle between like segments over the frames that were compared, radians, by role. */
  readonly angles: ReadonlyMap<Role, number>;
  readonly compared: number;
  /** Directions of both bodies, every frame. */
  readonly directions: readonly Direction[];
  /** Middle of the hip joints, frames × 3; the performer's scaled, on its own path. */
  readonly hips: { readonly mine: Float64Array; readonly theirs: Float64Array };
  /** Mean difference of each finger's bend over the frames that were compared, radians. */
  readonly curls: ReadonlyMap<string, number>;
  /** Ends of the limbs, and where the performer's directions put them. */
  readonly copied: readonly CopiedEnd[];
  readonly crossings: Pick<CrossingWatch, 'found' | 'frames' | 'touching'>;
  /** Frames in which the skin was looked at. */
  readonly skinFrames: number;
  /** Sums of squares between unit directions seen from the body, and between those and the mirror image's. */
  readonly apart: { readonly straight: number; readonly mirrored: number };
  readonly twist: { readonly degrees: number; readonly joint: number; readonly frame: number };
  readonly stretched: { readonly frames: number; readonly first: number; readonly limb: string };
}

/** Frames in which segments are compared, about: a mean over every few frames is the mean. */
const COMPARED = 300;
/** Limbs are held against each other, and skin and twist are looked at, so often a second: neither changes its depth sooner; knees may. */
const CROSSINGS = 30;
const SKINS = 60;
/** Skin is looked at where it is no higher than this over the lowest of the watched points, metres. */
const NEAR = 0.02;

/** Every so many frames, to look so often a second. */
const everyOf = (often: number, frameTime: number): number => Math.max(1, Math.round(1 / often / frameTime));

/** Goes over all frames once, with one pose of each body a frame. */
export function look(given: Case, skin: Skin): Look {
  const { performer, character, take, result, heading } = given;
  const { frames, frameTime } = result;
  const points = new PointWatch(given);
  const bends = new BendWatch(performer, character, frames);
  const turns = new TurnWatch(performer, character, frames);
  const hips = new HipWatch(given);
  const segments = new SegmentWatch(given);
  const directions = new DirectionWatch(performer, character, frames, heading);
  const copies = new CopyWatch(given);
  const crossings = new CrossingWatch(given);
  const twist = new TwistWatch(given);
  const skins = new SkinWatch(skin);
  const level = emptyPose(character.skeleton);
  const every = Math.max(1, Math.floor(frames / COMPARED));
  const [rarely, seldom] = [everyOf(SKINS, frameTime), everyOf(CROSSINGS, frameTime)];
  // Joints without a part in the body are posed only where the skin is looked at.
  const source = new ClipReader(performer.skeleton, take, withAncestors(performer.skeleton.parents, performer.roles.values()));
  const reader = new ClipReader(character.skeleton, result, withAncestors(character.skeleton.parents, character.roles.values()));
  const whole = new ClipReader(character.skeleton, result);
  const always = [points, turns, bends, hips, directions, copies];
  for (let f = 0; f < frames; f++) {
    const theirs = source.at(f);
    const mine = f % rarely === 0 ? whole.at(f) : reader.at(f);
    for (let w = 0; w < always.length; w++) always[w].see(f, mine, theirs);
    if (f % every === 0) segments.see(f, mine, theirs);
    if (f % seldom === 0) crossings.see(f, mine, theirs);
    if (f % rarely !== 0) continue;
    twist.see(f);
    skins.see(f, points.tilts ? levelled(level, mine, points.tilts.mine) : mine, points.lowestAt(f) + NEAR);
  }
  const { straight, mirrored } = segments.apart;
  return {
    frames,
    points: points.points,
    mine: points.mine,
    theirs: points.theirs,
    roles: turns.roles,
    myTurns: turns.mine,
    theirTurns: turns.theirs,
    jerks: new Map([...bends.jerks, ...turns.jerks, ['hips', hips.jerk]]),
    deepest: skins.deepest,
    performerDeepest: points.performerDeepest,
    performerLowest: points.performerLowest(rarely),
    tilts: points.tilts,
    angles: segments.angles,
    compared: segments.compared,
    directions: directions.directions,
    hips: hips.places,
    curls: segments.curls,
    crossings,
    copied: copies.ends,
    skinFrames: Math.ceil(frames / rarely),
    apart: { straight, mirrored },
    twist: twist.twist,
    stretched: bends.stretched,
  };
}
