import { unrotate } from '../math/quat';
import { PROBE_POINTS, type ProbePoint, type Points } from '../recipe';
import type { Pose } from '../skeleton';
import type { Bulk } from './bulk';
import type { Foot } from './feet';
import type { Hand } from './hands';
import type { Heading } from './heading';
import type { CarriedPoint } from './outermost';

/** Every point that is watched, where a body has it. */
export interface WatchedPoint {
  readonly name: ProbePoint;
  readonly joint: number;
  /** In the joint's frame, metres. */
  readonly local: Float64Array;
}

interface Parts {
  readonly feet: readonly Foot[];
  readonly hands: readonly Hand[];
  readonly bulk: readonly Bulk[];
}

/** Moves the points that a person moved: from where they were found, in metres to the body's left, up and ahead at rest. */
export function movePoints({ feet, hands, bulk }: Parts, points: Points, rest: Pose, { left, forward }: Heading): Parts {
  const moved = (name: ProbePoint, joint: number, local: Float64Array): Float64Array => {
    const by = points[name];
    if (!by) return local;
    const v = Float64Array.of(by[0] * left[0] + by[2] * forward[0], by[1], by[0] * left[2] + by[2] * forward[2]);
    unrotate(v, 0, rest.rotations, joint * 4, v, 0);
    return local.map((x, c) => x + v[c]);
  };
  const movedPoint = (name: ProbePoint, { joint, local, also }: CarriedPoint): CarriedPoint => ({
    joint,
    local: moved(name, joint, local),
    also: also.map((one) => ({ ...one, local: moved(name, one.joint, one.local) })),
  });
  return {
    feet: feet.map((foot) => ({
      ...foot,
      heel: moved(`${foot.side}.heel`, foot.foot, foot.heel),
      ball: moved(`${foot.side}.ball`, foot.foot, foot.ball),
      tip: moved(`${foot.side}.tip`, foot.toes >= 0 ? foot.toes : foot.foot, foot.tip),
    })),
    hands: hands.map((hand) => ({ ...hand, palm: moved(`${hand.side}.palm`, hand.hand, hand.palm) })),
    bulk: bulk.map((one) => ({ ...one, skin: one.skin.map((point) => movedPoint(one.part, point)) })),
  };
}

/** The points that are watched on a body, to be shown. Of knees, seat, back and head it is the middle of their skin. */
export function watchedPoints({ feet, hands, bulk }: Parts): WatchedPoint[] {
  const of = new Map<ProbePoint, WatchedPoint>();
  const add = (name: ProbePoint, joint: number, local: Float64Array): void => void of.set(name, { name, joint, local });
  for (const { side, foot, toes, heel, ball, tip } of feet) {
    add(`${side}.heel`, foot, heel);
    add(`${side}.ball`, foot, ball);
    add(`${side}.tip`, toes >= 0 ? toes : foot, tip);
  }
  for (const { side, hand, palm } of hands) add(`${side}.palm`, hand, palm);
  for (const { part, middle, skin } of bulk) {
    const joint = skin[0]?.joint ?? middle[0];
    const own = skin.filter((point) => point.joint === joint);
    const local = new Float64Array(3);
    for (const point of own) for (let c = 0; c < 3; c++) local[c] += point.local[c] / own.length;
    add(part, joint, local);
  }
  return PROBE_POINTS.flatMap((name) => of.get(name) ?? []);
}
