import { median, percentile } from '../../math/filter';
import { between, mul, rotate } from '../../math/quat';
import type { Pose } from '../../skeleton';
import type { Case } from '../case';
import type { Standing } from './holding';

/** The turns that lay a sloping floor level, under the character and under the performer. */
export interface Tilts {
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
}

/** @returns undefined for a level floor, and where the body is sent another way than the slope goes */
export function tiltsOf({ slope, scale, heading }: Case): Tilts | undefined {
  if (!slope || heading) return undefined;
  const tilt = (share: number): Float64Array => {
    const out = new Float64Array(4);
    between(out, 0, Float64Array.of(-slope.x * share, 1, -slope.z * share), 0, Float64Array.of(0, 1, 0), 0);
    return out;
  };
  return { mine: tilt(scale.lift / scale.stride), theirs: tilt(1) };
}

const turned = new Float64Array(3);

/** Height of a place once the floor is laid level. */
export function heightOver(places: ArrayLike<number>, o: number, tilt: Float64Array): number {
  turned[0] = places[o];
  turned[1] = places[o + 1];
  turned[2] = places[o + 2];
  rotate(turned, 0, tilt, 0, turned, 0);
  return turned[1];
}

/** A pose as it is when its floor is laid level. */
export function levelled(out: Pose, { positions, rotations }: Pose, tilt: Float64Array): Pose {
  for (let i = 0, q = 0; i < positions.length; i += 3, q += 4) {
    rotate(out.positions, i, tilt, 0, positions, i);
    mul(out.rotations, q, tilt, 0, rotations, q);
  }
  return out;
}

/**
 * Heights of a sloping floor once it is laid level: the lowest of the feet's rests under the performer, and where these are on the
 * character's way, which may be elsewhere over the floor but not higher or lower. Not a number where no foot rests.
 */
export function levelFloors(rests: readonly Standing[], tilts: Tilts, { scale, raised }: Case): { mine: number; theirs: number } {
  const feet = rests.filter(({ kind }) => kind === 'feet');
  const [dx, dz] = [0, 2].map((c) => median(Float64Array.from(feet, ({ mine, theirs }) => mine[c] - theirs[c] * scale.stride)));
  const low = (heights: number[]): number => percentile(heights, 0.1);
  return {
    mine: low(
      feet.map(({ theirs: [x, y, z] }) =>
        heightOver([x * scale.stride + dx, y * scale.lift + raised, z * scale.stride + dz], 0, tilts.mine),
      ),
    ),
    theirs: low(feet.map(({ theirs }) => heightOver(theirs, 0, tilts.theirs))),
  };
}
