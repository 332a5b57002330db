import { slerp } from '../../math/quat';
import type { FootPath } from '../footPath';
import { bendToes, goOnToes } from '../toes';
import { underFoot, type UnderFoot } from '../underFoot';
import { airOf } from './air';
import { breaksOf } from './breaks';
import { clearFloor } from './clear';
import type { Time } from '../../math/leastCurve';
import { withBetween } from '../../math/rate';
import { holdFoot, type FootHold } from './foot';
import { halved, isHalvedFirst, type Rate } from './rate';
import type { ResolveGiven } from './given';
import { settle, type Settled } from './settle';

export interface Resolved {
  readonly paths: readonly FootPath[];
  /** Displacement of the hips, metres, 3 per frame. */
  readonly hips: Float64Array;
  /** How much higher than copied each foot comes to its last stance, metres. */
  readonly landed: readonly number[];
}

/**
 * Feet and hips at once: the least displacement of both from the copied motion that holds what is held, keeps limbs in reach, and that
 * knees do not feel. Reach is a limit, found round by round; stances that stay out of reach give way. All this is found at a low rate first, and
 * from there at the take's own, where little is left to find.
 */
export function resolveFeet(given: ResolveGiven): Resolved {
  const { legs, feet, plans, floor, isSloped, slope, frameTime, follow, rise, resting, isOwn, past } = given;
  const from = past?.frames ?? 0;
  const { frames } = legs[0];
  const time: Time = { frameTime, breaks: breaksOf(legs, frameTime) };
  const holds = legs.map((leg, k) =>
    holdFoot({ leg, foot: feet[k], plan: plans[k] }, time, isOwn, past && { frames: from, turns: past.feet[k].turns }),
  );
  const held = holds.map(({ pivots }) => pivots.held);
  const unders = plans.map((plan) => (isOwn ? () => -Infinity : underFoot(plan.anchors, frames, { floor, isSloped, slope })));
  const rate: Rate = { holds, unders, time, air: airOf(given, held), resting, rise };
  const { ends, root } = settleFrom(rate, given);
  holds.forEach((one, k) => clearFloor(one, ends[k], unders[k], time, from));
  const landed = held.map((one, k) => landingIn(one, ends[k], from, past?.stood[k].anchors.length) ?? past?.landed[k] ?? 0);
  const paths = holds.map((one, k) => {
    const path = pathOf(one, ends[k], unders[k], time, follow[k]);
    const toes = past?.toes[k];
    if (toes) goOnToes(path.toesQ, toes, from, frameTime);
    return path;
  });
  return { landed, paths, hips: root };
}

/** Finds displacements at a rate, from those at half of it. */
function settleFrom(rate: Rate, given: ResolveGiven): Settled {
  if (given.past || !isHalvedFirst(rate.time.frameTime)) return settle(rate, given);
  const { ends, hips } = settleFrom(halved(rate), given);
  const { frames } = rate.holds[0].leg;
  return settle(rate, given, { ends: ends.map((end) => withBetween(end, 3, frames)), hips: withBetween(hips, 3, frames) });
}

function pathOf(
  { leg, foot, plan, footQ, pivots: { held } }: FootHold,
  ends: Float64Array,
  under: UnderFoot,
  time: Time,
  follow: number,
): FootPath {
  const { data, stride, at, frames } = leg;
  const ankle = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.end + c] + ends[f * 3 + c];
    if (follow < 1) slerp(footQ, f * 4, data, f * stride + at.endQ, footQ, f * 4, follow);
  }
  const toesQ = bendToes({ leg, foot, ankle, footQ, under, time }, plan.tips);
  return { ankle, footQ, toesQ, held };
}

/** How much higher than copied an end comes to the last hold of some frames; undefined where none begins. @param stood whether it was held before */
function landingIn(held: Uint8Array, ends: Float64Array, from: number, stood = 0): number | undefined {
  for (let f = held.length - 1; f >= from; f--) {
    if (held[f] === 1 && (f > from ? held[f - 1] === 0 : stood === 0)) return ends[f * 3 + 1];
  }
  return undefined;
}
