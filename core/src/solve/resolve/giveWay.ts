import type { FootHold } from './foot';
import type { Sense } from './sense';

/** A stance gives way by less than this for nothing, metres. */
export const NOTHING = 1e-4;

/**
 * Moves stances by the distance that is missing when the hips have come as far as they may: towards them; and away from them where a foot is too
 * near. Heels and balls of one stance go together.
 * @param hips their displacement
 * @param isFound the hips have been solved for: feet that are too near are moved only then, as hips rise first
 * @param from frames before this one are final, and what stood in them stays
 * @returns false where none moved
 */
export function giveWay(holds: readonly FootHold[], senses: readonly Sense[], hips: Float64Array, isFound: boolean, from: number): boolean {
  let gave = false;
  holds.forEach(({ plan: { anchors }, pivots: { heel, ball }, leg }, k) => {
    const { out, far, near, most } = senses[k];
    const stances = new Map<number, { x: number; z: number; weight: number }>();
    for (let f = 0; f < leg.frames; f++) {
      const i = heel[f] >= 0 ? heel[f] : ball[f];
      if (i < 0 || (far[f] <= 0 && near[f] <= 0)) continue;
      // As far as the hips may still come the foot need not.
      let come = 0;
      for (let c = 0; c < 3; c++) come += out[f * 3 + c] * hips[f * 3 + c];
      const over = far[f] > 0 ? Math.max(0, far[f] - Math.max(0, most[f] - come)) : isFound ? -near[f] : 0;
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
