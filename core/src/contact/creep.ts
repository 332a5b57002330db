import type { ProbeTrack } from './probes';
import type { Span } from './still';

/** Leg lengths a second, and leg lengths: slower and nearer than these a probe creeps. */
export const CREEP = { speed: 0.16, extent: 0.06 } as const;

/** How a probe comes to a plant and leaves it, as slow as rest but not still: metres from its resting place, 3 per frame. */
export interface Creep {
  /** Of the frames just before the plant's first. */
  readonly before: Float64Array;
  /** Of the frames just behind its last. */
  readonly after: Float64Array;
}

/** Series of a probe. */
interface Probed {
  /** Positions as captured, 3 per frame. */
  readonly raw: Float64Array;
  readonly speed: Float64Array;
  /** Of the ball of a foot with toes. */
  readonly sole?: ProbeTrack;
}

/** What a probe creeps within. */
export interface Creeping {
  /** The frame behind which, and that before which, other plants leave room. */
  readonly from: number;
  readonly to: number;
  /** The performer's, metres. */
  readonly leg: number;
  /** True in frames in which the foot cannot stand on the probe. */
  readonly isAway?: (frame: number) => boolean;
  /** How far from the ball to the joint of the toes the point lies whose way it is. */
  readonly rolls?: number;
}

/**
 * The slow frames on either side of a plant. They are no rest, so nothing is held still in them; but a foot that follows them
 * rolls off as the performer's does.
 */
export function creepOf({ raw, speed, sole }: Probed, { first, last }: Span, { from, to, leg, isAway, rolls = 0 }: Creeping): Creep {
  const limit = CREEP.speed * leg;
  const far = CREEP.extent * leg;
  /** Frames from an edge on, in which the probe is slow and near. */
  const count = (edge: number, step: -1 | 1, end: number): number => {
    let f = edge + step;
    for (; f !== end && speed[f] < limit && !isAway?.(f); f += step) {
      const x = raw[f * 3] - raw[edge * 3];
      const y = raw[f * 3 + 1] - raw[edge * 3 + 1];
      const z = raw[f * 3 + 2] - raw[edge * 3 + 2];
      if (x * x + y * y + z * z > far * far) break;
    }
    return Math.abs(f - edge) - 1;
  };
  const ways = (edge: number, start: number, frames: number): Float64Array => {
    const out = new Float64Array(frames * 3);
    const joint = sole?.joint ?? raw;
    const at = (i: number): number => raw[i] + (joint[i] - raw[i]) * rolls;
    for (let i = 0; i < out.length; i++) out[i] = at(start * 3 + i) - at(edge * 3 + (i % 3));
    return out;
  };
  // Half of the room between two plants is each one's.
  const half = (a: number, b: number): number => Math.floor((a + b) / 2);
  const early = count(first, -1, from < 0 ? -1 : half(from, first));
  const late = count(last, 1, to === speed.length ? to : half(last, to) + 1);
  return { before: ways(first, first - early, early), after: ways(last, last + 1, late) };
}
