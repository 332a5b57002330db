import { acos, asin } from '../../math/trig';
import { cross, dot, normalize } from '../../math/vec';
import type { CopiedEnd } from './copied';
import { offOf, type Direction } from './directions';

/** An ankle that is no higher over the performer's floor than this share of a leg is where the floor has it. */
const LOW = 0.2;
/** A knee that is out of the line from hip to ankle by less than this, in metres, bends nowhere. */
const STRAIGHT = 1e-6;

/** Directions of thigh and shin, as both bodies have them. */
type Bones = readonly [Pick<Direction, 'mine' | 'theirs'>, Pick<Direction, 'mine' | 'theirs'>];

/**
 * How far the thigh and the shin of a leg are off, radians, one a frame each: from the performer's directions, or, where the ankle is low, from the nearest
 * between these and those with which the character's own bones reach from the hip to where the performer's ankle is, scaled, the knee bending where
 * the performer's does (law of cosines). Of a body that sits or squats with a shin unlike the performer's no pose has both its directions and its feet on the floor. Nothing of
 * the character's own pose goes into it.
 * @param bones lengths of thigh and shin, metres
 * @param scale of ways over the floor, and of heights
 * @param isLow whether the floor has the performer's ankle where it is in a frame
 */
export function offBeyond(
  [thigh, shin]: Bones,
  { mine: [a, b], theirs: [c, d] }: CopiedEnd['bones'],
  scale: { readonly stride: number; readonly lift: number },
  isLow: (frame: number) => boolean,
): readonly [Float64Array, Float64Array] {
  const off = [offOf(thigh), offOf(shin)] as const;
  const factors = [scale.stride, scale.lift, scale.stride];
  const way = new Float64Array(3);
  const knee = new Float64Array(3);
  const [upper, lower] = [new Float64Array(3), new Float64Array(3)];
  for (let f = 0; f < off[0].length; f++) {
    if (!isLow(f)) continue;
    const o = f * 3;
    for (let k = 0; k < 3; k++) way[k] = (c * thigh.theirs[o + k] + d * shin.theirs[o + k]) * factors[k];
    const apart = Math.max(Math.abs(a - b), Math.min(a + b, normalize(way, 0)));
    for (let k = 0; k < 3; k++) knee[k] = thigh.theirs[o + k];
    const along = dot(knee, 0, way, 0);
    for (let k = 0; k < 3; k++) knee[k] -= along * way[k];
    if (apart < STRAIGHT || normalize(knee, 0) < STRAIGHT) continue;
    const ahead = (a * a + apart * apart - b * b) / (2 * a * apart);
    const aside = Math.sqrt(Math.max(0, 1 - ahead * ahead));
    for (let k = 0; k < 3; k++) {
      upper[k] = ahead * way[k] + aside * knee[k];
      lower[k] = (apart * way[k] - a * upper[k]) / b;
    }
    off[0][f] = toArc(thigh, o, upper);
    off[1][f] = toArc(shin, o, lower);
  }
  return off;
}

/** True for an ankle so high over the performer's floor, metres. @param leg length of the performer's, metres */
export function isLowAnkle(high: number, leg: number): boolean {
  return high < LOW * leg;
}

const across = new Float64Array(3);
const beside = new Float64Array(3);

/** Angle from the character's direction to the nearest between the performer's and another, on the arc that joins them. */
function toArc({ mine, theirs }: Bones[0], o: number, other: Float64Array): number {
  cross(across, 0, theirs, o, other, 0);
  if (normalize(across, 0) > 0) {
    cross(beside, 0, theirs, o, mine, o);
    const isBehind = dot(beside, 0, across, 0) > 0;
    cross(beside, 0, mine, o, other, 0);
    if (isBehind && dot(beside, 0, across, 0) > 0) return Math.abs(asin(dot(across, 0, mine, o)));
  }
  return acos(Math.max(dot(mine, o, theirs, o), dot(mine, o, other, 0)));
}
