import { ClipReader, makeContinuous, type Clip } from '../clip';
import { mirrorRole } from '../label';
import { invMul, mul, mulInv, normalize } from '../math/quat';
import type { Rig } from '../rig';
import { Poser } from './poser';

/**
 * A motion as a mirror shows it that stands along the body's own middle at rest, through where the hips begin: each joint is turned from its
 * rest as its partner of the other side was, seen in the mirror, so that rests which are not mirror images come out right. Joints without a
 * role keep to what they hang on. Done twice it gives the motion back.
 */
export function mirrored(rig: Rig, clip: Clip): Clip {
  const { skeleton, roles, restPose, left } = rig;
  const { parents } = skeleton;
  const count = parents.length;
  const partner = new Int32Array(count).fill(-1);
  for (const [role, joint] of roles) partner[joint] = roles.get(mirrorRole(role)) ?? -1;
  const reader = new ClipReader(skeleton, clip);
  const rotations = new Float32Array(clip.rotations.length);
  const world = new Float64Array(count * 4);
  const q = new Float64Array(4);
  const hips = roles.get('hips')!;
  const start = Float64Array.from(reader.at(0).positions.subarray(hips * 3, hips * 3 + 3));
  const places = new Float64Array(clip.frames * 3);
  for (let f = 0; f < clip.frames; f++) {
    const { positions, rotations: R } = reader.at(f);
    const o = f * count * 4;
    for (let j = 0; j < count; j++) {
      const other = partner[j];
      if (other < 0) {
        if (parents[j] < 0) for (let c = 0; c < 4; c++) world[j * 4 + c] = clip.rotations[o + j * 4 + c];
        else mul(world, j * 4, world, parents[j] * 4, clip.rotations, o + j * 4);
      } else {
        mulInv(q, 0, R, other * 4, restPose.rotations, other * 4);
        reflectTurn(q, left);
        mul(world, j * 4, q, 0, restPose.rotations, j * 4);
      }
      if (parents[j] < 0) for (let c = 0; c < 4; c++) q[c] = world[j * 4 + c];
      else invMul(q, 0, world, parents[j] * 4, world, j * 4);
      normalize(q, 0);
      rotations.set(q, o + j * 4);
    }
    const along = 2 * [0, 1, 2].reduce((sum, c) => sum + (positions[hips * 3 + c] - start[c]) * left[c], 0);
    for (let c = 0; c < 3; c++) places[f * 3 + c] = positions[hips * 3 + c] - along * left[c];
  }
  makeContinuous(rotations, count);
  return led(rig, { ...clip, rotations }, hips, places);
}

/** A turn as a mirror with a normal shows it: its axis is a pseudovector. */
function reflectTurn(q: Float64Array, normal: Float64Array): void {
  const along = 2 * (q[0] * normal[0] + q[1] * normal[1] + q[2] * normal[2]);
  for (let c = 0; c < 3; c++) q[c] = along * normal[c] - q[c];
}

/** A motion whose hips are brought to places, 3 per frame. */
function led(rig: Rig, clip: Clip, hips: number, places: Float64Array): Clip {
  const poser = new Poser(rig, clip, [hips]);
  const way = new Float64Array(3);
  for (let f = 0; f < clip.frames; f++) {
    const { positions } = poser.at(f);
    for (let c = 0; c < 3; c++) way[c] = places[f * 3 + c] - positions[hips * 3 + c];
    poser.move(way);
  }
  return poser.clip;
}
