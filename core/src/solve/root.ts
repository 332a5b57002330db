import type { Pairing } from '../match';
import { identity, rotate, unrotate } from '../math/quat';
import { emptyPose, forward } from '../skeleton';
import type { PosePlan } from './plan';
import type { Posed } from './pose';

/** Where the body is over time. */
export interface RootPath {
  /** Local translations of the joint that carries the body, 3 per frame. */
  readonly moves: Float64Array;
  /** World rotation of that joint's parent, 4 per frame; identity for a root. */
  readonly parentQ: Float64Array;
  /** Translations of the ground joint, 3 per frame; empty without one. */
  readonly ground: Float64Array;
}

/**
 * Root: places the character so that the middle of its hip joints stands where the performer's does, scaled; the ground joint,
 * where there is one, follows under it.
 */
export function placeRoot({ character, scale }: Pairing, plan: PosePlan, { frames, rotations, middle, slides }: Posed): RootPath {
  const { skeleton } = character;
  const { parents, restT } = skeleton;
  const joints = parents.length;
  const { mover, ground, hipWay, hips } = plan;
  const pose = emptyPose(skeleton);
  const translations = restT.slice();
  const moves = new Float64Array(frames * 3);
  const parentQ = new Float64Array(frames * 4);
  const groundMoves = new Float64Array(ground >= 0 ? frames * 3 : 0);
  const parent = parents[mover];
  const v = new Float64Array(3);
  for (let f = 0; f < frames; f++) {
    const x = middle[f * 3] * scale.stride;
    const y = middle[f * 3 + 1] * scale.lift;
    const z = middle[f * 3 + 2] * scale.stride;
    if (ground >= 0) {
      translations[ground * 3] = groundMoves[f * 3] = x;
      groundMoves[f * 3 + 1] = restT[ground * 3 + 1];
      translations[ground * 3 + 2] = groundMoves[f * 3 + 2] = z;
    }
    for (const { joint, values } of slides) for (let c = 0; c < 3; c++) translations[joint * 3 + c] = values[f * 3 + c];
    forward(pose, parents, translations, rotations, f * joints * 4, hipWay);
    const P = pose.positions;
    v[0] = x - (P[hips[0] * 3] + P[hips[1] * 3]) / 2;
    v[1] = y - (P[hips[0] * 3 + 1] + P[hips[1] * 3 + 1]) / 2;
    v[2] = z - (P[hips[0] * 3 + 2] + P[hips[1] * 3 + 2]) / 2;
    if (parent < 0) identity(parentQ, f * 4);
    else for (let c = 0; c < 4; c++) parentQ[f * 4 + c] = pose.rotations[parent * 4 + c];
    unrotate(v, 0, parentQ, f * 4, v, 0);
    for (let c = 0; c < 3; c++) moves[f * 3 + c] = restT[mover * 3 + c] + v[c];
  }
  return { moves, parentQ, ground: groundMoves };
}

/** A root path with the body moved by some way in the world. @param shift metres, 3 per frame */
export function shifted({ moves, parentQ, ground }: RootPath, shift: Float64Array): RootPath {
  const out = moves.slice();
  const v = new Float64Array(3);
  for (let i = 0; i < shift.length; i += 3) {
    if (shift[i] === 0 && shift[i + 1] === 0 && shift[i + 2] === 0) continue;
    unrotate(v, 0, parentQ, (i / 3) * 4, shift, i);
    for (let c = 0; c < 3; c++) out[i + c] += v[c];
  }
  return { moves: out, parentQ, ground };
}

/** From one path of a body to another, in the world, 3 per frame. */
export function wayBetween(from: RootPath, to: RootPath): Float64Array {
  const out = new Float64Array(from.moves.length);
  const v = new Float64Array(3);
  for (let i = 0; i < out.length; i += 3) {
    for (let c = 0; c < 3; c++) v[c] = to.moves[i + c] - from.moves[i + c];
    rotate(out, i, from.parentQ, (i / 3) * 4, v, 0);
    if (from.ground.length > 0) for (let c = 0; c < 3; c++) out[i + c] += to.ground[i + c] - from.ground[i + c];
  }
  return out;
}

/** Takes the straight way from the first frame to the last out of the path, and keeps the sway about it. */
export function withoutTravel({ moves, parentQ, ground }: RootPath): RootPath {
  const frames = moves.length / 3;
  if (ground.length > 0) return { moves, parentQ, ground: ground.map((v, i) => (i % 3 === 1 ? v : 0)) };
  const world = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) rotate(world, f * 3, parentQ, f * 4, moves, f * 3);
  const from = world.slice(0, 3);
  const to = world.slice((frames - 1) * 3);
  const out = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    const t = frames > 1 ? f / (frames - 1) : 0;
    for (const c of [0, 2]) world[f * 3 + c] -= from[c] + (to[c] - from[c]) * t;
    unrotate(out, f * 3, parentQ, f * 4, world, f * 3);
  }
  return { moves: out, parentQ, ground };
}
