import { envelope, gaussian } from '../math/filter';
import type { FootPath } from './footPath';
import type { LimbTrack } from './limbTrack';
import { legFold, legReach, levelNeed, lowest, wayToTarget } from './reach';

/** Seconds over which the hips go down and come up again around a frame that needs it. */
const GIVE = 0.18;
/** Seconds over which the hips go sideways (standard deviation). */
const ASIDE = 0.12;

/**
 * How far the hips give way in each frame so that feet stay in reach without stretching a bone. First sideways, only where
 * lowering them would not do; then the least drop for both feet (for a swinging foot too: a leg held short just before it lands
 * would snap at the knee), smoothed by an envelope that never falls short of it; and the least rise where a leg cannot fold as far
 * as the performer's. The hips never go down farther than a leg that stands may bend for it: what then stays out of reach is a miss.
 * @returns metres in the world, 3 per frame
 */
export function pelvisShift(legs: readonly LimbTrack[], paths: readonly FootPath[], frameTime: number, softReach: number): Float64Array {
  const { frames } = legs[0];
  const out = new Float64Array(frames * 3);
  const { hips, any } = levelNeed(legs, paths, softReach);
  const aside = any ? gaussian(hips, 2, ASIDE / frameTime) : hips;
  const down = new Float64Array(frames);
  const up = new Float64Array(frames);
  const way = new Float64Array(3);
  let anyDown = false;
  let anyUp = false;
  legs.forEach((leg, k) => {
    for (let f = 0; f < frames; f++) {
      wayToTarget(way, leg, paths[k], f);
      const dx = way[0] - aside[f * 2];
      const dz = way[2] - aside[f * 2 + 1];
      const dy = -way[1];
      if (dy <= 0) continue;
      const level = dx * dx + dz * dz;
      const distance = level + dy * dy;
      const reach = legReach(leg, f, softReach);
      if (distance > reach * reach) {
        down[f] = Math.max(down[f], Math.min(lowest(leg, f), dy - Math.sqrt(Math.max(0, reach * reach - level))));
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
  const rise = anyUp ? envelope(up, radius) : up;
  for (let f = 0; f < frames; f++) {
    out[f * 3] = aside[f * 2];
    out[f * 3 + 1] = rise[f] - drop[f];
    out[f * 3 + 2] = aside[f * 2 + 1];
  }
  return out;
}
