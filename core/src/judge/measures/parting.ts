import { length } from '../../math/vec';
import { bodyJoints } from '../../label';
import { isBelow, jointKeys, lowestAbove } from '../../skeleton';
import type { Case } from '../case';
import type { Found } from '../figure';
import type { Scene } from '../scene';
import { square } from '../../math/numbers';

export interface Parting {
  /** Metres. */
  readonly most: number;
  readonly joint: string | undefined;
  readonly frame: number | undefined;
  /** Joints that were held against their rest. */
  readonly looked: number;
}

/**
 * How far joints leave their places at their parents. Only what carries the whole body, and what stands above it, may move; any
 * other joint may do what the take's joint of the same name does, and leave its place by as much as limbs may be drawn out.
 */
export function partingOf({ performer, character, take, result, scale, stretch = 0 }: Case): Parting {
  const { skeleton } = character;
  const carrier = lowestAbove(skeleton, bodyJoints(character.roles));
  const theirs = new Map(jointKeys(performer.skeleton).map((key, j) => [key, j]));
  const keys = jointKeys(skeleton);
  let worst: Parting = { most: 0, joint: undefined, frame: undefined, looked: skeleton.names.length - 1 };
  for (const { joint, values } of result.moves) {
    // Only above the joint that carries all of the body does a translation move it whole.
    if (carrier >= 0 && isBelow(skeleton, carrier, joint)) continue;
    // A thing beside the body has no place of its source.
    if (carrier >= 0 && !isBelow(skeleton, joint, carrier)) continue;
    const source = take.moves.find((move) => move.joint === theirs.get(keys[joint]));
    const allowed = stretch * length(skeleton.restT, joint * 3);
    for (let f = 0; f < result.frames; f++) {
      let gap = 0;
      let sourceGap = 0;
      for (let c = 0; c < 3; c++) {
        gap += square(values[f * 3 + c] - skeleton.restT[joint * 3 + c]);
        if (source) sourceGap += square(source.values[f * 3 + c] - performer.skeleton.restT[source.joint * 3 + c]);
      }
      const most = Math.sqrt(gap) - Math.sqrt(sourceGap) * Math.max(scale.stride, scale.lift) - allowed;
      if (most > worst.most) worst = { ...worst, most, joint: skeleton.names[joint], frame: f };
    }
  }
  return worst;
}

/** Most that a joint leaves its place at its parent. */
export function parting({ given, at }: Scene): Found {
  const { most, joint, frame, looked } = partingOf(given);
  return {
    id: 'parting',
    value: most * 1000,
    looked: `${looked} joints`,
    words: joint === undefined ? 'every joint is at its place' : `${joint} at ${at(frame ?? 0)}`,
    frame,
  };
}
