import type { FootPath } from './footPath';
import type { LimbTrack } from './limbTrack';

/** Share of its length by which a leg may let the hips down for a foot that is out of reach. */
const LOWEST = 0.22;

/** Longest distance from hip joint to ankle that a leg may take in a frame. @param stretch share by which it may be drawn out */
export function legReach({ plan, data, stride, at }: LimbTrack, f: number, softReach: number, stretch = 0): number {
  const o = f * stride;
  const whole = span(data, o + at.top, o + at.mid) + span(data, o + at.mid, o + at.end);
  // As straight as the performer had it, or as the soft limit allows.
  const reach = Math.max(softReach * whole, span(data, o + at.top, o + at.end));
  return plan.drawn.length > 0 ? reach * (1 + stretch) : reach;
}

/** Shortest distance that a leg can fold to, with a margin: thigh and shin of unlike length never meet. */
export function legFold({ data, stride, at }: LimbTrack, f: number): number {
  const o = f * stride;
  const upper = span(data, o + at.top, o + at.mid);
  const lower = span(data, o + at.mid, o + at.end);
  return Math.abs(upper - lower) * 1.02 + 2e-4 * (upper + lower);
}

/** How far the hips may go down for a leg, metres. */
export function lowest({ data, stride, at }: LimbTrack, f: number): number {
  const o = f * stride;
  return LOWEST * (span(data, o + at.top, o + at.mid) + span(data, o + at.mid, o + at.end));
}

function span(data: Float64Array, a: number, b: number): number {
  const x = data[a] - data[b],
    y = data[a + 1] - data[b + 1],
    z = data[a + 2] - data[b + 2];
  return Math.sqrt(x * x + y * y + z * z);
}

/** out = the way from a leg's hip joint to where its ankle shall be. */
export function wayToTarget(out: Float64Array, { data, stride, at }: LimbTrack, { ankle }: FootPath, f: number): void {
  const o = f * stride;
  for (let c = 0; c < 3; c++) out[c] = ankle[f * 3 + c] - data[o + at.top + c];
}

const ROUNDS = 12;

/**
 * The reach that dropping the hips cannot give: how far they must go sideways in each frame so that both feet are in reach once the hips
 * are as low as they may go. Both legs share the way: where one pulls to the left and the other to the right the hips stand between.
 * @returns shift of the hips over the floor, and for each leg the level distance that stays out of reach; metres, 2 and 1 a frame
 */
export function levelNeed(
  legs: readonly LimbTrack[],
  paths: readonly FootPath[],
  softReach: number,
  stretch = 0,
): { readonly hips: Float64Array; readonly over: readonly Float64Array[]; readonly any: boolean } {
  const { frames } = legs[0];
  const hips = new Float64Array(frames * 2);
  const over = legs.map(() => new Float64Array(frames));
  const ways = legs.map(() => new Float64Array(3));
  const most = new Float64Array(legs.length);
  let any = false;
  for (let f = 0; f < frames; f++) {
    let isOut = false;
    for (let k = 0; k < legs.length; k++) {
      const way = ways[k];
      wayToTarget(way, legs[k], paths[k], f);
      const reach = legReach(legs[k], f, softReach, stretch);
      // The level distance that the leg spans once the hips are down.
      const down = Math.max(0, -way[1] - lowest(legs[k], f));
      most[k] = Math.sqrt(Math.max(0, reach * reach - (way[1] <= 0 ? down * down : way[1] * way[1])));
      isOut ||= way[0] * way[0] + way[2] * way[2] > most[k] * most[k];
    }
    if (!isOut) continue;
    any = true;
    let x = 0;
    let z = 0;
    for (let round = 0; round < ROUNDS; round++) {
      let sx = 0;
      let sz = 0;
      for (let k = 0; k < legs.length; k++) {
        const dx = ways[k][0] - x;
        const dz = ways[k][2] - z;
        const level = Math.sqrt(dx * dx + dz * dz);
        const excess = (over[k][f] = Math.max(0, level - most[k]));
        if (excess > 0) {
          sx += (dx / level) * excess;
          sz += (dz / level) * excess;
        }
      }
      x += sx / legs.length;
      z += sz / legs.length;
    }
    hips[f * 2] = x;
    hips[f * 2 + 1] = z;
  }
  return { hips, over, any };
}
