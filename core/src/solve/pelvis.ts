import { envelope } from '../math/filter';
import type { FootPath } from './footPath';
import { LEG, type LegTrack } from './tracks';

/** Seconds over which the hips go down and come up again around a frame that needs it. */
const GIVE = 0.18;

/** Longest distance from hip joint to the end of the shin that a leg may take in a frame. */
export function legReach(leg: LegTrack, f: number, softReach: number): number {
  const o = f * LEG.stride;
  const { data } = leg;
  const upper = span(data, o + LEG.hip, o + LEG.knee);
  const lower = span(data, o + LEG.knee, o + LEG.hock);
  // As straight as the performer had it, or as the soft limit allows.
  return Math.max(softReach * (upper + lower), span(data, o + LEG.hip, o + LEG.hock));
}

function span(data: Float64Array, a: number, b: number): number {
  const x = data[a] - data[b],
    y = data[a + 1] - data[b + 1],
    z = data[a + 2] - data[b + 2];
  return Math.sqrt(x * x + y * y + z * z);
}

/** Shortest distance that a leg can fold to, with a margin: thigh and shin of unlike length never meet. */
function legFold(leg: LegTrack, f: number): number {
  const o = f * LEG.stride;
  const { data } = leg;
  const upper = span(data, o + LEG.hip, o + LEG.knee);
  const lower = span(data, o + LEG.knee, o + LEG.hock);
  return Math.abs(upper - lower) * 1.02 + 2e-4 * (upper + lower);
}

/**
 * Stage 11: how far the hips must give way in each frame so that feet stay in reach without stretching a bone: the least
 * drop for both feet (for a swinging foot too: a leg held short just before it lands would snap at the knee), smoothed by
 * an envelope that never falls short of it; and the least rise where a leg cannot fold as far as the performer's. Where a
 * foot is too far away to the side for any drop, the drop stops at the foot's own best distance and the rest is reported
 * as a miss.
 * @returns metres downwards, negative upwards, one per frame
 */
export function pelvisDrop(legs: readonly LegTrack[], paths: readonly FootPath[], frameTime: number, softReach: number): Float64Array {
  const frames = paths[0].ankle.length / 3;
  const down = new Float64Array(frames);
  const up = new Float64Array(frames);
  let anyDown = false;
  let anyUp = false;
  legs.forEach((leg, l) => {
    const { ankle } = paths[l];
    const { data } = leg;
    for (let f = 0; f < frames; f++) {
      const o = f * LEG.stride;
      const reach = legReach(leg, f, softReach);
      // The hock's end of the shin, carried with the ankle.
      const dx = data[o + LEG.hip] - (ankle[f * 3] + data[o + LEG.hock] - data[o + LEG.ankle]);
      const dy = data[o + LEG.hip + 1] - (ankle[f * 3 + 1] + data[o + LEG.hock + 1] - data[o + LEG.ankle + 1]);
      const dz = data[o + LEG.hip + 2] - (ankle[f * 3 + 2] + data[o + LEG.hock + 2] - data[o + LEG.ankle + 2]);
      const level = dx * dx + dz * dz;
      const distance = level + dy * dy;
      if (dy <= 0) continue;
      if (distance > reach * reach) {
        down[f] = Math.max(down[f], dy - Math.sqrt(Math.max(0, reach * reach - level)));
        anyDown = true;
        continue;
      }
      const fold = legFold(leg, f);
      if (distance < fold * fold) {
        up[f] = Math.max(up[f], Math.sqrt(Math.max(0, fold * fold - level)) - dy);
        anyUp = true;
      }
    }
  });
  const radius = Math.round(GIVE / frameTime);
  const drop = anyDown ? envelope(down, radius) : down;
  if (!anyUp) return drop;
  const rise = envelope(up, radius);
  for (let f = 0; f < frames; f++) drop[f] -= rise[f];
  return drop;
}
