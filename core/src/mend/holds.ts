import type { Clip } from '../clip';
import { ClipReader } from '../clip';
import type { Contacts } from '../contact';
import { chain, SIDES, type Role } from '../label';
import { exp, log, mul, mulInv, rotate } from '../math/quat';
import { distance } from '../math/vec';
import type { Rig } from '../rig';
import { withAncestors, type Pose } from '../skeleton';
import { coverCurve, fillCurve, unbroken } from '../math/leastCurve';
import { dropFor, limbOf, reachTo, shortBy, type Limb } from './limb';
import { Poser } from './poser';
import { bendTo } from './trunk';
import type { HeldEnd } from '../recipe';

/** A limb end that rests: it is where it is in a motion, and stays there whatever is laid over that. */
export interface Hold {
  readonly end: HeldEnd;
  readonly first: number;
  readonly last: number;
  /** What it rests on, where that moves: a part of the body, the other hand, a thing beside the body. */
  readonly on?: Role;
  /** A person holds it there: the trunk gives way where the limb does not reach. */
  readonly isAsked?: boolean;
}

/** A correction dies out, and goes over from one rest to the next, within about so long, seconds: a quick step's swing. */
const DIES_OUT = 0.15;
/** The trunk leans so often for one hand after the other: what it does for one moves both. */
const LEANS = 4;
/** A hand that strays from its rest by less than this share of a leg is let be: nobody sees it, and a straight elbow would pay for it. */
const PLAY = 0.008;

/** What rests in a transfer: feet in their plants; hands on what does not move, on things, on the body and on each other. */
export function holdsOf({ plants, hands }: Pick<Contacts, 'plants' | 'hands'>): Hold[] {
  const feet = plants.map(({ side, first, last }): Hold => ({ end: `${side}.foot`, first, last }));
  const palms = (hands?.touches ?? []).map(({ side, on, part, first, last }): Hold => {
    // Of hands that meet the right one goes with the left.
    if (on === 'hand') return { end: 'right.hand', first, last, on: 'left.hand' };
    return { end: `${side}.hand`, first, last, ...(part !== undefined && on !== 'rest' && { on: part }) };
  });
  return [...feet, ...palms];
}

/**
 * Brings what rests back to where it was: in each rest the limb's end has the place and the turn that it had, and between rests what that
 * corrects goes over without a corner. Where nothing was changed nothing is.
 * @param before the motion in which it rests
 * @param after the same with something laid over it
 * @param changed 1 in frames that differ
 */
export function settle(rig: Rig, before: Clip, after: Clip, holds: readonly Hold[], changed: Uint8Array): Clip {
  const moved = movedJoints(before, after);
  const limbs = SIDES.flatMap((side) =>
    (['foot', 'hand'] as const).flatMap((part) => {
      const end: HeldEnd = `${side}.${part}`;
      const own = holds.filter((hold) => hold.end === end && isChanged(hold, changed));
      const parts = [end, ...own.flatMap(({ on }) => (on === undefined ? [] : [on]))];
      if (!parts.some((role) => isMoved(rig.skeleton.parents, rig.roles.get(role) ?? -1, moved))) return [];
      const limb = own.length > 0 ? limbOf(rig, side, part === 'foot' ? 'leg' : 'arm') : undefined;
      return limb ? [{ limb, own, isLeg: part === 'foot' }] : [];
    }),
  );
  if (limbs.length === 0) return after;
  const bases = limbs.map(({ own }) => basesOf(rig, own, after.frames));
  const joints = [...limbs.map(({ limb }) => limb.end), ...new Set(bases.flatMap((list) => [...list]).filter((joint) => joint >= 0))];
  const asked = withAncestors(rig.skeleton.parents, joints);
  const was = new ClipReader(rig.skeleton, before, asked);
  const poser = new Poser(rig, after, joints);
  const ways = limbs.map(({ own, isLeg }) => new Way(own, changed, isLeg ? 0 : PLAY * rig.legLength));
  for (let f = 0; f < after.frames; f++) {
    if (!changed[f] || ways.every((way) => !way.given[f])) continue;
    const then = was.at(f);
    const now = poser.at(f);
    ways.forEach((way, i) => way.note(f, limbs[i].limb.end, bases[i][f], then, now));
  }
  return leadEnds(
    poser,
    limbs.map(({ limb, isLeg, own }, i) => ({
      limb,
      isLeg,
      values: ways[i].values,
      given: ways[i].given,
      trunk: !isLeg && own.some(({ isAsked }) => isAsked) ? chain(rig.roles, 'spine') : undefined,
    })),
    changed,
  );
}

/** A limb whose end is led elsewhere: by a way in the world and a rotation vector in each frame that is given (6 numbers), freely between. */
export interface Led {
  readonly limb: Limb;
  readonly isLeg: boolean;
  readonly values: Float64Array;
  readonly given: Uint8Array;
  /** Joints of the trunk that bend where the limb does not reach, from the hips up. */
  readonly trunk?: readonly number[];
}

/**
 * Leads limb ends by ways that are given in some frames and go over without a corner in the others; hips come down where a leg would not reach.
 * @param changed 1 in frames that may differ
 */
export function leadEnds(poser: Poser, limbs: readonly Led[], changed: Uint8Array): Clip {
  const after = poser.clip;
  for (const { values, given } of limbs) fillCurve(values, 6, given, DIES_OUT, unbroken(after.frames, after.frameTime));
  const to = new Float64Array(3);
  const goals = limbs.map(() => ({ place: new Float64Array(3), turn: new Float64Array(4) }));
  const drop = new Float64Array(after.frames);
  for (let f = 0; f < after.frames; f++) {
    if (!changed[f]) continue;
    const pose = poser.at(f);
    for (const { limb, isLeg, values, given } of limbs) {
      if (!isLeg || !given[f]) continue;
      for (let c = 0; c < 3; c++) to[c] = pose.positions[limb.end * 3 + c] + values[f * 6 + c];
      drop[f] = Math.max(drop[f], dropFor(pose, limb, to, 0));
    }
  }
  const lower = coverCurve(drop, DIES_OUT, unbroken(after.frames, after.frameTime));
  for (let f = 0; f < after.frames; f++) {
    if (!changed[f]) continue;
    poser.at(f);
    // Hips that were taken out of reach of what stands come down to it.
    if (lower) poser.move(to.fill(0).fill(-lower[f], 1, 2));
    limbs.forEach(({ limb, values }, i) => goalOf(poser.pose, limb, values, f * 6, goals[i]));
    for (let round = 0; round < LEANS; round++) {
      for (const [i, { limb, trunk }] of limbs.entries()) if (trunk && trunk.length > 0) lean(poser, limb, trunk, goals[i].place, to);
    }
    limbs.forEach(({ limb, values, trunk }, i) => {
      // What another's leaning trunk moves is brought back.
      if (isLed(values, f * 6) || (trunk && trunk.length > 0)) lead(poser, limb, goals[i]);
    });
  }
  return poser.clip;
}

/** How far a limb's end has to go back, frame by frame: a way in the world, and a rotation vector. */
class Way {
  readonly values: Float64Array;
  /** 1 where the way is known: in rests, and where nothing was changed. */
  readonly given: Uint8Array;
  private readonly q = new Float64Array(4);
  private readonly turn = new Float64Array(4);
  private readonly to = new Float64Array(3);

  /** @param play metres by which it may stray */
  constructor(
    holds: readonly Hold[],
    changed: Uint8Array,
    private readonly play: number,
  ) {
    this.values = new Float64Array(changed.length * 6);
    this.given = changed.map((one) => (one ? 0 : 1));
    for (const { first, last } of holds) this.given.fill(1, first, last + 1);
  }

  /** @param base the joint that it rests on, −1 for what does not move */
  note(f: number, joint: number, base: number, then: Pose, now: Pose): void {
    if (!this.given[f]) return;
    const { q, to } = this;
    for (let c = 0; c < 3; c++) to[c] = then.positions[joint * 3 + c];
    mulInv(q, 0, then.rotations, joint * 4, now.rotations, joint * 4);
    if (base >= 0) {
      // Where it lay on what it rests on, as that lies now.
      const { turn } = this;
      mulInv(turn, 0, now.rotations, base * 4, then.rotations, base * 4);
      for (let c = 0; c < 3; c++) to[c] -= then.positions[base * 3 + c];
      rotate(to, 0, turn, 0, to, 0);
      for (let c = 0; c < 3; c++) to[c] += now.positions[base * 3 + c];
      mul(q, 0, turn, 0, q, 0);
    }
    for (let c = 0; c < 3; c++) this.values[f * 6 + c] = to[c] - now.positions[joint * 3 + c];
    log(this.values, f * 6 + 3, q, 0);
    const [x, y, z] = this.values.subarray(f * 6, f * 6 + 3);
    const size = x * x + y * y + z * z;
    if (this.play > 0) for (let c = 0; c < 6; c++) this.values[f * 6 + c] *= size / (size + this.play * this.play);
  }
}

/** Where a limb's end shall be, and how it shall be turned in the world. */
interface Goal {
  readonly place: Float64Array;
  readonly turn: Float64Array;
}

function goalOf({ positions, rotations }: Pose, { end }: Limb, values: Float64Array, o: number, { place, turn }: Goal): void {
  for (let c = 0; c < 3; c++) place[c] = positions[end * 3 + c] + values[o + c];
  exp(turn, 0, values[o + 3], values[o + 4], values[o + 5]);
  mul(turn, 0, turn, 0, rotations, end * 4);
}

/** False for a way that is none. */
function isLed(values: Float64Array, o: number): boolean {
  let size = 0;
  for (let c = 0; c < 6; c++) size = Math.max(size, Math.abs(values[o + c]));
  return size >= 1e-7;
}

/** Bends the trunk so that a limb that is too short for its goal reaches it. */
function lean(poser: Poser, limb: Limb, trunk: readonly number[], goal: Float64Array, to: Float64Array): void {
  const { positions: P } = poser.pose;
  const short = shortBy(poser.pose, limb, goal);
  if (short <= 0) return;
  const way = distance(P, limb.top * 3, goal, 0);
  for (let c = 0; c < 3; c++) to[c] = P[limb.top * 3 + c] + (short / way) * (goal[c] - P[limb.top * 3 + c]);
  bendTo(poser, trunk, limb.top, to, 0);
}

function lead(poser: Poser, limb: Limb, { place, turn }: Goal): void {
  reachTo(poser, limb, place, 0);
  poser.lay(limb.end, turn, 0);
}

/** By frame the joint that an end rests on; −1 where that does not move, and where it rests on nothing. */
function basesOf({ roles }: Rig, holds: readonly Hold[], frames: number): Int32Array {
  const out = new Int32Array(frames).fill(-1);
  for (const { on, first, last } of holds) if (on !== undefined) out.fill(roles.get(on) ?? -1, first, last + 1);
  return out;
}

const isChanged = ({ first, last }: Hold, changed: Uint8Array): boolean => changed.subarray(first, last + 1).includes(1);

/** 1 for joints that are turned or moved otherwise in any frame. */
function movedJoints(before: Clip, after: Clip): Uint8Array {
  const stride = before.rotations.length / before.frames;
  const moved = new Uint8Array(stride / 4);
  const [a, b] = [before.rotations, after.rotations];
  for (let j = 0; j < moved.length; j++) {
    for (let o = j * 4; o < a.length && !moved[j]; o += stride) {
      if (a[o] !== b[o] || a[o + 1] !== b[o + 1] || a[o + 2] !== b[o + 2] || a[o + 3] !== b[o + 3]) moved[j] = 1;
    }
  }
  before.moves.forEach(({ joint, values }, i) => {
    const other = after.moves[i].values;
    if (values !== other && values.some((value, k) => value !== other[k])) moved[joint] = 1;
  });
  return moved;
}

/** Whether a joint, or one that it hangs on, is among those. */
function isMoved(parents: Int32Array, joint: number, moved: Uint8Array): boolean {
  for (let j = joint; j >= 0; j = parents[j]) if (moved[j]) return true;
  return false;
}
