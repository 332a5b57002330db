import { frameOrNone, type Found } from '../figure';
import type { Scene } from '../scene';

/** Looks in a row that a limb must be in another to be seen: a tenth of a second. */
const LOOKS = 3;

/** How far limbs are in each other or in the trunk where the performer's are not. */
export function crossing({ seen, at }: Scene): Found {
  const { found, frames } = seen.crossings;
  let worst = { depth: 0, name: '', frame: -1 };
  for (const { name, depths } of found) {
    for (let i = LOOKS - 1; i < depths.length; i++) {
      let least = Infinity;
      for (let k = 0; k < LOOKS; k++) least = Math.min(least, depths[i - k]);
      if (least > worst.depth) worst = { depth: least, name, frame: frames[i - 1] };
    }
  }
  return {
    id: 'crossing',
    value: found.length === 0 || frames.length < LOOKS ? NaN : 100 * worst.depth,
    looked: `${found.length} pairs, ${frames.length} frames`,
    words: worst.frame < 0 ? 'no limb is in another' : `the ${worst.name} at ${at(worst.frame)}`,
    frame: frameOrNone(worst.frame),
  };
}
