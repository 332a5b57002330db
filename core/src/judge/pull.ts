import { ClipReader } from '../clip';
import type { Case } from './case';
import { placeOf, type Skin } from './skin';

export interface Pull {
  /** Most that an edge is drawn out, metres. */
  readonly most: number;
  readonly frame: number;
  readonly joint: string | undefined;
  readonly edges: number;
  readonly frames: number;
}

const MOST_FRAMES = 16;

/** How far the skin's edges are drawn out against rest, in frames spread over the motion and in those that are named. */
export function pullOf({ character, result, stretch = 0 }: Case, skin: Skin, named: readonly number[]): Pull | undefined {
  const count = skin.lengths.length;
  if (count === 0) return undefined;
  const step = Math.max(1, (result.frames - 1) / (MOST_FRAMES - 1));
  const frames = new Set(named.filter((f) => f >= 0 && f < result.frames));
  for (let f = 0; f < result.frames; f += step) frames.add(Math.round(f));
  const reader = new ClipReader(character.skeleton, result);
  const ends = new Float64Array(6);
  let worst = { most: 0, frame: 0, edge: -1 };
  for (const f of frames) {
    const pose = reader.at(f);
    for (let e = 0; e < count; e++) {
      placeOf(skin, skin.edges[e * 2], pose, ends, 0);
      placeOf(skin, skin.edges[e * 2 + 1], pose, ends, 3);
      const length = Math.sqrt((ends[0] - ends[3]) ** 2 + (ends[1] - ends[4]) ** 2 + (ends[2] - ends[5]) ** 2);
      const over = length - skin.lengths[e] * (1 + stretch);
      if (over > worst.most) worst = { most: over, frame: f, edge: e };
    }
  }
  const joint = worst.edge < 0 ? -1 : skin.influences[skin.edges[worst.edge * 2] * 4];
  return {
    most: worst.most,
    frame: worst.frame,
    joint: joint < 0 ? undefined : character.skeleton.names[joint],
    edges: count,
    frames: frames.size,
  };
}

/** From the lowest joint to the highest, metres. */
export function heightAtRest(positions: Float64Array): number {
  let low = Infinity;
  let high = -Infinity;
  for (let i = 1; i < positions.length; i += 3) {
    low = Math.min(low, positions[i]);
    high = Math.max(high, positions[i]);
  }
  return Math.max(1e-3, high - low);
}
