import { between, exp, log, mul, mulInv, rotate } from '../../math/quat';
import type { Foot } from '../../rig';
import type { LimbTrack } from '../limbTrack';
import { pivotsOf, type Pivots } from '../pivot';
import type { FootPlan } from '../stances';
import { fillCurve, type Time } from '../../math/leastCurve';

/** How slowly the turn that a foot is given bends, seconds. */
export const TURN = 0.05;

/** Frames in which the other probe is under the floor are found in so many rounds, as turning some brings others under it. */
const LEVEL_ROUNDS = 4;

/** One foot on its way through the resolver. */
export interface FootHold {
  readonly leg: LimbTrack;
  readonly foot: Foot;
  readonly plan: FootPlan;
  /** World rotations of the foot, 4 per frame. */
  readonly footQ: Float64Array;
  readonly pivots: Pivots;
  /** Of so many frames of the plan there is one. */
  readonly every: number;
}

/**
 * Turns a foot as its stances ask: flat where heel and ball are both held, and never with the other of them below the floor.
 * @param isOwn the character is the performer's own body: where the take has a foot in the floor it is
 * @param past turns that are final
 */
export function holdFoot(
  { leg, foot, plan }: Pick<FootHold, 'leg' | 'foot' | 'plan'>,
  time: Time,
  isOwn: boolean,
  past?: { readonly frames: number; readonly turns: Float64Array },
): FootHold {
  const { data, frames, stride, at } = leg;
  const pivots = pivotsOf(plan.anchors, frames);
  const { heel, ball, held } = pivots;
  const turn = new Float64Array(frames * 3);
  const given = new Uint8Array(frames);
  const sole = foot.ball.map((v, c) => v - foot.heel[c]);
  const now = new Float64Array(3);
  const wanted = new Float64Array(3);
  const q = new Float64Array(4);
  const p = new Float64Array(4);
  for (const flat of plan.flats) {
    for (let f = flat.first; f <= flat.last; f++) {
      if (isOwn) {
        // Only its heading is held: it rolls and tips as the take has it.
        rotate(now, 0, data, f * stride + at.endQ, sole, 0);
        // A sole that stands upright has none.
        const level = Math.sqrt((now[0] * now[0] + now[2] * now[2]) / Math.max(1e-12, flat.x * flat.x + flat.z * flat.z));
        wanted.set([flat.x * level, now[1], flat.z * level]);
        between(q, 0, now, 0, wanted, 0);
      } else mulInv(q, 0, flat.turn, 0, data, f * stride + at.endQ);
      log(turn, f * 3, q, 0);
      given[f] = 1;
    }
  }
  const from = past?.frames ?? 0;
  for (let f = 0; past && f < from; f++) {
    mulInv(q, 0, past.turns, f * 4, data, f * stride + at.endQ);
    log(turn, f * 3, q, 0);
    given[f] = 1;
  }
  fillCurve(turn, 3, given, TURN, time);
  const isRaised = (i: number): boolean => i >= 0 && plan.anchors[i].raised;
  /** The turn with which the other probe comes up to the floor; false where it is not under it. */
  const level = (f: number): boolean => {
    if (isOwn || given[f] || !held[f] || (heel[f] >= 0 && ball[f] >= 0) || isRaised(heel[f]) || isRaised(ball[f])) return false;
    exp(p, 0, turn[f * 3], turn[f * 3 + 1], turn[f * 3 + 2]);
    mul(q, 0, p, 0, data, f * stride + at.endQ);
    rotate(now, 0, q, 0, sole, 0);
    if (heel[f] >= 0 ? now[1] >= 0 : now[1] <= 0) return false;
    wanted.set([now[0], 0, now[2]]);
    between(q, 0, now, 0, wanted, 0);
    mul(q, 0, q, 0, p, 0);
    log(turn, f * 3, q, 0);
    return true;
  };
  for (let round = 0; round < LEVEL_ROUNDS; round++) {
    let isUnder = false;
    for (let f = 0; f < frames; f++) {
      if (!level(f)) continue;
      isUnder = true;
      given[f] = 1;
    }
    if (!isUnder) break;
    fillCurve(turn, 3, given, TURN, time);
  }
  for (let f = 0; f < frames; f++) level(f);
  const footQ = new Float64Array(frames * 4);
  for (let f = 0; f < frames; f++) {
    exp(p, 0, turn[f * 3], turn[f * 3 + 1], turn[f * 3 + 2]);
    mul(footQ, f * 4, p, 0, data, f * stride + at.endQ);
  }
  return { leg, foot, plan, footQ, pivots, every: 1 };
}

const arm = new Float64Array(3);

/** Writes into `ends` how far the ankle goes where heel or ball is held: the held point stands at its place. @param share of the way @param from frames before this one are final */
export function holdEnd({ leg, plan, footQ, pivots, every }: FootHold, ends: Float64Array, share: number, from: number): void {
  const { data, stride, at, frames } = leg;
  const { heel, ball, share: lead, held } = pivots;
  for (let f = from; f < frames; f++) {
    if (!held[f]) continue;
    for (let c = 0; c < 3; c++) ends[f * 3 + c] = 0;
    add(heel[f], f, 1 - lead[f]);
    add(ball[f], f, lead[f]);
    for (let c = 0; c < 3; c++) ends[f * 3 + c] = share * (ends[f * 3 + c] - data[f * stride + at.end + c]);
  }

  function add(i: number, f: number, part: number): void {
    if (part === 0) return;
    const { x, y, z, up, point, first, last, before, after, own } = plan.anchors[i];
    let high = y + up;
    if (own !== undefined) {
      rotate(arm, 0, data, f * stride + at.endQ, point, 0);
      high = data[f * stride + at.end + 1] + arm[1] + y - own;
    }
    rotate(arm, 0, footQ, f * 4, point, 0);
    ends[f * 3] += part * (x - arm[0]);
    ends[f * 3 + 1] += part * (high - arm[1]);
    ends[f * 3 + 2] += part * (z - arm[2]);
    // Before and behind the still frames the point goes as the performer's does.
    const frame = f * every;
    const curve = frame < first ? before : frame > last ? after : undefined;
    if (!curve) return;
    const o = (frame < first ? frame - (first - curve.length / 3) : frame - last - 1) * 3;
    for (let c = 0; c < 3; c++) if (c !== 1 || own === undefined) ends[f * 3 + c] += part * curve[o + c];
  }
}
