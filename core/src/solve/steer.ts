import { ClipReader, type Clip } from '../clip';
import type { Contacts } from '../contact';
import { SIDES } from '../label';
import { sharedProps, type Pairing } from '../match';
import { fromAxisAngle, mul, unrotate } from '../math/quat';
import { turnLeft } from '../math/vec';
import { isBelow, withAncestors } from '../skeleton';
import type { Steering } from '../touchup';
import type { PosePlan } from './plan';
import type { Posed } from './pose';

/** A body that goes another way over the floor: it turns, and so does what it has of its way from there on. */
export function steerPose(pairing: Pairing, plan: PosePlan, posed: Posed, steer: Steering): Posed {
  const { character, performer, match, scale } = pairing;
  const { frames } = posed;
  const { mover } = plan;
  const { skeleton } = character;
  const joints = skeleton.parents.length;
  const rotations = posed.rotations.slice();
  const q = new Float64Array(4);
  // Things beside the body turn with it.
  const beside = sharedProps(pairing).map(({ joint }) => joint);
  for (const joint of [mover, ...beside.filter((one) => !isBelow(skeleton, one, mover))]) {
    const parent = skeleton.parents[joint];
    const up = Float64Array.of(0, 1, 0);
    if (parent >= 0) unrotate(up, 0, match.pose.rotations, parent * 4, up, 0);
    for (let f = 0; f < frames; f++) {
      if (steer.heading[f] === 0) continue;
      const o = (f * joints + joint) * 4;
      fromAxisAngle(q, 0, up[0], up[1], up[2], steer.heading[f]);
      mul(rotations, o, q, 0, rotations, o);
    }
  }
  const middle = steeredWay(posed.middle, steer);
  for (let f = 0; f < frames; f++) {
    for (const c of [0, 2]) {
      middle[f * 3 + c] += (performer.left[c] * steer.left[f] + performer.forward[c] * steer.ahead[f]) / scale.stride;
    }
  }
  return { ...posed, rotations, middle };
}

/** How far from its own way a steered body has come by a frame, metres of the character, to the left and ahead as the performer faces at rest. */
export function steeredBy({ performer, scale }: Pairing, take: Clip, steer: Steering, frame: number): [left: number, ahead: number] {
  const { roles, skeleton, left, forward } = performer;
  const hips = SIDES.map((side) => roles.get(`${side}.upperLeg`)!);
  const reader = new ClipReader(skeleton, take, withAncestors(skeleton.parents, hips));
  const way = new Float64Array((frame + 1) * 3);
  for (let f = 0; f <= frame; f++) {
    const { positions } = reader.at(f);
    for (let c = 0; c < 3; c++) way[f * 3 + c] = (positions[hips[0] * 3 + c] + positions[hips[1] * 3 + c]) / 2;
  }
  const away = steeredWay(way, steer).subarray(frame * 3);
  const along = (axis: Float64Array): number => [0, 2].reduce((sum, c) => sum + (away[c] - way[frame * 3 + c]) * axis[c], 0) * scale.stride;
  return [along(left), along(forward)];
}

/** A way whose steps are turned, and made longer or shorter, frame by frame; heights stay. */
function steeredWay(path: Float64Array, { heading, longer }: Pick<Steering, 'heading' | 'longer'>): Float64Array {
  const out = path.slice();
  const v = new Float64Array(3);
  for (let i = 3; i < path.length; i += 3) {
    for (let c = 0; c < 3; c++) v[c] = path[i + c] - path[i - 3 + c];
    turnLeft(v, 0, heading[i / 3]);
    const share = Math.max(0, 1 + longer[i / 3]);
    out[i] = out[i - 3] + v[0] * share;
    out[i + 2] = out[i - 1] + v[2] * share;
  }
  return out;
}

/**
 * The performer's touches, where the body goes another way.
 * @param from middle of the performer's hip joints, 3 per frame
 * @param to the same as it is steered
 */
export function steerContacts(contacts: Contacts, from: Float64Array, to: Float64Array, { heading }: Steering): Contacts {
  /** @param frame in which all of the places are; each in its own without it */
  const moved = (places: Float64Array, frame?: number): Float64Array => {
    const out = places.slice();
    for (let i = 0; i < out.length; i += 3) {
      const at = frame ?? i / 3;
      for (let c = 0; c < 3; c++) out[i + c] -= from[at * 3 + c];
      turnLeft(out, i, heading[at]);
      for (let c = 0; c < 3; c++) out[i + c] += to[at * 3 + c];
    }
    return out;
  };
  const turned = (ways: Float64Array, frame: number): Float64Array => {
    const out = ways.slice();
    for (let i = 0; i < out.length; i += 3) turnLeft(out, i, heading[frame]);
    return out;
  };
  const { plants, hands, body, ground } = contacts;
  return {
    ...contacts,
    ...(ground && { ground: { ...ground, isSteered: true } }),
    plants: plants.map((plant) => {
      const { first, last, creep, place } = plant;
      return {
        ...plant,
        ...(creep && { creep: { before: turned(creep.before, first), after: turned(creep.after, last) } }),
        ...(place && { place: moved(place, (first + last) >> 1) }),
      };
    }),
    hands: hands && {
      ...hands,
      palms: hands.palms.map((palm) => palm && moved(palm)),
      tips: hands.tips.map((tip) => tip && moved(tip)),
      props: hands.props?.map((one) => ({ ...one, places: moved(one.places) })),
    },
    body: body && { ...body, places: new Map([...body.places].map(([part, places]) => [part, moved(places)])) },
  };
}
