import { between, exp, log, mul, rotate } from '../math/quat';
import { envelope, smoothstep } from '../math/filter';
import { length } from '../math/vec';
import type { Foot } from '../rig';
import { carryOver } from './carry';
import { framesToHeld } from './held';
import type { LimbTrack } from './limbTrack';
import { pivotsOf, type Pivots } from './pivot';
import type { FootPlan } from './stances';
import { bendToes } from './toes';
import { underFoot, type UnderFoot } from './underFoot';

/** Where one foot shall be in each frame. */
export interface FootPath {
  /** Ankle targets in the world, 3 per frame. */
  readonly ankle: Float64Array;
  /** World rotations of the foot and the toes, 4 per frame. */
  readonly footQ: Float64Array;
  readonly toesQ: Float64Array;
  /** 1 in frames in which heel or ball is held, or comes to its place or leaves it as the performer's. */
  readonly held: Uint8Array;
  /** 1 in frames in which heel or ball is held still. */
  readonly still: Uint8Array;
  /** 1 in frames in which the limb stays as it is posed. */
  readonly idle?: Uint8Array;
  /** How far an end turns along with its limb instead of keeping its turn in the world, frame by frame; undefined never. */
  readonly along?: Float64Array;
}

/** Seconds over which a foot is lifted to clear the floor and let down again. */
const CLEAR = 0.12;
/** A sole that slopes by this much tells which of heel and ball is lower. */
const TOLD = 0.03;

/**
 * The path of a foot. In a plant the contact probe is held exactly at its place: heel alone pivots
 * on the heel, ball alone on the ball, both together lie flat on the floor along the stance's heading. Between plants the
 * correction of place and of rotation is carried over, so a swing keeps its shape, and no probe sinks below the floor.
 * @param isSloped the floor rises from stance to stance
 */
export function planFootPath(leg: LimbTrack, foot: Foot, plan: FootPlan, floor: number, frameTime: number, isSloped = false): FootPath {
  const { data } = leg;
  const { frames } = leg;
  const under = underFoot(plan.anchors, frames, floor, isSloped);
  const pivots = pivotsOf(plan.anchors, frames);
  const { held, still } = pivots;

  const { footQ, lead } = rotations(leg, foot, plan, frameTime, pivots);
  const ankle = new Float64Array(frames * 3);
  const shift = new Float64Array(frames * 3);
  const arm = new Float64Array(3);
  /** Adds the ankle's place that holds one probe at its anchor, by its share in it. */
  const hold = (f: number, at: number, share: number): void => {
    if (share === 0) return;
    const anchor = plan.anchors[at];
    rotate(arm, 0, footQ, f * 4, anchor.point, 0);
    ankle[f * 3] += share * (anchor.x - arm[0]);
    ankle[f * 3 + 1] += share * (anchor.y + anchor.up - arm[1]);
    ankle[f * 3 + 2] += share * (anchor.z - arm[2]);
    // Before and behind the still frames the probe goes as the performer's does.
    const way = f < anchor.first ? anchor.before : f > anchor.last ? anchor.after : undefined;
    if (!way) return;
    const o = (f < anchor.first ? f - (anchor.first - way.length / 3) : f - anchor.last - 1) * 3;
    for (let c = 0; c < 3; c++) ankle[f * 3 + c] += share * way[o + c];
  };
  for (let f = 0; f < frames; f++) {
    if (!held[f]) continue;
    hold(f, pivots.heel[f], 1 - lead[f]);
    hold(f, pivots.ball[f], lead[f]);
    for (let c = 0; c < 3; c++) shift[f * 3 + c] = ankle[f * 3 + c] - data[f * leg.stride + leg.at.end + c];
  }
  carryOver(shift, 3, held, frameTime);
  for (let f = 0; f < frames; f++) {
    if (held[f]) continue;
    for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * leg.stride + leg.at.end + c] + shift[f * 3 + c];
  }
  clearFloor(ankle, footQ, foot, held, under, frameTime);
  const toesQ = bendToes({ leg, foot, ankle, footQ, under, frameTime }, plan.tips);
  return { ankle, footQ, toesQ, held, still };
}

/**
 * Foot rotations: exactly flat where heel and ball are held, the correction carried over elsewhere; and how far the ball leads. On the
 * floor a foot turns about what of it is lower; neither has to be still for that.
 */
function rotations(
  leg: LimbTrack,
  foot: Foot,
  plan: FootPlan,
  frameTime: number,
  { heel, ball, share }: Pivots,
): { readonly footQ: Float64Array; readonly lead: Float64Array } {
  const { data } = leg;
  const frames = share.length;
  const turn = new Float64Array(frames * 3);
  const given = new Uint8Array(frames);
  const sole = Float64Array.of(foot.ball[0] - foot.heel[0], foot.ball[1] - foot.heel[1], foot.ball[2] - foot.heel[2]);
  const size = length(sole, 0);
  const now = new Float64Array(3);
  const wanted = new Float64Array(3);
  const q = new Float64Array(4);
  for (const flat of plan.flats) {
    for (let f = flat.first; f <= flat.last; f++) {
      rotate(now, 0, data, f * leg.stride + leg.at.endQ, sole, 0);
      wanted[0] = flat.x;
      wanted[1] = flat.y;
      wanted[2] = flat.z;
      between(q, 0, now, 0, wanted, 0);
      log(turn, f * 3, q, 0);
      given[f] = 1;
    }
  }
  carryOver(turn, 3, given, frameTime);
  const isRaised = (at: number): boolean => at >= 0 && plan.anchors[at].raised;
  const lead = share.slice();
  const out = new Float64Array(frames * 4);
  for (let f = 0; f < frames; f++) {
    exp(q, 0, turn[f * 3], turn[f * 3 + 1], turn[f * 3 + 2]);
    mul(out, f * 4, q, 0, data, f * leg.stride + leg.at.endQ);
    if (given[f] || isRaised(heel[f]) || isRaised(ball[f])) continue;
    rotate(now, 0, out, f * 4, sole, 0);
    if (heel[f] >= 0 && ball[f] >= 0) lead[f] += ((now[1] < 0 ? 1 : 0) - lead[f]) * smoothstep(Math.abs(now[1]) / (TOLD * size));
    // Pivoting on one probe, the other must not go below the floor; off a step or a rung it may.
    else if (heel[f] >= 0 ? now[1] < 0 : ball[f] >= 0 && now[1] > 0) {
      wanted[0] = now[0];
      wanted[1] = 0;
      wanted[2] = now[2];
      between(q, 0, now, 0, wanted, 0);
      mul(out, f * 4, q, 0, out, f * 4);
    }
  }
  return { footQ: out, lead };
}

/** Lifts a swinging foot where heel or ball would go below the floor, smoothly where there is time for it. */
function clearFloor(ankle: Float64Array, footQ: Float64Array, foot: Foot, held: Uint8Array, under: UnderFoot, frameTime: number): void {
  const frames = held.length;
  const need = new Float64Array(frames);
  const arm = new Float64Array(3);
  const below = (f: number): number => under(f, ankle[f * 3] + arm[0], ankle[f * 3 + 2] + arm[2]) - (ankle[f * 3 + 1] + arm[1]);
  let any = false;
  for (let f = 0; f < frames; f++) {
    if (held[f]) continue;
    rotate(arm, 0, footQ, f * 4, foot.heel, 0);
    let low = below(f);
    rotate(arm, 0, footQ, f * 4, foot.ball, 0);
    low = Math.max(low, below(f));
    need[f] = Math.max(0, low);
    any = any || need[f] > 0;
  }
  if (!any) return;
  const radius = Math.round(CLEAR / frameTime);
  const lift = envelope(need, radius);
  const distance = framesToHeld(held);
  for (let f = 0; f < frames; f++) {
    if (!held[f]) ankle[f * 3 + 1] += Math.max(need[f], lift[f] * smoothstep(distance[f] / (radius + 1)));
  }
}
