import type { PointWeights } from '../formats';
import type { MeshBody } from './body';
import { bonesOf, wayTo, type Frame } from './bones';
import type { Place } from './landmarks';

/** A bone is far where another is so many times nearer, and the way to it is longer than this share of the height. */
const FAR = { times: 3, share: 0.06 };

/**
 * Points that a far limb moves: most of each by a joint whose bone is much farther, through the air, than the nearest.
 * @returns by joint, how many and where the first of them is
 */
export function farPoints(body: MeshBody, frame: Frame, { joints, values }: PointWeights): Map<number, { count: number; at: Place }> {
  const bones = bonesOf(frame);
  const out = new Map<number, { count: number; at: Place }>();
  const { positions, height } = body;
  for (let i = 0; i < positions.length / 3; i++) {
    // What only shares a bone's twist is as near as the bone.
    const own = frame.twistOf[joints[i * 4]] >= 0 ? frame.twistOf[joints[i * 4]] : joints[i * 4];
    if (values[i * 4] < 0.5) continue;
    let [nearest, mine] = [Infinity, Infinity];
    for (const bone of bones) {
      const way = wayTo(bone, positions, i * 3);
      if (way < nearest) nearest = way;
      if (bone.joint === own && way < mine) mine = way;
    }
    if (mine < FAR.share * height || mine < FAR.times * nearest) continue;
    const found = out.get(own);
    if (found) found.count++;
    else out.set(own, { count: 1, at: [positions[i * 3], positions[i * 3 + 1], positions[i * 3 + 2]] });
  }
  return out;
}
