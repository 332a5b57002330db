import { ClipReader } from '../clip';
import { chain, SIDES, type RoleMap } from '../label';
import { gaussian } from '../math/filter';
import { turnLeft } from '../math/vec';
import { emptyPose, forward, withAncestors, type Pose } from '../skeleton';
import { placeBody } from './placeBody';
import type { Parts } from './parts';
import { shifted, type RootPath } from './root';

/** Faster motion of the weight is the swing of a limb, no loss of balance: standard deviation, seconds. */
const SLOW = 0.3;

/** A part of the body with its share of the whole mass, and where between two joints its middle lies. */
interface Part {
  readonly mass: number;
  readonly a: number;
  readonly b: number;
  readonly share: number;
}

/** Shares of mass and middles of segments after Winter, Biomechanics and Motor Control of Human Movement, table 4.1. */
function partsOf(roles: RoleMap): Part[] {
  const of = (mass: number, from: string, to: string, share: number): Part[] => {
    const [a, b] = [roles.get(from), roles.get(to)];
    return a === undefined || b === undefined ? [] : [{ mass, a, b, share }];
  };
  const top = chain(roles, 'neck')[0] ?? roles.get('head');
  const hips = roles.get('hips')!;
  return [
    ...(top === undefined ? [] : [{ mass: 0.497, a: hips, b: top, share: 0.5 }]),
    ...of(0.081, 'head', 'head', 0),
    ...SIDES.flatMap((side) => [
      ...of(0.028, `${side}.upperArm`, `${side}.lowerArm`, 0.436),
      ...of(0.022, `${side}.lowerArm`, `${side}.hand`, 0.682),
      ...of(0.1, `${side}.upperLeg`, `${side}.lowerLeg`, 0.433),
      ...of(0.0465, `${side}.lowerLeg`, `${side}.foot`, 0.433),
      ...of(0.0145, `${side}.foot`, `${side}.foot`, 0),
    ]),
  ];
}

/** Where the middle of a body's mass lies over the floor, seen from the middle of its hip joints; 2 numbers a frame. */
function weigh(out: Float64Array, f: number, { positions }: Pose, parts: readonly Part[], hips: readonly number[]): void {
  let mass = 0;
  let x = 0;
  let z = 0;
  for (let i = 0; i < parts.length; i++) {
    const { a, b, share, mass: partMass } = parts[i];
    mass += partMass;
    x += partMass * (positions[a * 3] + share * (positions[b * 3] - positions[a * 3]));
    z += partMass * (positions[a * 3 + 2] + share * (positions[b * 3 + 2] - positions[a * 3 + 2]));
  }
  out[f * 2] = x / mass - (positions[hips[0] * 3] + positions[hips[1] * 3]) / 2;
  out[f * 2 + 1] = z / mass - (positions[hips[0] * 3 + 2] + positions[hips[1] * 3 + 2]) / 2;
}

/**
 * Moves the hips over the floor so that the middle of the body's mass lies over its feet as the performer's does over its own, in
 * proportion: a large head or long arms lean a body over otherwise.
 * @param weight 0 leaves the hips where they are, 1 goes all the way
 * @param heading how far the body's way is turned to the left, radians, frame by frame
 */
export function balance(
  { pairing: { performer, character, scale }, plan, bearing, take, root }: Pick<Parts, 'pairing' | 'plan' | 'bearing' | 'take' | 'root'>,
  weight: number,
  heading?: Float64Array,
): RootPath {
  if (weight === 0) return root;
  const { frames, rotations, frameTime } = bearing;
  const sides = (roles: RoleMap): number[] => SIDES.map((side) => roles.get(`${side}.upperLeg`)!);
  const [theirParts, myParts] = [partsOf(performer.roles), partsOf(character.roles)];
  const [theirHips, myHips] = [sides(performer.roles), sides(character.roles)];
  const jointsOf = (parts: readonly Part[]): number[] => parts.flatMap(({ a, b }) => [a, b]);
  const reader = new ClipReader(performer.skeleton, take, withAncestors(performer.skeleton.parents, jointsOf(theirParts)));
  const { skeleton } = character;
  const { parents } = skeleton;
  const chain = withAncestors(parents, jointsOf(myParts));
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const theirs = new Float64Array(frames * 2);
  const mine = new Float64Array(frames * 2);
  const v = new Float64Array(3);
  for (let f = 0; f < frames; f++) {
    weigh(theirs, f, reader.at(f), theirParts, theirHips);
    v[0] = theirs[f * 2];
    v[2] = theirs[f * 2 + 1];
    if (heading) turnLeft(v, 0, heading[f]);
    placeBody(translations, { plan, root }, f);
    forward(pose, parents, translations, rotations, f * parents.length * 4, chain);
    weigh(mine, f, pose, myParts, myHips);
    mine[f * 2] = scale.stride * v[0] - mine[f * 2];
    mine[f * 2 + 1] = scale.stride * v[2] - mine[f * 2 + 1];
  }
  const slow = gaussian(mine, 2, SLOW / frameTime);
  const shift = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    shift[f * 3] = weight * slow[f * 2];
    shift[f * 3 + 2] = weight * slow[f * 2 + 1];
  }
  return shifted(root, shift);
}
