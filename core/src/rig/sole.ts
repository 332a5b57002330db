import { unrotate } from '../math/quat';
import { pointInWorld, type Pose } from '../skeleton';
import type { Foot } from './feet';
import type { Rig } from './rig';

const point = new Float64Array(3);

/** How low a foot's heel and ball are, metres: the lower of the two. */
export function soleHeight(pose: Pose, { foot, heel, ball }: Foot): number {
  pointInWorld(point, 0, pose, foot, heel, 0);
  const height = point[1];
  pointInWorld(point, 0, pose, foot, ball, 0);
  return Math.min(height, point[1]);
}

/** A body whose soles lie at another depth than was taken for it. @param depth below the lowest joint of the feet, metres */
export function withSole(body: Rig, depth: number): Rig {
  const by = depth - body.sole.depth;
  if (by === 0) return body;
  const { rotations } = body.restPose;
  const lowered = (at: Float64Array, joint: number): Float64Array => {
    const down = Float64Array.of(0, -by, 0);
    unrotate(down, 0, rotations, joint * 4, down, 0);
    return at.map((x, c) => x + down[c]);
  };
  return {
    ...body,
    legLength: body.legLength + by,
    sole: { ...body.sole, depth },
    feet: body.feet.map((one) => ({
      ...one,
      heel: lowered(one.heel, one.foot),
      ball: lowered(one.ball, one.foot),
      tip: lowered(one.tip, one.toes >= 0 ? one.toes : one.foot),
      ankleHeight: one.ankleHeight + by,
    })),
  };
}
