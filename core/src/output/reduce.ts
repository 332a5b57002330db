import { ClipReader, type Clip, type Track } from '../clip';
import type { KeptFrames } from '../formats';
import { copy, slerp } from '../math/quat';
import { jointCount, restPose, type Skeleton } from '../skeleton';
import { square } from '../math/numbers';
import { sin } from '../math/trig';

export interface Reduced {
  readonly keys: KeptFrames;
  /** The keys sampled at every frame of the clip. */
  readonly clip: Clip;
  /** Farthest that a watched joint is from where it was, metres. */
  readonly worst: number;
  /** Keys left, as a share of all. */
  readonly share: number;
}

/** By how much a joint's size may be off between keys, in share of that at rest: a millimetre of a metre. */
const SIZE = 1e-3;

/** Rounds in which the budget of each joint is made smaller until the whole is within the tolerance, or larger while it may be. */
const ROUNDS = 7;

/**
 * Leaves out the keys that linear keys between their neighbours give as well: of every joint those whose turn, times the way to the
 * farthest watched joint below it, is within a budget (Ramer, Douglas and Peucker's splitting, on turns and on places). Then all
 * frames are posed, and the budget is made smaller until the watched joints are within the tolerance: what is measured is the result.
 * @param watched joints that must stay within it: hands, feet, head
 * @param tolerance metres
 */
export function reduceKeys(skeleton: Skeleton, clip: Clip, watched: readonly number[], tolerance: number): Reduced {
  const reach = reachOf(skeleton, watched);
  const joints = jointCount(skeleton);
  const all = joints * clip.frames + clip.moves.length * clip.frames;
  const sizes = (clip.sizes ?? []).map(({ values }) => moveKeys(values, SIZE));
  const attempt = (budget: number): Reduced => {
    const turns = Array.from({ length: joints }, (_, j) => turnKeys(clip, joints, j, budget / Math.max(reach[j], 1e-3)));
    const moves = clip.moves.map(({ values }) => moveKeys(values, budget * PLACES));
    const keys = { turns, moves, sizes };
    const sampled = sampleKeys(skeleton, clip, keys);
    const count = [...turns, ...moves].reduce((sum, list) => sum + list.length, 0);
    return { keys, clip: sampled, worst: worstOf(skeleton, clip, sampled, watched), share: count / Math.max(1, all) };
  };
  let [low, high] = [0, tolerance];
  let best: Reduced | undefined;
  let budget = tolerance / 3;
  for (let round = 0; round < ROUNDS; round++) {
    const tried = attempt(budget);
    if (tried.worst <= tolerance) {
      if (!best || tried.share < best.share) best = tried;
      low = budget;
    } else high = budget;
    budget = (low + high) / 2;
  }
  return best ?? attempt(0);
}

/** Share of a turn's budget that places get: a corner in the way of the hips is seen in everything that hangs on them. */
const PLACES = 0.2;

/** The clip that keys give: linear between them, turns along the shortest arc. */
export function sampleKeys(skeleton: Skeleton, clip: Clip, { turns, moves, sizes = [] }: KeptFrames): Clip {
  const joints = jointCount(skeleton);
  const rotations = new Float32Array(clip.rotations.length);
  turns.forEach((list, j) => {
    for (let k = 0; k < list.length; k++) {
      const a = list[k];
      const b = list[Math.min(k + 1, list.length - 1)];
      const until = k + 1 < list.length ? b : clip.frames;
      for (let f = a; f < until; f++) {
        const o = (f * joints + j) * 4;
        if (f === a || a === b) copy(rotations, o, clip.rotations, (a * joints + j) * 4);
        else slerp(rotations, o, clip.rotations, (a * joints + j) * 4, clip.rotations, (b * joints + j) * 4, (f - a) / (b - a));
      }
    }
  });
  const sampled = ({ joint, values }: Track, list: Int32Array): Track => {
    const out = new Float32Array(values.length);
    for (let k = 0; k < list.length; k++) {
      const a = list[k];
      const b = list[Math.min(k + 1, list.length - 1)];
      const until = k + 1 < list.length ? b : clip.frames;
      for (let f = a; f < until; f++) {
        const t = a === b ? 0 : (f - a) / (b - a);
        for (let c = 0; c < 3; c++) out[f * 3 + c] = (1 - t) * values[a * 3 + c] + t * values[b * 3 + c];
      }
    }
    return { joint, values: out };
  };
  return {
    ...clip,
    rotations,
    moves: clip.moves.map((track, i) => sampled(track, moves[i])),
    ...(clip.sizes && { sizes: clip.sizes.map((track, i) => sampled(track, sizes[i])) }),
  };
}

/** For each joint the farthest way that it moves a watched joint by: along the bones, so that no pose makes it longer. */
function reachOf(skeleton: Skeleton, watched: readonly number[]): Float64Array {
  const reach = new Float64Array(jointCount(skeleton));
  const { positions } = restPose(skeleton);
  for (const end of watched) {
    let distance = 0;
    for (let j = end; skeleton.parents[j] >= 0; j = skeleton.parents[j]) {
      const parent = skeleton.parents[j];
      let d = 0;
      for (let c = 0; c < 3; c++) d += square(positions[j * 3 + c] - positions[parent * 3 + c]);
      distance += Math.sqrt(d);
      reach[parent] = Math.max(reach[parent], distance);
    }
  }
  // A joint that moves nothing watched is still visible: its bones count as a hand's breadth.
  let height = 0;
  for (let i = 1; i < positions.length; i += 3) height = Math.max(height, Math.abs(positions[i]));
  for (let j = 0; j < reach.length; j++) if (reach[j] === 0) reach[j] = 0.06 * Math.max(height, 1e-3);
  return reach;
}

/** @param most radians by which a turn may be off */
function turnKeys({ rotations, frames }: Clip, joints: number, joint: number, most: number): Int32Array {
  const at = (f: number): number => (f * joints + joint) * 4;
  const q = new Float64Array(4);
  const half = Math.min(1, most / 2);
  // The chord between unit quaternions is twice the sine of a quarter of the turn: compared squared, without an arc cosine.
  const limit = square(2 * sin(half / 2));
  return split(frames, (a, b, f) => {
    if (a === b) copy(q, 0, rotations, at(a));
    else slerp(q, 0, rotations, at(a), rotations, at(b), (f - a) / (b - a));
    const o = at(f);
    const dot = q[0] * rotations[o] + q[1] * rotations[o + 1] + q[2] * rotations[o + 2] + q[3] * rotations[o + 3];
    // Difference by difference: single precision leaves nothing of one minus a product near one.
    const sign = dot < 0 ? -1 : 1;
    let over = 0;
    for (let c = 0; c < 4; c++) over += square(q[c] - sign * rotations[o + c]);
    return over > limit ? over : 0;
  });
}

/** @param most metres by which a place may be off */
function moveKeys(values: Float32Array, most: number): Int32Array {
  return split(values.length / 3, (a, b, f) => {
    const t = a === b ? 0 : (f - a) / (b - a);
    let d = 0;
    for (let c = 0; c < 3; c++) d += square((1 - t) * values[a * 3 + c] + t * values[b * 3 + c] - values[f * 3 + c]);
    return d > most * most ? d : 0;
  });
}

/**
 * Frames to be kept so that nothing between two of them is off; one alone where the first is as good for all.
 * @param off by how much frame f is off between keys a and b, 0 where it is within the limit
 */
function split(frames: number, off: (a: number, b: number, f: number) => number): Int32Array {
  if (frames < 2) return Int32Array.of(0);
  let isConstant = true;
  for (let f = 1; f < frames && isConstant; f++) isConstant = off(0, 0, f) === 0;
  if (isConstant) return Int32Array.of(0);
  const kept = new Uint8Array(frames);
  kept[0] = kept[frames - 1] = 1;
  const stack: [number, number][] = [[0, frames - 1]];
  for (let span = stack.pop(); span; span = stack.pop()) {
    const [a, b] = span;
    let worst = 0;
    let where = -1;
    for (let f = a + 1; f < b; f++) {
      const by = off(a, b, f);
      if (by > worst) [worst, where] = [by, f];
    }
    if (where < 0) continue;
    kept[where] = 1;
    stack.push([a, where], [where, b]);
  }
  const out: number[] = [];
  for (let f = 0; f < frames; f++) if (kept[f]) out.push(f);
  return Int32Array.from(out);
}

/** Farthest that any of some joints is in one clip from where it is in the other, metres. */
export function worstOf(skeleton: Skeleton, a: Clip, b: Clip, watched: readonly number[]): number {
  const [one, two] = [new ClipReader(skeleton, a), new ClipReader(skeleton, b)];
  let worst = 0;
  for (let f = 0; f < a.frames; f++) {
    const [p, q] = [one.at(f).positions, two.at(f).positions];
    for (const j of watched) {
      let d = 0;
      for (let c = 0; c < 3; c++) d += square(p[j * 3 + c] - q[j * 3 + c]);
      if (d > worst) worst = d;
    }
  }
  return Math.sqrt(worst);
}
