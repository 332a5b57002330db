import type { Clip } from '../clip';
import { invMul } from '../math/quat';
import { mend } from '../mend';
import { makeLayer, type ReelClip } from '../recipe';
import type { Rig } from '../rig';
import { waysOf } from './slip';
import type { Piece } from './piece';

/** A pose that is held: joints turned from their rest, both feet standing. */
export function makePose(rig: Rig, pose: NonNullable<ReelClip['pose']>, frames: number, fps: number): Piece {
  const { skeleton, restPose, roles } = rig;
  const count = skeleton.names.length;
  const local = restPose.rotations.slice();
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0) invMul(local, j * 4, restPose.rotations, parent * 4, restPose.rotations, j * 4);
  });
  const rotations = new Float32Array(frames * count * 4);
  for (let f = 0; f < frames; f++) rotations.set(local, f * count * 4);
  const roots = [...skeleton.parents.keys()].filter((j) => skeleton.parents[j] < 0);
  const moves = roots.map((joint) => ({
    joint,
    values: Float32Array.from({ length: frames * 3 }, (_, i) => restPose.positions[joint * 3 + (i % 3)]),
  }));
  const standing: Clip = { name: 'pose', frameTime: 1 / fps, frames, rotations, moves };
  const tracks = Object.entries(pose)
    .filter(([role]) => roles.has(role))
    .map(([role, value]) => ({ role, keys: [{ at: 0, value }] }));
  const layer = makeLayer({ name: 'pose', does: { kind: 'turns', way: 'replace', tracks }, asPosed: true });
  const clip = mend({ rig, clip: standing, contacts: { plants: [] }, timeOf: (f) => f / fps }, [layer]);
  const stands = (): Uint8Array => new Uint8Array(frames).fill(1);
  return { clip, planted: [stands(), stands()], pure: stands(), ways: waysOf(rig, clip) };
}
