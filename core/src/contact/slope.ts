import { median, percentile } from '../math/filter';
import { overPlane, planeThrough, type Plane } from '../math/plane';
import { atan2, cos, DEG, sin } from '../math/trig';
import type { Detection } from '../recipe';
import type { Side } from '../label';

/** Metres that a floor rises per metre along X and Z. */
export interface Slope {
  readonly x: number;
  readonly z: number;
}

/** A floor that slopes: its height at (x, z) is that of the floor + x · slope.x + z · slope.z − low. */
export interface Ground extends Slope {
  /** Percentile of foot heights that is the floor. */
  readonly low: number;
  /** How high the ground under a probe is over the floor, frame by frame. */
  readonly under: ReadonlyMap<`${Side}.${'heel' | 'ball'}`, Float64Array>;
  /** The body is steered another way than the slope goes. */
  readonly isSteered?: boolean;
}

/** Where a plant was found to rest, metres. */
export interface Rest {
  readonly side: Side;
  readonly part: 'heel' | 'ball';
  readonly first: number;
  readonly last: number;
  readonly place: Float64Array;
}

/** Conditions for rests to count as a slope: in leg lengths, or shares. */
const FOUND = {
  /** Rests on one plane, and of them with heel and ball on it. */
  rests: 6,
  soles: 2,
  /** From the lowest to the highest, along the floor. */
  spread: 0.8,
  /** How far off a place may be. */
  unsure: 0.03,
  /** How far from the plane they lie, usually and at most; what lies farther stands on something else. */
  near: 0.018,
  far: 0.05,
  /** How many of all rests lie on it. */
  share: 0.8,
  /** Rise per metre. */
  rise: [0.035, 0.8],
  /** How far the soles' own rise may be from that of the plane. */
  sole: 0.4,
} as const;

/** @returns undefined for a floor that is level, or is to be found */
export function slopeOf({ slope }: Detection): Slope | undefined {
  if (!slope || slope.degrees === 0) return undefined;
  const rise = sin(slope.degrees * DEG) / cos(slope.degrees * DEG);
  return { x: rise * sin(slope.toward * DEG), z: rise * cos(slope.toward * DEG) };
}

/** A slope in degrees, uphill toward a heading, as a person sets it. */
export function slopeInDegrees({ x, z }: Slope): { degrees: number; toward: number } {
  return { degrees: atan2(Math.sqrt(x * x + z * z), 1) / DEG, toward: atan2(x, z) / DEG };
}

/**
 * The slope that the rests of the feet lie on: the plane of least squares through them, rests that lie off it left out. Stairs are
 * none: on each of their treads the sole lies level.
 * @param leg length of the performer's leg, metres
 * @returns undefined where they lie on a level floor, on steps, or too close together to tell
 */
export function findSlope(rests: readonly Rest[], leg: number): Slope | undefined {
  const fit = (list: readonly Rest[]): Plane =>
    planeThrough(
      list.map(({ place }) => place),
      FOUND.unsure * leg,
    );
  let kept = rests;
  let plane = fit(kept);
  for (let round = 0; round < 3; round++) {
    const near = kept.filter(({ place }) => Math.abs(overPlane(plane, place)) < FOUND.far * leg);
    if (near.length === kept.length) break;
    kept = near;
    plane = fit(kept);
  }
  const { x, z } = plane;
  const rise = Math.sqrt(x * x + z * z);
  if (kept.length < FOUND.rests || kept.length < FOUND.share * rests.length || rise < FOUND.rise[0] || rise > FOUND.rise[1])
    return undefined;
  const along = kept.map(({ place }) => (place[0] * x + place[2] * z) / rise);
  if (Math.max(...along) - Math.min(...along) < FOUND.spread * leg) return undefined;
  const away = kept.map(({ place }) => Math.abs(overPlane(plane, place)));
  if (percentile(Float64Array.from(away), 0.7) > FOUND.near * leg) return undefined;
  const soles = solesOf(kept).map(([heel, ball]) => {
    const [dx, dz] = [ball[0] - heel[0], ball[2] - heel[2]];
    return (ball[1] - heel[1] - dx * x - dz * z) / (rise * Math.sqrt(dx * dx + dz * dz));
  });
  if (soles.length < FOUND.soles || Math.abs(median(Float64Array.from(soles))) > FOUND.sole) return undefined;
  return { x, z };
}

/** Where heel and ball of one foot rest at the same time. */
function solesOf(rests: readonly Rest[]): [heel: Float64Array, ball: Float64Array][] {
  return rests.flatMap((heel) =>
    heel.part === 'ball'
      ? []
      : rests
          .filter((ball) => ball.part === 'ball' && ball.side === heel.side && ball.first <= heel.last && ball.last >= heel.first)
          .map((ball): [Float64Array, Float64Array] => [heel.place, ball.place]),
  );
}
