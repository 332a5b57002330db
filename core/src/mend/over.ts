import { ClipReader, type Clip } from '../clip';
import { SIDES } from '../label';
import { coverCurve, unbroken } from '../math/leastCurve';
import { soleHeight, type Rig } from '../rig';
import { withAncestors } from '../skeleton';
import { leadEnds, type Led } from './holds';
import { limbOf } from './limb';
import { Poser } from './poser';
/** How slowly the lift bends that keeps a foot over the floor, seconds. */
const RISE = 0.06;

/**
 * Raises feet that something laid over a motion takes into the floor, or deeper into it, by the least curve that is nowhere less than what is missing.
 * @param before the motion without it
 * @param floor height of the floor, metres
 * @param changed 1 in frames that differ
 */
export function keepOver(rig: Rig, before: Clip, after: Clip, floor: number, changed: Uint8Array): Clip {
  if (after === before) return after;
  const feet = SIDES.flatMap((side) => {
    const foot = rig.feet.find((one) => one.side === side);
    const limb = limbOf(rig, side, 'leg');
    return foot && limb ? [{ foot, limb, needs: new Float64Array(after.frames).fill(-Infinity) }] : [];
  });
  const joints = feet.map(({ limb }) => limb.end);
  const [was, is] = [before, after].map((clip) => new ClipReader(rig.skeleton, clip, withAncestors(rig.skeleton.parents, joints)));
  for (let f = 0; f < after.frames; f++) {
    if (!changed[f]) continue;
    const [then, now] = [was.at(f), is.at(f)];
    for (const { foot, needs } of feet) needs[f] = Math.min(floor, soleHeight(then, foot)) - soleHeight(now, foot);
  }
  const time = unbroken(after.frames, after.frameTime);
  const same = changed.map((one) => 1 - one);
  const led = feet.flatMap(({ limb, needs }): Led[] => {
    const lift = needs.some((need) => need > NOTHING) ? coverCurve(needs, RISE, time, same) : undefined;
    if (!lift) return [];
    const values = new Float64Array(after.frames * 6);
    lift.forEach((up, f) => (values[f * 6 + 1] = up));
    return [{ limb, isLeg: true, values, given: new Uint8Array(after.frames).fill(1) }];
  });
  return led.length === 0 ? after : leadEnds(new Poser(rig, after, joints), led, changed);
}

/** A foot that is in the floor by less than this is not, metres. */
const NOTHING = 1e-4;
