import type { Clip } from '../clip';
import { BODY_PARTS, middleOf, type BodyPart, type Rig } from '../rig';
import { restsOf, type Span } from './still';
import type { Watch } from './watch';

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
export const LYING: Readonly<Record<BodyPart, number>> = { 'left.knee': 0.11, 'right.knee': 0.11, seat: 0.18, back: 0.26, head: 0.3 };
const NEAR = 2;

/** Watches knees, seat, back and head. */
export function watchBody({ roles }: Rig, frames: number): Watch & { readonly places: BodyContacts['places'] } {
  const parts = BODY_PARTS.map((part) => ({ part, joints: middleOf(part, roles) })).filter(({ joints }) => joints.length > 0);
  const series = parts.map(() => new Float64Array(frames * 3));
  return {
    places: new Map(parts.map(({ part }, i) => [part, series[i]])),
    joints: parts.flatMap(({ joints }) => joints),
    see: (f, { positions }) => {
      for (let i = 0; i < parts.length; i++) {
        const { joints } = parts[i];
        for (let k = 0; k < joints.length; k++) {
          for (let c = 0; c < 3; c++) series[i][f * 3 + c] += positions[joints[k] * 3 + c] / joints.length;
        }
      }
    },
  };
}

/**
 * Where knees, seat, back and head of the performer rest on the floor, once all frames have been watched.
 * @param floor its height, metres
 * @returns undefined for a take in which none comes near
 */
export function bodyIn(
  { places }: ReturnType<typeof watchBody>,
  { legLength }: Rig,
  { frames, frameTime }: Clip,
  floor: number,
): BodyContacts | undefined {
  const low = new Uint8Array(frames);
  let any = false;
  for (const [part, list] of places) {
    const near = floor + NEAR * LYING[part] * legLength;
    for (let f = 0; f < frames; f++) {
      if (list[f * 3 + 1] >= near) continue;
      low[f] = 1;
      any = true;
    }
  }
  if (!any) return undefined;
  const rests = [...places].flatMap(([part, list]) => {
    const high = LYING[part] * legLength;
    // In most takes none of them is ever down.
    let lowest = Infinity;
    for (let f = 0; f < frames; f++) if (list[f * 3 + 1] < lowest) lowest = list[f * 3 + 1];
    if (lowest - floor >= high) return [];
    const rests = restsOf(list, frameTime, legLength, { may: (f) => list[f * 3 + 1] - floor < high });
    return joined(rests, list).map((span) => ({ part, ...span }));
  });
  return { places, rests, low };
}

/** Rests between which the part was never higher than in them are one: it rolled over, or slid, but stayed down. @param places 3 per frame */
function joined(rests: readonly Span[], places: Float64Array): Span[] {
  const highest = ({ first, last }: Span): number => {
    let top = -Infinity;
    for (let f = first; f <= last; f++) top = Math.max(top, places[f * 3 + 1]);
    return top;
  };
  const out: Span[] = [];
  for (const rest of rests) {
    const before = out[out.length - 1] as Span | undefined;
    const between = before && highest({ first: before.last + 1, last: rest.first - 1 });
    if (before && between! <= Math.max(highest(before), highest(rest))) out[out.length - 1] = { first: before.first, last: rest.last };
    else out.push(rest);
  }
  return out;
}
