import type { Clip } from '../clip';
import { chain, SIDES } from '../label';
import { mulInv, rotate, unrotate } from '../math/quat';
import type { LayerDoes, LayerEnd, LayerFrame, ReachTrack } from '../recipe';
import type { Rig } from '../rig';
import type { Pose } from '../skeleton';
import { byBody, inWorld, type Axes } from './axes';
import { valueAt } from './curve';
import { limbOf, reachTo, type Limb } from './limb';
import { Poser } from './poser';
import { bendTo } from './trunk';

const CENTIMETRE = 0.01;

/** A limb end that is moved, made ready. */
interface End {
  readonly end: LayerEnd;
  readonly joint: number;
  readonly limb: Limb | undefined;
  /** Joints of the trunk that follow, from the hips up. */
  readonly trunk: readonly number[];
  /** The joint that the amounts go with; −1 for the world. */
  readonly frame: number;
  readonly keys: ReachTrack['keys'];
}

/** Hips go first, and the head before the hands: what comes later is brought to its place from where that has left it. */
const ORDER: readonly LayerEnd[] = ['hips', 'head', 'left.foot', 'right.foot', 'left.hand', 'right.hand'];

/** Moves limb ends by keyed ways, or to keyed places, in the world's frame or in that of hips or chest; hands and feet keep how they are turned. */
export function layReach(
  rig: Rig,
  clip: Clip,
  { way, tracks, trunk }: Extract<LayerDoes, { kind: 'reach' }>,
  weights: Float64Array,
  timeOf: (frame: number) => number,
): Clip {
  const ends = [...tracks]
    .sort((a, b) => ORDER.indexOf(a.end) - ORDER.indexOf(b.end))
    .flatMap((track) => (track.keys.length === 0 ? [] : (endOf(rig, track) ?? [])));
  if (ends.length === 0) return clip;
  const poser = new Poser(rig, clip, [...ends.flatMap(({ joint, frame }) => [joint, Math.max(0, frame)]), rig.roles.get('hips')!]);
  const goals = new Float64Array(ends.length * 3);
  const amounts = new Float64Array(3);
  for (let f = 0; f < clip.frames; f++) {
    if (weights[f] === 0) continue;
    const pose = poser.at(f);
    ends.forEach(({ keys, joint, frame }, i) => {
      valueAt(amounts, keys, timeOf(f));
      if (way === 'add') goalBeside(rig, pose, joint, frame, amounts, weights[f], goals, i * 3);
      else goalAt(rig, pose, joint, frame, amounts, weights[f], goals, i * 3);
    });
    ends.forEach((end, i) => bring(poser, end, goals, i * 3, trunk));
  }
  return poser.clip;
}

function endOf(rig: Rig, { end, frame, keys }: ReachTrack): End | undefined {
  const joint = rig.roles.get(end);
  if (joint === undefined) return undefined;
  const side = SIDES.find((one) => end.startsWith(one));
  const limb = side && limbOf(rig, side, end.endsWith('foot') ? 'leg' : 'arm');
  const spine = chain(rig.roles, 'spine');
  const trunk = end === 'head' ? [...spine, ...chain(rig.roles, 'neck')] : end.endsWith('hand') ? spine : [];
  return { end, joint, limb, trunk, frame: frameOf(rig, frame), keys };
}

/** The joint that places of a frame go with; −1 for the world. */
export function frameOf({ roles }: Pick<Rig, 'roles'>, frame: LayerFrame): number {
  if (frame === 'world') return -1;
  const hips = roles.get('hips') ?? -1;
  return frame === 'chest' ? (chain(roles, 'spine').at(-1) ?? hips) : (roles.get(frame) ?? -1);
}

const v = new Float64Array(3);
const q = new Float64Array(4);

/** A vector of the body at rest as a joint carries it now. */
function carried({ restPose }: Pick<Rig, 'restPose'>, { rotations }: Pose, joint: number, out: Float64Array): void {
  if (joint < 0) return;
  mulInv(q, 0, rotations, joint * 4, restPose.rotations, joint * 4);
  rotate(out, 0, q, 0, out, 0);
}

function goalBeside(
  rig: Rig,
  pose: Pose,
  joint: number,
  frame: number,
  by: Float64Array,
  weight: number,
  goals: Float64Array,
  o: number,
): void {
  inWorld(rig, v, by, CENTIMETRE * weight);
  carried(rig, pose, frame, v);
  for (let c = 0; c < 3; c++) goals[o + c] = pose.positions[joint * 3 + c] + v[c];
}

function goalAt(
  rig: Rig,
  pose: Pose,
  joint: number,
  frame: number,
  at: Float64Array,
  weight: number,
  goals: Float64Array,
  o: number,
): void {
  inWorld(rig, v, at, CENTIMETRE);
  carried(rig, pose, frame, v);
  for (let c = 0; c < 3; c++) {
    const here = pose.positions[joint * 3 + c];
    const there = v[c] + (frame < 0 ? 0 : pose.positions[frame * 3 + c]);
    goals[o + c] = here + weight * (there - here);
  }
}

/** Where a limb end is in a frame, centimetres by the axes of the body at rest: the amounts of a key that would leave it there. */
export function placeIn(rig: Axes, pose: Pose, joint: number, frame: number): [number, number, number] {
  const out = new Float64Array(3);
  for (let c = 0; c < 3; c++) out[c] = pose.positions[joint * 3 + c] - (frame < 0 ? 0 : pose.positions[frame * 3 + c]);
  if (frame >= 0) {
    mulInv(q, 0, pose.rotations, frame * 4, rig.restPose.rotations, frame * 4);
    unrotate(out, 0, q, 0, out, 0);
  }
  return byBody(rig, out, CENTIMETRE);
}

/** Brings a limb end to its goal; its limb bends, the trunk gives its share, and it keeps how it is turned in the world. */
function bring(poser: Poser, { end, joint, limb, trunk }: End, goals: Float64Array, o: number, share: number): void {
  const { positions: P, rotations: R } = poser.pose;
  if (end === 'hips') {
    for (let c = 0; c < 3; c++) v[c] = goals[o + c] - P[joint * 3 + c];
    poser.move(v);
    return;
  }
  const turned = R.slice(joint * 4, joint * 4 + 4);
  if (end === 'head') bendTo(poser, trunk, joint, goals, o);
  else if (share > 0 && limb) {
    // The shoulder goes its share of the hand's way.
    const shoulder = new Float64Array(3);
    for (let c = 0; c < 3; c++) shoulder[c] = P[limb.top * 3 + c] + share * (goals[o + c] - P[joint * 3 + c]);
    bendTo(poser, trunk, limb.top, shoulder, 0);
  }
  if (limb) reachTo(poser, limb, goals, o);
  poser.lay(joint, turned, 0);
}
