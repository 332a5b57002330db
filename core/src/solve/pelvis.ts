import { envelope, gaussian, smootherstep } from '../math/filter';
import type { FootPath } from './footPath';
import type { LimbTrack } from './limbTrack';
import { legFold, legReach, levelNeed, lowest, wayToTarget } from './reach';

/** Seconds over which the hips go down and come up again around a frame that needs it. */
const GIVE = 0.18;
/** Slower changes (standard deviation, seconds) of a foot's correction are no tremor. */
const TREMOR = 0.035;
/** Seconds in which a stance takes hold of the hips, and lets them go. */
const HOLD = 0.12;
/** A tremor is small: what is larger than this share of a leg fades, as it is a step's own movement. */
const SMALL = 0.0055;
/** Seconds over which the hips go sideways (standard deviation). */
const ASIDE = 0.12;

/**
 * How far the hips give way in each frame so that feet stay in reach without stretching a bone. First sideways, only where
 * lowering them would not do; then the least drop for both feet (for a swinging foot too: a leg held short just before it lands
 * would snap at the knee), smoothed by an envelope that never falls short of it; and the least rise where a leg cannot fold as far
 * as the performer's. The hips never go down farther than a leg that stands may bend for it: what then stays out of reach is a miss.
 * Then the feet's tremor is added.
 * @param legLength of the character, metres
 * @param wanted how much higher a person wants the hips, metres, one a frame; legs that cannot follow hold them down
 * @param stretch share of its length by which a leg may be drawn out before that
 * @returns metres in the world, 3 per frame
 */
export function pelvisShift(
  legs: readonly LimbTrack[],
  paths: readonly FootPath[],
  frameTime: number,
  softReach: number,
  legLength: number,
  wanted?: Float64Array,
  stretch = 0,
): Float64Array {
  const { frames } = legs[0];
  const out = new Float64Array(frames * 3);
  const { hips, any } = levelNeed(legs, paths, softReach, stretch);
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
      const dy = (wanted?.[f] ?? 0) - way[1];
      if (dy <= 0) continue;
      const level = dx * dx + dz * dz;
      const distance = level + dy * dy;
      const reach = legReach(leg, f, softReach, stretch);
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
    out[f * 3 + 1] = (wanted?.[f] ?? 0) + rise[f] - drop[f];
    out[f * 3 + 2] = aside[f * 2 + 1];
  }
  addTremor(out, legs, paths, frameTime, legLength);
  return out;
}

/**
 * Adds to the hips the fast part of what holding takes away from the feet. A held ankle is still, and the hips keep the capture's
 * noise: in a nearly straight knee a millimetre of it becomes a degree. Performer's feet and hips shake together; so they do here.
 */
function addTremor(out: Float64Array, legs: readonly LimbTrack[], paths: readonly FootPath[], frameTime: number, legLength: number): void {
  const { frames } = legs[0];
  const small = SMALL * legLength;
  const weights = paths.map(({ still }) => ramped(still, HOLD / frameTime));
  const fast = legs.map((leg, k) => {
    const away = new Float64Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      for (let c = 0; c < 3; c++) away[f * 3 + c] = paths[k].ankle[f * 3 + c] - leg.data[f * leg.stride + leg.at.end + c];
    }
    const slow = gaussian(away, 3, TREMOR / frameTime);
    for (let f = 0; f < frames; f++) {
      let size = 0;
      for (let c = 0; c < 3; c++) size += (away[f * 3 + c] -= slow[f * 3 + c]) ** 2;
      const kept = 1 / (1 + size / (small * small));
      for (let c = 0; c < 3; c++) away[f * 3 + c] *= kept;
    }
    return away;
  });
  for (let f = 0; f < frames; f++) {
    let weight = 0;
    for (const w of weights) weight += w[f];
    if (weight === 0) continue;
    const share = 1 / Math.max(1, weight);
    for (let k = 0; k < legs.length; k++) for (let c = 0; c < 3; c++) out[f * 3 + c] += fast[k][f * 3 + c] * weights[k][f] * share;
  }
}

/** 1 where held, from 0 at either end within so many frames, without a corner. */
function ramped(held: Uint8Array, width: number): Float64Array {
  const out = new Float64Array(held.length);
  let since = 0;
  for (let f = 0; f < held.length; f++) {
    since = held[f] ? since + 1 : 0;
    out[f] = since;
  }
  since = 0;
  for (let f = held.length - 1; f >= 0; f--) {
    since = held[f] ? since + 1 : 0;
    out[f] = smootherstep(Math.min(out[f], since) / (width + 1));
  }
  return out;
}
