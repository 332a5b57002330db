import { carryJoints, jointKeys, trim, type Ready, type Rig, type MotionFile } from '@hollow-stride/core';
import { copyClip } from '../solver/clips';
import { displayBody } from '../solver/display';
import type { PairRequest } from '../solver/messages';
import type { JointedBody, JointsView } from './messages';

/** Frames on each side of the one that is looked at. */
const AROUND = 24;

/** A pairing that goes joint by joint as it stands, with the frames about one frame carried over. */
export function jointsViewOf(request: PairRequest, { job, pairing, take, carrying }: Ready, frame: number): JointsView {
  const { performer, character, joints, warnings } = pairing;
  const { map, settings } = joints!;
  const first = Math.max(0, Math.min(frame, take.frames - 1) - AROUND);
  const last = Math.min(take.frames - 1, first + 2 * AROUND);
  const clip = carryJoints(performer, character, map, settings, trim(performer.skeleton, take, first, last));
  return {
    pair: request,
    performer: jointedBody(performer, job.take, request.take.file),
    character: jointedBody(character, job.character, request.character.file),
    map,
    settings,
    motions: job.character.clips.map(({ name, frames, frameTime }) => ({ name, seconds: Math.max(0, frames - 1) * frameTime })),
    warnings,
    window: { clip: copyClip(clip), first },
    frames: take.frames,
    frameTime: take.frameTime,
    laidAt: carrying?.into?.first,
  };
}

function jointedBody(rig: Rig, file: MotionFile, source: string): JointedBody {
  const { skeleton, restPose, unit, up, upReason } = rig;
  const depths: number[] = [];
  skeleton.parents.forEach((parent, j) => (depths[j] = parent < 0 ? 0 : depths[parent] + 1));
  return {
    display: displayBody(rig, file, source),
    rest: restPose,
    keys: jointKeys(skeleton),
    names: [...skeleton.names],
    depths,
    unit,
    up,
    upReason,
  };
}
