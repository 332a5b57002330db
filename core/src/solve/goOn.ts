import { smootherstep } from '../math/filter';
import { rotate } from '../math/quat';
import type { LimbTrack } from './limbTrack';
import type { Past } from './past';
import type { Anchor, FlatSpan, FootPlan } from './stances';

/** A foot that is found to stand when it was shown on its way already comes to its place within so many seconds. */
const LATE = 0.07;
const lateBy = (frameTime: number): number => Math.ceil(LATE / frameTime);
/** It stands where it was shown if that is no farther from its place, metres: else it goes there. */
const NEAR = 0.03;

/**
 * Makes the plan of a foot go on from what is final: a heel or ball that was held in the last final frame stays where it was held, for as long as
 * it is found to be; what is newly found stands beside it; and what is found too late comes to the floor from where it was shown.
 * @param k of the foot
 */
export function goOn(plan: FootPlan, leg: LimbTrack, past: Past, k: number, frameTime: number): FootPlan {
  const { frames: from, stood } = past;
  if (from === 0) return plan;
  const before = stood[k];
  /** How far what is found in a group has to go to stand beside what stood. */
  const shifts = new Map<number, { x: number; y: number; z: number; count: number }>();
  const standing = new Map<Anchor, Anchor>();
  for (const now of plan.anchors) {
    const was = before.anchors.find(
      (one) => one.part === now.part && isHeldAt(one, from - 1) && startOf(now) <= from - 1 && endOf(now) >= from,
    );
    if (!was) continue;
    const { x, y, z, point, up } = was;
    // One that was found late is still on its way.
    const comes = was.first >= from && { first: was.first, before: was.before, last: Math.max(now.last, was.first) };
    standing.set(now, { ...now, x, y, z, point, up, ...comes });
    const sum = shifts.get(now.group) ?? { x: 0, y: 0, z: 0, count: 0 };
    shifts.set(now.group, { x: sum.x + x - now.x, y: sum.y + y - now.y, z: sum.z + z - now.z, count: sum.count + 1 });
  }
  const anchors = plan.anchors.flatMap((one): Anchor[] => {
    const stays = standing.get(one);
    if (stays) return [stays];
    if (endOf(one) < from) return [];
    const by = shifts.get(one.group);
    const beside = by ? { ...one, x: one.x + by.x / by.count, y: one.y + by.y / by.count, z: one.z + by.z / by.count } : one;
    return startOf(one) > from ? [beside] : [late(beside, leg, past, k, frameTime)];
  });
  return { ...plan, anchors, flats: plan.flats.map((flat) => kept(flat, before.flats, from, frameTime)) };
}

/** First and last frame in which an anchor holds the foot: still, or coming and leaving. */
const startOf = ({ first, before }: Anchor): number => first - before.length / 3;
const endOf = ({ last, after }: Anchor): number => last + after.length / 3;

/** True when an anchor holds the foot in a frame. */
export function isHeldAt(anchor: Anchor, frame: number): boolean {
  return startOf(anchor) <= frame && endOf(anchor) >= frame;
}

/** A foot that is flat stays turned as it was; one that is found to be flat too late takes its time. */
function kept(flat: FlatSpan, before: readonly FlatSpan[], from: number, frameTime: number): FlatSpan {
  if (flat.first >= from || flat.last < from) return flat;
  const was = before.find(({ first, last }) => first <= flat.last + lateBy(frameTime) && last >= from - 1);
  if (was && was.first < from) return { ...was, first: flat.first, last: flat.last };
  const first = was?.first ?? from + lateBy(frameTime);
  return { ...flat, first, last: Math.max(flat.last, first) };
}

/**
 * An anchor that should hold the foot already, though it was shown without: it stands where the foot was shown, if it is still and near, and the
 * foot goes over to it from its copied way.
 */
function late(anchor: Anchor, leg: LimbTrack, past: Past, k: number, frameTime: number): Anchor {
  const from = past.frames;
  const shown = from - 1;
  const { places, turns } = past.feet[k];
  const { first, last, up, point } = anchor;
  const copied = (f: number): Float64Array => placed(leg.data, f * leg.stride + leg.at.endQ, leg.data, f * leg.stride + leg.at.end, point);
  const there = placed(turns, shown * 4, places, shown * 3, point);
  const away = copied(shown).map((v, c) => there[c] - v);
  let { x, z } = anchor;
  const [dx, dz] = [there[0] - x, there[2] - z];
  if (first < from && dx * dx + dz * dz < NEAR * NEAR) [x, z] = [there[0], there[2]];
  const until = Math.min(Math.max(last, from), Math.max(first, from + lateBy(frameTime)));
  const before = new Float64Array(Math.max(0, until - from) * 3);
  for (let f = from; f < until; f++) {
    const left = 1 - smootherstep((f - shown) / (until - shown));
    const way = copied(f);
    for (let c = 0; c < 3; c++) before[(f - from) * 3 + c] = left * (way[c] + away[c] - (c === 0 ? x : c === 1 ? anchor.y + up : z));
  }
  return { ...anchor, x, z, first: until, last: Math.max(last, until), before };
}

/** Where a point of a foot is. */
function placed(turns: Float64Array, q: number, places: Float64Array, o: number, point: Float64Array): Float64Array {
  const out = new Float64Array(3);
  rotate(out, 0, turns, q, point, 0);
  for (let c = 0; c < 3; c++) out[c] += places[o + c];
  return out;
}
