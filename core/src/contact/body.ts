import { ClipReader, type Clip } from '../clip';
import { BODY_PARTS, middleOf, type BodyPart, type Rig } from '../rig';
import { withAncestors } from '../skeleton';
import { restsOf, type Span } from './still';

/** A span of frames in which a part of the body rests on the floor. */
export interface BodyRest extends Span {
  readonly part: BodyPart;
}

/** Where the parts of the performer's body are while it is near the floor. */
export interface BodyContacts {
  /** Middles of the parts over time, 3 per frame; of parts that the skeleton has not, nothing. */
  readonly places: ReadonlyMap<BodyPart, Float64Array>;
  readonly rests: readonly BodyRest[];
  /** 1 in frames in which any part is so near the floor that another body's might be in it. */
  readonly low: Uint8Array;
}

/** Shares of a leg over the floor: below them the middle of a part that rests lies on it; this many times as high it is near. */
const LYING: Readonly<Record<BodyPart, number>> = { 'left.knee': 0.11, 'right.knee': 0.11, seat: 0.18, back: 0.26, head: 0.3 };
const NEAR = 2;

/**
 * Where knees, seat, back and head of the performer rest on the floor, from performer and clip alone.
 * @param floor its height, metres
 * @returns undefined for a take in which none comes near
 */
export function findBody({ skeleton, roles, legLength }: Rig, clip: Clip, floor: number): BodyContacts | undefined {
  const { frames, frameTime } = clip;
  const parts = BODY_PARTS.map((part) => ({ part, joints: middleOf(part, roles), high: LYING[part] * legLength })).filter(
    ({ joints }) => joints.length > 0,
  );
  const reader = new ClipReader(
    skeleton,
    clip,
    withAncestors(
      skeleton.parents,
      parts.flatMap(({ joints }) => joints),
    ),
  );
  const series = parts.map(() => new Float64Array(frames * 3));
  const low = new Uint8Array(frames);
  let any = false;
  for (let f = 0; f < frames; f++) {
    const { positions } = reader.at(f);
    for (let i = 0; i < parts.length; i++) {
      const { joints, high } = parts[i];
      const places = series[i];
      for (let k = 0; k < joints.length; k++) {
        for (let c = 0; c < 3; c++) places[f * 3 + c] += positions[joints[k] * 3 + c] / joints.length;
      }
      if (places[f * 3 + 1] - floor < NEAR * high) {
        low[f] = 1;
        any = true;
      }
    }
  }
  if (!any) return undefined;
  const rests = parts.flatMap(({ part, high }, i) =>
    restsOf(series[i], frameTime, legLength, (f) => series[i][f * 3 + 1] - floor < high).map((span) => ({ part, ...span })),
  );
  return { places: new Map(parts.map(({ part }, i) => [part, series[i]])), rests, low };
}
