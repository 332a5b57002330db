import { distance } from '../../math/vec';
import { ClipReader, type Clip } from '../../clip';
import { extent, type Rig } from '../../rig';
import type { Case } from '../case';
import { mm, type Found } from '../figure';
import { placeOf, type Skin } from '../look/skin';
import type { Scene } from '../scene';
import { square } from '../../math/numbers';

export interface Pull {
  /** Most that an edge is drawn out, metres. */
  readonly most: number;
  readonly frame: number;
  readonly joint: string | undefined;
  readonly edges: number;
  readonly frames: number;
}

/** Most frames that are looked at, beside the first and the last. */
const MOST_FRAMES = 14;
/** Joints that are turned most within this time are looked at in one frame, seconds. */
const TOGETHER = 0.1;

/**
 * The frames in which the skin is drawn out most: those in which joints that move it are turned farthest from rest, those with most
 * of them first, and those in which joints are farthest from their places.
 */
export function strained({ skeleton }: Rig, clip: Clip, joints: Iterable<number>): number[] {
  const { parents, restR } = skeleton;
  const width = Math.max(1, Math.round(TOGETHER / clip.frameTime));
  const counts = new Map<number, { frame: number; joints: number }>();
  for (const at of farthestFromRest(clip, Int32Array.from(joints), parents.length, restR)) {
    const key = Math.floor(at / width);
    counts.set(key, { frame: at, joints: (counts.get(key)?.joints ?? 0) + 1 });
  }
  // Joints that leave their place strain it too.
  const parted = clip.moves.map(({ joint, values }) => {
    let [farthest, at] = [-1, 0];
    for (let f = 0; f < clip.frames; f++) {
      let gap = 0;
      for (let c = 0; c < 3; c++) gap += square(values[f * 3 + c] - skeleton.restT[joint * 3 + c]);
      if (gap > farthest) [farthest, at] = [gap, f];
    }
    return at;
  });
  const most = [...counts.values()].sort((a, b) => b.joints - a.joints || a.frame - b.frame).slice(0, MOST_FRAMES);
  return [...new Set([0, ...parted, ...most.map(({ frame }) => frame), Math.max(0, clip.frames - 1)])];
}

/** By joint, the first frame in which it is turned farthest from rest. */
function farthestFromRest({ frames, rotations }: Clip, joints: Int32Array, count: number, restR: Float64Array): Int32Array {
  const least = new Float64Array(joints.length).fill(1);
  const at = new Int32Array(joints.length);
  for (let f = 0; f < frames; f++) {
    for (let i = 0; i < joints.length; i++) {
      const r = joints[i] * 4;
      const o = f * count * 4 + r;
      const near = Math.abs(
        rotations[o] * restR[r] + rotations[o + 1] * restR[r + 1] + rotations[o + 2] * restR[r + 2] + rotations[o + 3] * restR[r + 3],
      );
      if (near >= least[i]) continue;
      least[i] = near;
      at[i] = f;
    }
  }
  return at;
}

/** How far the skin's edges are drawn out against rest: all edges, in the frames that strain it most. */
export function pullOf({ character, result, stretch = 0 }: Case, skin: Skin): Pull | undefined {
  const { ends, lengths, bounds } = skin.edges;
  if (lengths.length === 0) return undefined;
  const frames = strained(character, result, new Set(skin.influences.filter((joint) => joint >= 0)));
  const reader = new ClipReader(character.skeleton, result);
  const places = new Float64Array(skin.count * 3);
  const seenIn = new Int32Array(skin.count).fill(-1);
  const longest = lengths.reduce((a, b) => Math.max(a, b), 0);
  let worst = { most: 0, frame: 0, edge: -1 };
  for (const f of frames) {
    const pose = reader.at(f);
    for (let e = 0; e < lengths.length; e++) {
      // Limbs that are drawn out themselves draw every bound out with them.
      if (bounds[e] * (1 + stretch) + stretch * longest <= worst.most) break;
      const [a, b] = [ends[e * 2], ends[e * 2 + 1]];
      for (let point = a, k = 0; k < 2; point = b, k++) {
        if (seenIn[point] === f) continue;
        seenIn[point] = f;
        placeOf(skin, point, pose, places, point * 3);
      }
      const length = distance(places, a * 3, places, b * 3);
      const over = length - lengths[e] * (1 + stretch);
      if (over > worst.most) worst = { most: over, frame: f, edge: e };
    }
  }
  const joint = worst.edge < 0 ? -1 : skin.influences[ends[worst.edge * 2] * 4];
  return {
    most: worst.most,
    frame: worst.frame,
    joint: joint < 0 ? undefined : character.skeleton.names[joint],
    edges: lengths.length,
    frames: frames.length,
  };
}

/** From the lowest joint to the highest, metres. */
export function heightAtRest(positions: Float64Array): number {
  return Math.max(1e-3, extent(positions, 1));
}

/** Most that an edge of the skin is drawn out, in share of the height. */
export function pull({ given, skin, at }: Scene): Found {
  const found = pullOf(given, skin);
  if (!found) return { id: 'pull', value: NaN, looked: 'no mesh to look at', words: 'the character has no mesh' };
  return {
    id: 'pull',
    value: (100 * found.most) / heightAtRest(given.character.restPose.positions),
    looked: `${found.edges} edges in ${found.frames} frames`,
    words: found.most <= 0 ? 'nothing is drawn out' : `${mm(found.most)} at ${at(found.frame)} (${found.joint ?? ''})`,
    frame: found.frame,
  };
}
