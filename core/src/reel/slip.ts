/** How far what a foot stands on goes over the floor from frame to frame. */
import { ClipReader, type Clip } from '../clip';
import { SIDES } from '../label';
import { smoothstep } from '../math/filter';
import { cos, sin } from '../math/trig';
import type { Foot, Rig } from '../rig';
import { pointInWorld, withAncestors, type Pose } from '../skeleton';
import type { Planar } from './planar';

/** Heel and ball that are as high as each other within so much bear the foot together, metres. */
const EVEN = 0.02;

/** Heel and ball of a foot, as far as each is the lower one. */
export class Slip {
  private readonly now = new Float64Array(6);
  private readonly before = new Float64Array(6);

  constructor(private readonly foot: Foot) {}

  /** Goes on to the next pose; the lowest of heel and ball. */
  note(pose: Pose): number {
    this.before.set(this.now);
    pointInWorld(this.now, 0, pose, this.foot.foot, this.foot.heel, 0);
    pointInWorld(this.now, 3, pose, this.foot.foot, this.foot.ball, 0);
    return Math.min(this.now[1], this.now[4]);
  }

  /** The way since the pose before. @param axis 0 for x, 2 for z */
  way(axis: 0 | 2): number {
    const { now, before } = this;
    const heel = smoothstep(0.5 + (now[4] - now[1]) / (2 * EVEN));
    return heel * (now[axis] - before[axis]) + (1 - heel) * (now[3 + axis] - before[3 + axis]);
  }
}

/** Ways of a foot, x and z for each frame since the one before. */
export type Ways = readonly [left: Float64Array, right: Float64Array];

/** Ways of both feet over a clip; none for a rig without feet. */
export function waysOf({ skeleton, feet }: Pick<Rig, 'skeleton' | 'feet'>, clip: Clip): Ways {
  const out = [new Float64Array(clip.frames * 2), new Float64Array(clip.frames * 2)] as const;
  if (feet.length === 0) return out;
  const asked = withAncestors(
    skeleton.parents,
    feet.map(({ foot }) => foot),
  );
  const reader = new ClipReader(skeleton, clip, asked);
  const slips = feet.map((foot) => new Slip(foot));
  for (let f = 0; f < clip.frames; f++) {
    const pose = reader.at(f);
    feet.forEach(({ side }, i) => {
      slips[i].note(pose);
      if (f === 0) return;
      const own = out[SIDES.indexOf(side)];
      own[f * 2] = slips[i].way(0);
      own[f * 2 + 1] = slips[i].way(2);
    });
  }
  return out;
}

/** Ways of a clip that is moved over the floor, by another move in each frame. */
export function turnedWays(ways: Ways, at: (frame: number) => Planar): Ways {
  return ways.map((own) => {
    const out = new Float64Array(own.length);
    for (let f = 0; f * 2 < own.length; f++) {
      const { yaw } = at(f);
      const [c, s] = [cos(yaw), sin(yaw)];
      out[f * 2] = c * own[f * 2] + s * own[f * 2 + 1];
      out[f * 2 + 1] = c * own[f * 2 + 1] - s * own[f * 2];
    }
    return out;
  }) as [Float64Array, Float64Array];
}

/** Ways of the same frames in another order; a jump back is the step behind the last. */
export function pickedWays(ways: Ways, order: readonly number[]): Ways {
  return ways.map((own) => {
    const out = new Float64Array(order.length * 2);
    for (let f = 1; f < order.length; f++) {
      const [from, to] = [order[f - 1], order[f]];
      if (from === to) continue;
      const [at, sign] = to === from - 1 ? [from, -1] : to === from + 1 ? [to, 1] : [own.length / 2 - 1, 1];
      for (let c = 0; c < 2; c++) out[f * 2 + c] = sign * own[at * 2 + c];
    }
    return out;
  }) as [Float64Array, Float64Array];
}

/** Ways from moment to moment of a clip that is played at another rate. @param times frames of the clip, rising */
export function retimedWays(ways: Ways, times: ArrayLike<number>): Ways {
  return ways.map((own) => {
    const out = new Float64Array(times.length * 2);
    for (let c = 0; c < 2; c++) {
      const sums = new Float64Array(own.length / 2);
      for (let f = 1; f < sums.length; f++) sums[f] = sums[f - 1] + own[f * 2 + c];
      const sumAt = (t: number): number => {
        const a = Math.min(sums.length - 1, Math.floor(t));
        const b = Math.min(sums.length - 1, a + 1);
        return sums[a] + (t - a) * (sums[b] - sums[a]);
      };
      for (let f = 1; f < times.length; f++) out[f * 2 + c] = sumAt(times[f]) - sumAt(times[f - 1]);
    }
    return out;
  }) as [Float64Array, Float64Array];
}
