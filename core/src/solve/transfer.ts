import { ClipReader, type Clip } from '../clip/clip';
import type { Pairing } from '../match';
import { SIDES } from '../label/roles';
import { copy, identity, invMul, mul, normalize, rotate, slerp, unrotate } from '../math/quat';
import { isBelow, pathDown } from '../skeleton/skeleton';
import type { Body } from '../body';
import { LEG, PROBE, type LegTrack, type ProbeTrack, type Transferred } from './tracks';

const enum Kind {
  Rest,
  Direct,
  Blend,
}

/**
 * Stages 5 and 7: pose transfer and root.
 *
 * A joint's turn from rest in the world, Δ = G·G(rest)⁻¹, is laid on the matched rest M of the linked joint: Δ·M. As
 * G(rest)⁻¹·M does not change over time it is multiplied out once, which leaves two products a joint and frame.
 * @param clip on the performer's skeleton, metres, Y up
 */
export function transferPose(pairing: Pairing, clip: Clip): Transferred {
  const { performer, character, match, links, scale } = pairing;
  const { skeleton } = character;
  const { parents } = skeleton;
  const joints = parents.length;
  const frames = clip.frames;
  const reader = new ClipReader(performer.skeleton, clip);

  // The plan for each joint: how it is driven, and the constant factors.
  const kind = new Uint8Array(joints);
  const linkA = new Int32Array(joints);
  const linkB = new Int32Array(joints);
  const share = new Float64Array(joints);
  const factorA = new Float64Array(joints * 4);
  const factorB = new Float64Array(joints * 4);
  for (const { joint, a, b, t } of links) {
    kind[joint] = a === b ? Kind.Direct : Kind.Blend;
    linkA[joint] = a;
    linkB[joint] = b;
    share[joint] = t;
    invMul(factorA, joint * 4, performer.restPose.rotations, a * 4, match.pose.rotations, joint * 4);
    invMul(factorB, joint * 4, performer.restPose.rotations, b * 4, match.pose.rotations, joint * 4);
  }
  const mover = findMover(character);
  const ground = findGround(character, mover);
  const legs = makeLegTracks(character, frames);
  const probes: ProbeTrack[] = performer.feet.map(({ side }) => ({ side, data: new Float64Array(frames * PROBE.stride) }));
  const hipsL = character.roles.get('left.upperLeg')!;
  const hipsR = character.roles.get('right.upperLeg')!;
  const sourceL = performer.roles.get('left.upperLeg')!;
  const sourceR = performer.roles.get('right.upperLeg')!;

  // Only joints with something driven at or below them need a world rotation; only ways to legs need a position.
  const turning: number[] = [];
  const placed = new Uint8Array(joints);
  for (let j = 0; j < joints; j++) {
    if (links.some(({ joint }) => isBelow(skeleton, joint, j))) turning.push(j);
    const onLeg = legs.some((leg) => isBelow(skeleton, leg.toes >= 0 ? leg.toes : leg.foot, j));
    placed[j] = onLeg ? 1 : 0;
  }

  const rotations = new Float32Array(frames * joints * 4);
  const moves = new Float32Array(frames * 3);
  const groundMoves = new Float32Array(ground >= 0 ? frames * 3 : 0);
  const rest = Float32Array.from(skeleton.restR);
  const G = new Float64Array(joints * 4);
  const P = new Float64Array(joints * 3);
  const restT = skeleton.restT;
  const q = new Float64Array(8);
  const v = new Float64Array(3);
  const moverParent = parents[mover];
  const moverParentQ = new Float64Array(4);
  identity(moverParentQ, 0);

  for (let f = 0; f < frames; f++) {
    const source = reader.at(f);
    const S = source.rotations;
    const SP = source.positions;
    const row = f * joints * 4;
    rotations.set(rest, row);

    for (let p = 0; p < probes.length; p++) {
      const foot = performer.feet[p];
      const o = f * PROBE.stride;
      const { data } = probes[p];
      placePoint(data, o + PROBE.heel, S, SP, foot.foot, foot.heel);
      placePoint(data, o + PROBE.ball, S, SP, foot.foot, foot.ball);
      placePoint(data, o + PROBE.tip, S, SP, foot.toes >= 0 ? foot.toes : foot.foot, foot.tip);
    }

    // Where the middle of the hip joints goes.
    const midX = ((SP[sourceL * 3] + SP[sourceR * 3]) / 2) * scale.stride;
    const midY = ((SP[sourceL * 3 + 1] + SP[sourceR * 3 + 1]) / 2) * scale.lift;
    const midZ = ((SP[sourceL * 3 + 2] + SP[sourceR * 3 + 2]) / 2) * scale.stride;

    for (const j of turning) {
      const parent = parents[j];
      const o = j * 4;
      if (kind[j] === Kind.Rest) {
        if (parent < 0) copy(G, o, rest, o);
        else mul(G, o, G, parent * 4, skeleton.restR, o);
      } else {
        mul(G, o, S, linkA[j] * 4, factorA, o);
        if (kind[j] === Kind.Blend) {
          mul(q, 4, S, linkB[j] * 4, factorB, o);
          slerp(G, o, G, o, q, 4, share[j]);
          normalize(G, o);
        }
        if (parent < 0) copy(rotations, row + o, G, o);
        else invMul(rotations, row + o, G, parent * 4, G, o);
      }
      if (placed[j] === 1) {
        if (j === ground) {
          P[j * 3] = midX;
          P[j * 3 + 1] = restT[j * 3 + 1];
          P[j * 3 + 2] = midZ;
          groundMoves[f * 3] = midX;
          groundMoves[f * 3 + 1] = restT[j * 3 + 1];
          groundMoves[f * 3 + 2] = midZ;
        } else if (parent < 0) {
          P[j * 3] = restT[j * 3];
          P[j * 3 + 1] = restT[j * 3 + 1];
          P[j * 3 + 2] = restT[j * 3 + 2];
        } else {
          rotate(P, j * 3, G, parent * 4, restT, j * 3);
          P[j * 3] += P[parent * 3];
          P[j * 3 + 1] += P[parent * 3 + 1];
          P[j * 3 + 2] += P[parent * 3 + 2];
        }
      }
    }
    if (f === 0 && moverParent >= 0) copy(moverParentQ, 0, G, moverParent * 4);

    const shiftX = midX - (P[hipsL * 3] + P[hipsR * 3]) / 2;
    const shiftY = midY - (P[hipsL * 3 + 1] + P[hipsR * 3 + 1]) / 2;
    const shiftZ = midZ - (P[hipsL * 3 + 2] + P[hipsR * 3 + 2]) / 2;
    v[0] = shiftX;
    v[1] = shiftY;
    v[2] = shiftZ;
    unrotate(v, 0, moverParentQ, 0, v, 0);
    moves[f * 3] = restT[mover * 3] + v[0];
    moves[f * 3 + 1] = restT[mover * 3 + 1] + v[1];
    moves[f * 3 + 2] = restT[mover * 3 + 2] + v[2];

    for (const leg of legs) {
      const { data } = leg;
      const o = f * LEG.stride;
      placeShifted(data, o + LEG.hip, P, leg.upper, shiftX, shiftY, shiftZ);
      placeShifted(data, o + LEG.knee, P, leg.lower, shiftX, shiftY, shiftZ);
      placeShifted(data, o + LEG.hock, P, leg.hock >= 0 ? leg.hock : leg.foot, shiftX, shiftY, shiftZ);
      placeShifted(data, o + LEG.ankle, P, leg.foot, shiftX, shiftY, shiftZ);
      const upperParent = parents[leg.upper];
      if (upperParent < 0) identity(data, o + LEG.parentQ);
      else copy(data, o + LEG.parentQ, G, upperParent * 4);
      copy(data, o + LEG.upperQ, G, leg.upper * 4);
      copy(data, o + LEG.lowerQ, G, leg.lower * 4);
      copy(data, o + LEG.hockQ, G, (leg.hock >= 0 ? leg.hock : leg.lower) * 4);
      copy(data, o + LEG.footQ, G, leg.foot * 4);
      if (leg.toes >= 0) copy(data, o + LEG.toesQ, G, leg.toes * 4);
      else copy(data, o + LEG.toesQ, G, leg.foot * 4);
    }
  }
  return {
    frames,
    frameTime: clip.frameTime,
    rotations,
    mover,
    moves,
    moverParentQ,
    ground: ground >= 0 ? { joint: ground, moves: groundMoves } : undefined,
    legs,
    probes,
  };
}

function placePoint(
  out: Float64Array,
  oo: number,
  rotations: Float64Array,
  positions: Float64Array,
  joint: number,
  local: Float64Array,
): void {
  rotate(out, oo, rotations, joint * 4, local, 0);
  out[oo] += positions[joint * 3];
  out[oo + 1] += positions[joint * 3 + 1];
  out[oo + 2] += positions[joint * 3 + 2];
}

function placeShifted(out: Float64Array, oo: number, positions: Float64Array, joint: number, x: number, y: number, z: number): void {
  out[oo] = positions[joint * 3] + x;
  out[oo + 1] = positions[joint * 3 + 1] + y;
  out[oo + 2] = positions[joint * 3 + 2] + z;
}

/**
 * The joint that carries the body over the floor: the hips, or, in a BVH file whose hips have no position channels, the
 * nearest joint above that has them; the root when none has.
 */
function findMover({ file, roles, skeleton }: Body): number {
  const hips = roles.get('hips')!;
  const { layout } = file;
  if (layout.format === 'glb') return hips;
  const canMove = (j: number): boolean => layout.channels[j].filter((c) => c < 3).length === 3;
  for (let j = hips; j >= 0; j = skeleton.parents[j]) if (canMove(j)) return j;
  let root = hips;
  while (skeleton.parents[root] >= 0) root = skeleton.parents[root];
  return root;
}

/** The ground joint, when it can follow the hips over the floor; −1 otherwise. */
function findGround({ file, roles, skeleton }: Body, mover: number): number {
  const ground = roles.get('ground');
  if (ground === undefined || ground === mover || skeleton.parents[ground] >= 0) return -1;
  if (pathDown(skeleton, ground, mover).length === 0) return -1;
  const { layout } = file;
  return layout.format === 'glb' || layout.channels[ground].filter((c) => c < 3).length === 3 ? ground : -1;
}

function makeLegTracks(character: Body, frames: number): LegTrack[] {
  return SIDES.map((side) => {
    const at = (part: string): number => character.roles.get(`${side}.${part}`) ?? -1;
    return {
      side,
      upper: at('upperLeg'),
      lower: at('lowerLeg'),
      hock: at('hock'),
      foot: at('foot'),
      toes: at('toes'),
      data: new Float64Array(frames * LEG.stride),
    };
  });
}
