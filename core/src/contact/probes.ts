import { ClipReader, type Clip } from '../clip';
import type { Side } from '../label';
import type { Rig } from '../rig';
import { pointInWorld, withAncestors } from '../skeleton';

/** One foot of the performer: probes at heel, ball and tip in the world, by offset within a frame's record. */
export const PROBE = { heel: 0, ball: 3, tip: 6, stride: 9 } as const;

export interface ProbeTrack {
  readonly side: Side;
  /** frames × `PROBE.stride`, metres. */
  readonly data: Float64Array;
}

/** Where heel, ball and toe tip of each foot are, frame by frame. Only the legs are posed. */
export function traceProbes({ skeleton, feet }: Pick<Rig, 'skeleton' | 'feet'>, clip: Clip): ProbeTrack[] {
  const joints = withAncestors(
    skeleton.parents,
    feet.map(({ foot, toes }) => (toes >= 0 ? toes : foot)),
  );
  const reader = new ClipReader(skeleton, clip, joints);
  const tracks = feet.map(({ side }) => ({ side, data: new Float64Array(clip.frames * PROBE.stride) }));
  for (let f = 0; f < clip.frames; f++) {
    const pose = reader.at(f);
    for (let i = 0; i < feet.length; i++) {
      const foot = feet[i];
      const { data } = tracks[i];
      const o = f * PROBE.stride;
      pointInWorld(data, o + PROBE.heel, pose, foot.foot, foot.heel, 0);
      pointInWorld(data, o + PROBE.ball, pose, foot.foot, foot.ball, 0);
      pointInWorld(data, o + PROBE.tip, pose, foot.toes >= 0 ? foot.toes : foot.foot, foot.tip, 0);
    }
  }
  return tracks;
}
