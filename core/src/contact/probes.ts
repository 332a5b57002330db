import type { Clip } from '../clip';
import type { Side } from '../label';
import type { Rig } from '../rig';
import { distance, length } from '../math/vec';
import { pointInWorld } from '../skeleton';
import { watch, type Watch } from './watch';

/** One foot of the performer over time, in the world: metres, 3 per frame. */
export interface ProbeTrack {
  readonly side: Side;
  readonly heel: Float64Array;
  readonly ball: Float64Array;
  /** The joint that the toes bend at, and their tip; where it has none, the ball stands for the joint. */
  readonly joint: Float64Array;
  readonly tip: Float64Array;
  /** Length of the toes in shares of the way from heel to ball; 0 for a foot without. */
  readonly toes: number;
  /** 1 in frames in which the sole faces up. */
  readonly isOver: Uint8Array;
}

/** A foot that is everywhere at the origin. */
export function emptyTrack(side: Side, frames: number, toes = 0): ProbeTrack {
  const [heel, ball, joint, tip] = Array.from({ length: 4 }, () => new Float64Array(frames * 3));
  return { side, heel, ball, joint, tip, toes, isOver: new Uint8Array(frames) };
}

/** Watches heel, ball, toe tip and the joint of the toes of each foot. */
export function watchProbes({ feet }: Pick<Rig, 'feet'>, frames: number): Watch & { readonly tracks: ProbeTrack[] } {
  const tracks = feet.map(({ side, toes, heel, ball, tip }) =>
    emptyTrack(side, frames, toes >= 0 ? length(tip, 0) / distance(heel, 0, ball, 0) : 0),
  );
  return {
    tracks,
    joints: feet.map(({ foot, toes }) => (toes >= 0 ? toes : foot)),
    see: (f, pose) => {
      const o = f * 3;
      for (let i = 0; i < feet.length; i++) {
        const points = feet[i];
        const { foot, toes } = points;
        const { heel, ball, joint, tip, isOver } = tracks[i];
        pointInWorld(heel, o, pose, foot, points.heel, 0);
        pointInWorld(ball, o, pose, foot, points.ball, 0);
        pointInWorld(tip, o, pose, toes >= 0 ? toes : foot, points.tip, 0);
        isOver[f] = pose.positions[foot * 3 + 1] < Math.min(heel[o + 1], ball[o + 1]) ? 1 : 0;
        for (let c = 0; c < 3; c++) joint[o + c] = toes >= 0 ? pose.positions[toes * 3 + c] : ball[o + c];
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
