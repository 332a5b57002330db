import { foldOf } from '../reach';
import type { FootHold } from './foot';
import type { Sense } from './sense';

/** A stance gives way by less than this for nothing, metres. */
export const NOTHING = 1e-4;

/** A direction with less of it along the floor than this, as a share, tells no way along the floor. */
const LEAST_LEVEL = 0.1;

/** A leg comes to its shortest with ease: nearer to it than by this factor its foot stays some millimetres short of its place. */
const EASED = 1.05;

/**
 * Moves stances by the distance that is missing when the hips have come as far as they may: towards them; and away from them where a foot is nearer
 * than its leg can fold. Heels and balls of one stance go together.
 * @param hips their displacement
 * @param isFound the hips have been solved for: feet that are too near are moved only then, as hips rise first
 * @param from frames before this one are final, and what stood in them stays
 * @returns false where none moved
 */
export function giveWay(holds: readonly FootHold[], senses: readonly Sense[], hips: Float64Array, isFound: boolean, from: number): boolean {
  let gave = false;
  holds.forEach(({ plan: { anchors }, pivots: { heel, ball }, leg }, k) => {
    const { out, far, most } = senses[k];
    const stances = new Map<number, { x: number; z: number; weight: number }>();
    for (let f = 0; f < leg.frames; f++) {
      const i = heel[f] >= 0 ? heel[f] : ball[f];
      if (i < 0) continue;
      // As far as the hips may still come the foot need not.
      let come = 0;
      for (let c = 0; c < 3; c++) come += out[f * 3 + c] * hips[f * 3 + c];
      const over = far[f] > 0 ? Math.max(0, far[f] - Math.max(0, most[f] - come)) : isFound ? -aside(senses[k], f) : 0;
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

/**
 * How far along the floor an end that is nearer to its root than the limb can fold has to go for their distance to be enough, for each metre of that
 * direction's own level part; 0 where it is not too near. One that stands straight under its root, which tells no way, goes no farther than it is too near.
 */
function aside({ out, distance, lengths }: Sense, f: number): number {
  const asked = Math.min(lengths[f * 3 + 2], EASED * foldOf(lengths[f * 3], lengths[f * 3 + 1]));
  if (distance[f] >= asked) return 0;
  const level = out[f * 3] * out[f * 3] + out[f * 3 + 2] * out[f * 3 + 2];
  if (level < LEAST_LEVEL * LEAST_LEVEL) return asked - distance[f];
  const upright = (1 - level) * distance[f] * distance[f];
  return Math.sqrt(asked * asked - upright) / Math.sqrt(level) - distance[f];
}
