import type { Clip } from '../clip';
import type { Side } from '../label';
import type { Rig } from '../rig';
import { distance, length } from '../math/vec';
import { pointInWorld } from '../skeleton';
import { watch, type Watch } from './watch';

/** One foot of the performer: probes at heel, ball and tip, and the joint of the toes, in the world, by offset within a frame's record. */
export const PROBE = { heel: 0, ball: 3, tip: 6, bend: 9, stride: 12 } as const;

export interface ProbeTrack {
  readonly side: Side;
  /** frames × `PROBE.stride`, metres. */
  readonly data: Float64Array;
  /** Length of the toes in shares of the way from heel to ball; 0 for a foot without. */
  readonly toes: number;
}

/** Watches heel, ball, toe tip and the joint of the toes of each foot; where it has none, the ball stands for it. */
export function watchProbes({ feet }: Pick<Rig, 'feet'>, frames: number): Watch & { readonly tracks: ProbeTrack[] } {
  const tracks = feet.map(({ side, toes, heel, ball, tip }) => ({
    side,
    data: new Float64Array(frames * PROBE.stride),
    toes: toes >= 0 ? length(tip, 0) / distance(heel, 0, ball, 0) : 0,
  }));
  return {
    tracks,
    joints: feet.map(({ foot, toes }) => (toes >= 0 ? toes : foot)),
    see: (f, pose) => {
      for (let i = 0; i < feet.length; i++) {
        const foot = feet[i];
        const { data } = tracks[i];
        const o = f * PROBE.stride;
        pointInWorld(data, o + PROBE.heel, pose, foot.foot, foot.heel, 0);
        pointInWorld(data, o + PROBE.ball, pose, foot.foot, foot.ball, 0);
        pointInWorld(data, o + PROBE.tip, pose, foot.toes >= 0 ? foot.toes : foot.foot, foot.tip, 0);
        for (let c = 0; c < 3; c++)
          data[o + PROBE.bend + c] = foot.toes >= 0 ? pose.positions[foot.toes * 3 + c] : data[o + PROBE.ball + c];
      }
    },
  };
}

/** Where heel, ball, toe tip and the joint of the toes of each foot are, frame by frame. Only the legs are posed. */
export function traceProbes(rig: Pick<Rig, 'skeleton' | 'feet'>, clip: Clip): ProbeTrack[] {
  const probes = watchProbes(rig, clip.frames);
  watch(rig.skeleton, clip, [probes]);
  return probes.tracks;
}
