import { everySecond } from '../../math/rate';
import type { Time } from '../../math/leastCurve';
import type { LimbTrack } from '../limbTrack';
import type { UnderFoot } from '../underFoot';
import type { FootHold } from './foot';

/** Everything about feet and hips that is told frame by frame, at one rate. */
export interface Rate {
  readonly holds: readonly FootHold[];
  /** The ground under each foot. */
  readonly unders: readonly UnderFoot[];
  readonly time: Time;
  /** How far the body is in the air, from 0 to 1, one a frame. */
  readonly air: Float64Array | undefined;
  /** 1 in frames in which the body itself rests; one a frame, smooth. */
  readonly resting: Float64Array | undefined;
  /** How much higher a person wants the hips, metres, one a frame. */
  readonly rise: Float64Array | undefined;
}

/** Nothing is found at a lower rate than this, hertz: curves that bend within a tenth of a second need as much. */
const LEAST_RATE = 24;

/**
 * True where a take is found at half its rate first: of limits that are found step by step, most then are known at the whole rate, as in multigrid
 * methods, at a part of the work.
 */
export function isHalvedFirst(frameTime: number): boolean {
  return 2 * frameTime * LEAST_RATE <= 1;
}

/** The same, of every second frame. */
export function halved({ holds, unders, time, air, resting, rise }: Rate): Rate {
  return {
    holds: holds.map(halvedHold),
    unders: unders.map((under) => (f, x, z) => under(f * 2, x, z)),
    time: { frameTime: time.frameTime * 2, breaks: halvedBreaks(time.breaks) },
    air: air && everySecond(air, 1),
    resting: resting && everySecond(resting, 1),
    rise: rise && everySecond(rise, 1),
  };
}

function halvedHold({ leg, foot, plan, every, footQ, pivots: { heel, ball, share, held, still } }: FootHold): FootHold {
  return {
    leg: halvedTrack(leg),
    foot,
    plan,
    every: every * 2,
    footQ: everySecond(footQ, 4),
    pivots: {
      heel: everySecond(heel, 1),
      ball: everySecond(ball, 1),
      share: everySecond(share, 1),
      held: everySecond(held, 1),
      still: everySecond(still, 1),
    },
  };
}

/** Frames to which a take of every second frame jumps. */
export function halvedBreaks(breaks: Uint8Array): Uint8Array {
  const out = everySecond(breaks, 1);
  breaks.forEach((jumps, f) => jumps && (out[Math.min(out.length - 1, (f + 1) >> 1)] = 1));
  return out;
}

export function halvedTrack(limb: LimbTrack): LimbTrack {
  return { ...limb, frames: (limb.frames + 1) >> 1, data: everySecond(limb.data, limb.stride) };
}
