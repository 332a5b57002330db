import { FINGERS, shinEnd, SIDES } from '../../label';
import { acos } from '../../math/trig';
import { rotate, unrotate } from '../../math/quat';
import { dot, normalize, sub, turnLeft } from '../../math/vec';
import { unlikeLegs, type Rig } from '../../rig';
import type { Pose } from '../../skeleton';
import { direction } from './motion';

/** Parts of the body whose directions are compared. */
export type Part = 'arms' | 'legs' | 'trunk' | 'head' | 'hands';

/** A direction on one body: from joint to joint, or one that a joint carries with it. */
type Aim = { readonly from: number; readonly to: number } | { readonly joint: number; readonly local: Float64Array };

interface Pair {
  readonly name: string;
  readonly part: Part;
  readonly mine: Aim;
  readonly theirs: Aim;
}

/** One direction of both bodies over the take. */
export interface Direction {
  /** For people: "left upper arm". */
  readonly name: string;
  readonly part: Part;
  /** Unit vectors in the world, frames × 3; the performer's as the character is sent. */
  readonly mine: Float32Array;
  readonly theirs: Float32Array;
}

/** The uppermost joint of the spine. */
export function lastSpine({ roles }: Rig): number | undefined {
  let last: number | undefined;
  for (let i = 1; roles.has(`spine.${i}`); i++) last = roles.get(`spine.${i}`);
  return last;
}

const UP = Float64Array.of(0, 1, 0);

/** A direction of the world at rest, as a joint carries it with it. */
function aimOf({ restPose }: Rig, joint: number, world: Float64Array): Aim {
  const local = new Float64Array(3);
  unrotate(local, 0, restPose.rotations, joint * 4, world, 0);
  return { joint, local };
}

/** Directions that both bodies have: bones of the limbs, ahead and up of chest and head, along and across the hands. */
function pairsOf(performer: Rig, character: Rig): Pair[] {
  const whole = unlikeLegs(performer, character);
  const pairs: Pair[] = [];
  const bone = (
    name: string,
    part: Part,
    [from, to]: readonly [string, string],
    [otherFrom, otherTo]: readonly [string, string] = [from, to],
  ): void => {
    const [a, b] = [character.roles.get(from), character.roles.get(to)];
    const [c, d] = [performer.roles.get(otherFrom), performer.roles.get(otherTo)];
    if (a === undefined || b === undefined || c === undefined || d === undefined) return;
    pairs.push({ name, part, mine: { from: a, to: b }, theirs: { from: c, to: d } });
  };
  const carried = (name: string, part: Part, mine: number | undefined, theirs: number | undefined): void => {
    if (mine === undefined || theirs === undefined) return;
    pairs.push({ name, part, mine: aimOf(character, mine, character.forward), theirs: aimOf(performer, theirs, performer.forward) });
    pairs.push({ name: `${name}, up`, part, mine: aimOf(character, mine, UP), theirs: aimOf(performer, theirs, UP) });
  };
  for (const side of SIDES) {
    const of = (role: string): string => `${side}.${role}`;
    bone(`${side} upper arm`, 'arms', [of('upperArm'), of('lowerArm')]);
    bone(`${side} forearm`, 'arms', [of('lowerArm'), of('hand')]);
    if (whole) bone(`${side} leg`, 'legs', [of('upperLeg'), of('foot')]);
    else {
      bone(`${side} thigh`, 'legs', [of('upperLeg'), of('lowerLeg')]);
      const end = ({ roles }: Rig): string => of(shinEnd(roles, side));
      bone(`${side} shin`, 'legs', [of('lowerLeg'), end(character)], [of('lowerLeg'), end(performer)]);
    }
    const [hand, other] = [handAims(character, side), handAims(performer, side)];
    for (const [i, axis] of ['', ', across'].entries()) {
      if (hand && other) pairs.push({ name: `${side} hand${axis}`, part: 'hands', mine: hand[i], theirs: other[i] });
    }
  }
  const [mine, theirs] = [lastSpine(character), lastSpine(performer)];
  if (performer.isRestClean && character.isRestClean) carried('chest', 'trunk', mine, theirs);
  else {
    // Who does not stand upright at rest shows by its bones where its chest points.
    bone('shoulders', 'trunk', ['right.upperArm', 'left.upperArm']);
    const above = ({ roles }: Rig): number | undefined => roles.get('neck.1') ?? roles.get('head');
    const [a, b] = [above(character), above(performer)];
    if (mine !== undefined && theirs !== undefined && a !== undefined && b !== undefined)
      pairs.push({ name: 'chest, up', part: 'trunk', mine: { from: mine, to: a }, theirs: { from: theirs, to: b } });
  }
  carried('head', 'head', character.roles.get('head'), performer.roles.get('head'));
  return pairs;
}

/**
 * Along a hand and across it, as the hand carries them: at rest it goes on along the forearm, and its thumb's edge looks ahead, whether
 * arms are spread or hang.
 */
function handAims(rig: Rig, side: string): readonly [Aim, Aim] | undefined {
  const { roles, restPose, forward } = rig;
  const [arm, joint] = [roles.get(`${side}.lowerArm`), roles.get(`${side}.hand`)];
  if (arm === undefined || joint === undefined) return undefined;
  const along = new Float64Array(3);
  sub(along, 0, restPose.positions, joint * 3, restPose.positions, arm * 3);
  normalize(along, 0);
  const ahead = dot(along, 0, forward, 0);
  const across = forward.map((v, c) => v - ahead * along[c]);
  normalize(across, 0);
  return [aimOf(rig, joint, along), aimOf(rig, joint, across)];
}

function aimAt(out: Float64Array, aim: Aim, { positions, rotations }: Pose): void {
  if ('joint' in aim) {
    rotate(out, 0, rotations, aim.joint * 4, aim.local, 0);
    return;
  }
  direction(out, positions, aim.from, aim.to);
}

/** Collects the directions of both bodies, a frame at a time. */
export class DirectionWatch {
  readonly directions: readonly Direction[];
  private readonly pairs: readonly Pair[];
  private readonly v = new Float64Array(3);

  /** @param heading how far the body is sent another way, radians, a frame each */
  constructor(
    performer: Rig,
    character: Rig,
    frames: number,
    private readonly heading: Float64Array | undefined,
  ) {
    this.pairs = pairsOf(performer, character);
    this.directions = this.pairs.map(({ name, part }) => ({
      name,
      part,
      mine: new Float32Array(frames * 3),
      theirs: new Float32Array(frames * 3),
    }));
  }

  see(frame: number, mine: Pose, theirs: Pose): void {
    const { v, pairs, directions, heading } = this;
    for (let i = 0; i < pairs.length; i++) {
      aimAt(v, pairs[i].mine, mine);
      for (let c = 0; c < 3; c++) directions[i].mine[frame * 3 + c] = v[c];
      aimAt(v, pairs[i].theirs, theirs);
      if (heading) turnLeft(v, 0, heading[frame]);
      for (let c = 0; c < 3; c++) directions[i].theirs[frame * 3 + c] = v[c];
    }
  }
}

/** Angle between the two bodies' directions in each frame, radians. */
export function offOf({ mine, theirs }: Pick<Direction, 'mine' | 'theirs'>): Float64Array {
  const out = new Float64Array(mine.length / 3);
  for (let f = 0, o = 0; f < out.length; f++, o += 3)
    out[f] = acos(mine[o] * theirs[o] + mine[o + 1] * theirs[o + 1] + mine[o + 2] * theirs[o + 2]);
  return out;
}

/** A finger that both hands have: three joints each, seen from the wrist. */
interface Finger {
  readonly name: string;
  readonly mine: readonly [hand: number, first: number, second: number, third: number];
  readonly theirs: Finger['mine'];
}

/** Fingers that both bodies have, thumbs apart: these fold across the palm. */
export function sharedFingers(performer: Rig, character: Rig): Finger[] {
  const of = ({ roles }: Rig, side: string, finger: string): Finger['mine'] | undefined => {
    const joints = [`${side}.hand`, ...[1, 2, 3].map((k) => `${side}.${finger}.${k}`)].map((role) => roles.get(role));
    return joints.every((joint) => joint !== undefined) ? (joints as unknown as Finger['mine']) : undefined;
  };
  return SIDES.flatMap((side) =>
    FINGERS.filter((finger) => finger !== 'thumb').flatMap((finger): Finger[] => {
      const [mine, theirs] = [of(character, side, finger), of(performer, side, finger)];
      return mine && theirs ? [{ name: `${side} ${finger} finger`, mine, theirs }] : [];
    }),
  );
}

/** How far a finger is bent from the back of the hand to its second bone, radians. */
export function curlOf({ positions: p }: Pose, [hand, first, second, third]: Finger['mine']): number {
  let dot = 0;
  let a = 0;
  let b = 0;
  for (let c = 0; c < 3; c++) {
    const u = p[first * 3 + c] - p[hand * 3 + c];
    const v = p[third * 3 + c] - p[second * 3 + c];
    dot += u * v;
    a += u * u;
    b += v * v;
  }
  const n = Math.sqrt(a * b);
  return n < 1e-12 ? 0 : acos(dot / n);
}
