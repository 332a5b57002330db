import { dot } from '../../math/vec';
import type { FootHold } from './foot';
import type { Sense } from './sense';

/** A stance gives way by less than this for nothing, metres. */
export const NOTHING = 1e-4;

/** A direction with less of it along the floor than this, as a share, tells no way along the floor. */
const LEAST_LEVEL = 0.1;

/** Metres that a foot has to come towards its hip joint in a frame; below zero where it has to go away from it. */
export type Misses = (sense: Sense, f: number) => number;

/** What is out of reach when the hips have come as far as they may. @param hips their displacement */
export function outOfReach(hips: Float64Array): Misses {
  return ({ out, far, most }, f) =>
    // As far as the hips may still come the foot need not.
    far[f] > 0 ? Math.max(0, far[f] - Math.max(0, most[f] - dot(out, f * 3, hips, f * 3))) : 0;
}

/**
 * What is nearer than the leg folds to, as hips that rest stay: how far along the floor a foot has to go for its distance to be enough, for each metre of
 * that direction's own level part. One that stands straight under its hip, which tells no way, goes no farther than it is too near.
 */
export const tooNear: Misses = ({ out, distance, folded, short }, f) => {
  if (folded[f] <= 0) return 0;
  const level = out[f * 3] * out[f * 3] + out[f * 3 + 2] * out[f * 3 + 2];
  if (level < LEAST_LEVEL * LEAST_LEVEL) return -short[f];
  const asked = distance[f] + short[f];
  const upright = (1 - level) * distance[f] * distance[f];
  return distance[f] - Math.sqrt(asked * asked - upright) / Math.sqrt(level);
};

/**
 * Moves stances by the distance that is missing. Heels and balls of one stance go together.
 * @param from frames before this one are final, and what stood in them stays
 * @returns false where none moved
 */
export function giveWay(holds: readonly FootHold[], senses: readonly Sense[], misses: Misses, from: number): boolean {
  let gave = false;
  holds.forEach(({ plan: { anchors }, pivots: { heel, ball }, leg }, k) => {
    const { out } = senses[k];
    const stances = new Map<number, { x: number; z: number; weight: number }>();
    for (let f = 0; f < leg.frames; f++) {
      const i = heel[f] >= 0 ? heel[f] : ball[f];
      if (i < 0) continue;
      const over = misses(senses[k], f);
      if (over === 0) continue;
      const sum = stances.get(anchors[i].group) ?? { x: 0, z: 0, weight: 0 };
      // The frames in which most is missing count most.
      sum.x -= out[f * 3] * over * Math.abs(over);
      sum.z -= out[f * 3 + 2] * over * Math.abs(over);
      sum.weight += Math.abs(over);
      stances.set(anchors[i].group, sum);
    }
    const standing = new Set(anchors.filter(({ first, before }) => first - before.length / 3 < from).map(({ group }) => group));
    for (const anchor of anchors) {
      const sum = stances.get(anchor.group);
      if (!sum || standing.has(anchor.group) || Math.sqrt(sum.x * sum.x + sum.z * sum.z) < NOTHING * sum.weight) continue;
      anchor.x += sum.x / sum.weight;
      anchor.z += sum.z / sum.weight;
      gave = true;
    }
  });
  return gave;
}
