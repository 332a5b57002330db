/** Motion carried over joint by joint: as changes from each rest, or as recorded. */
import { canBeSized, ClipReader, makeContinuous, unsized, type Clip, type Track } from '../clip';
import { between, copy, exp, fromAxisAngle, invMul, invert, log, mul, mulInv, normalize, rotate, unrotate } from '../math/quat';
import { TAU } from '../math/trig';
import { distance, length } from '../math/vec';
import type { ByJoint, Carry } from '../recipe';
import { childrenOf, emptyPose, forward, jointKeys, type Pose, type Skeleton } from '../skeleton';
import { relationsOf, type JointMap, type Jointed, type Relation } from './pairs';

/** The character, and which of its joints can be given a place over time. */
export interface Carried extends Jointed {
  readonly canMove: Uint8Array;
}

/** Places that change by less than this share of the way at rest stand still, and a rest nearer than this to the origin says nothing. */
const STILL = 1e-5;

/** What carries one joint. */
interface Carrier extends Relation {
  readonly carry: Carry;
  /** Turn of the world at rest from the performer's axes to those of the joint above on the character: C of the method. */
  readonly axes: Float64Array;
  /** At rest, in relation to the joint above: the performer's joints by source, and the character's. */
  readonly theirs: readonly Float64Array[];
  readonly mine: Float64Array;
  /** Of places: where the performer's joint is at rest, and the character's, in the frame of the joint above. */
  readonly theirPlace: Float64Array;
  readonly myPlace: Float64Array;
  readonly moves: boolean;
  /** Metres of the character for each of the performer. */
  readonly ratio: number;
  /** The change of the frame before, as rotation vectors by source, so that a full turn goes on counting. */
  readonly last: Float64Array;
}

/**
 * A take on another rig, joint by joint. Of each pair the change from rest is carried over, told in relation to the nearest pair above it:
 * R' = C (R R₀⁻¹) C⁻¹ R'₀ with C the difference of axes at rest, so that joints between pairs, and rigs drawn with other local axes, come out
 * right. Joints without a pair keep their rest.
 * @param take on the performer's skeleton, metres, Y up
 * @returns on the character's skeleton, metres, Y up, frame for frame beside the take
 */
export function carryJoints(performer: Jointed, character: Carried, map: JointMap, settings: ByJoint, take: Clip): Clip {
  const { skeleton } = character;
  const joints = skeleton.names.length;
  const resting = { ...character, restPose: neutralOf(performer, character, map, settings) };
  // Joints without a pair stand as they rest, however those that are pointed lie.
  const { rotations: locals, translations } = restLocals(character);
  // Channels are carried as channels: what hangs on a joint that grows follows it on the character as it does on the performer.
  const reader = new ClipReader(performer.skeleton, unsized(take));
  const carriers = carriersOf(performer, resting, map, settings, take);
  const moves = carriers
    .filter(({ moves: is }) => is)
    .map(({ pair }) => ({ joint: pair.target, values: new Float32Array(take.frames * 3) }));
  const moveOf = new Map(moves.map(({ joint, values }) => [joint, values]));
  // A root that rests elsewhere than its file says is stated too.
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0 || moveOf.has(j) || distance(translations, j * 3, skeleton.restT, j * 3) < STILL) return;
    const values = new Float32Array(take.frames * 3);
    for (let i = 0; i < values.length; i++) values[i] = translations[j * 3 + (i % 3)];
    moves.push({ joint: j, values });
  });
  const rotations = new Float32Array(take.frames * joints * 4);
  const pose = emptyPose(skeleton);
  const all = Int32Array.from(skeleton.parents, (_, j) => j);
  const carrierOf = new Map(carriers.map((carrier) => [carrier.pair.target, carrier]));
  const turn = new Float64Array(4);
  const place = new Float64Array(3);
  for (let f = 0; f < take.frames; f++) {
    const theirs = reader.at(f);
    for (let j = 0; j < joints; j++) {
      const carrier = carrierOf.get(j);
      if (carrier) {
        const parent = skeleton.parents[j];
        const above = carrier.above?.target ?? -1;
        turnOf(turn, carrier, theirs);
        if (above >= 0) mul(turn, 0, pose.rotations, above * 4, turn, 0);
        const moved = moveOf.get(j);
        if (moved) {
          placeOf(place, carrier, theirs);
          if (above >= 0) {
            rotate(place, 0, pose.rotations, above * 4, place, 0);
            for (let c = 0; c < 3; c++) place[c] += pose.positions[above * 3 + c];
          }
          if (parent >= 0) {
            for (let c = 0; c < 3; c++) place[c] -= pose.positions[parent * 3 + c];
            unrotate(place, 0, pose.rotations, parent * 4, place, 0);
          }
          for (let c = 0; c < 3; c++) moved[f * 3 + c] = translations[j * 3 + c] = place[c];
        }
        if (parent >= 0) invMul(locals, j * 4, pose.rotations, parent * 4, turn, 0);
        else copy(locals, j * 4, turn, 0);
        normalize(locals, j * 4);
      }
      forward(pose, skeleton.parents, translations, locals, 0, all.subarray(j, j + 1));
    }
    rotations.set(locals, f * joints * 4);
  }
  makeContinuous(rotations, joints);
  const sizes = sizesOf(performer, character, carriers, headingTurn(map), take);
  return {
    name: take.name,
    frameTime: take.frameTime,
    frames: take.frames,
    rotations,
    moves: moves.sort((a, b) => a.joint - b.joint),
    ...(sizes.length > 0 && { sizes }),
  };
}

/** Sizes of the character's joints: as their partners stretch along the same directions at rest. Those that would shear what hangs below are left out. */
function sizesOf(
  performer: Jointed,
  { skeleton, restPose }: Carried,
  carriers: readonly Carrier[],
  heading: Float64Array,
  take: Clip,
): Track[] {
  const tracks = new Map((take.sizes ?? []).map(({ joint, values }) => [joint, values]));
  const q = new Float64Array(4);
  const shares = new Float64Array(9);
  const axis = new Float64Array(3);
  return carriers.flatMap(({ pair, carry }): Track[] => {
    const sources = pair.sources.filter(({ joint }) => tracks.has(joint));
    if (carry.sizes === 'none' || sources.length === 0) return [];
    const values = new Float32Array(take.frames * 3).fill(1);
    for (const { joint, weight } of sources) {
      // Rows: how much of each of the performer's axes lies along one of the character's, squared.
      mul(q, 0, heading, 0, performer.restPose.rotations, joint * 4);
      invMul(q, 0, restPose.rotations, pair.target * 4, q, 0);
      for (let c = 0; c < 3; c++) {
        axis.fill(0);
        axis[c] = 1;
        if (carry.axes === 'world') rotate(axis, 0, q, 0, axis, 0);
        for (let r = 0; r < 3; r++) shares[r * 3 + c] = axis[r] * axis[r];
      }
      const theirs = tracks.get(joint)!;
      for (let f = 0; f < take.frames; f++) {
        for (let r = 0; r < 3; r++) {
          let along = 0;
          for (let c = 0; c < 3; c++) along += shares[r * 3 + c] * (theirs[f * 3 + c] - 1);
          values[f * 3 + r] += weight * carry.sizesTimes * along;
        }
      }
    }
    const track = { joint: pair.target, values: values.map((value) => Math.max(0, value)) };
    return canBeSized(skeleton, track) ? [track] : [];
  });
}

/** The rest pose as local values: of joints with a parent the skeleton's own translations. */
function restLocals({ skeleton, restPose }: Jointed): { rotations: Float64Array; translations: Float64Array } {
  const rotations = restPose.rotations.slice();
  const translations = skeleton.restT.slice();
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0) invMul(rotations, j * 4, restPose.rotations, parent * 4, restPose.rotations, j * 4);
    else for (let c = 0; c < 3; c++) translations[j * 3 + c] = restPose.positions[j * 3 + c];
  });
  return { rotations, translations };
}

function carriersOf(performer: Jointed, character: Carried, map: JointMap, settings: ByJoint, take: Clip): Carrier[] {
  const carryFor = carryOf(character.skeleton, settings);
  const sliding = slidingJoints(performer.skeleton, take);
  const [a, b] = [performer.restPose, character.restPose];
  const heading = headingTurn(map);
  return relationsOf(performer.skeleton, character.skeleton, map.pairs).map(({ pair, above }): Carrier => {
    const carry = carryFor(pair.target);
    const [theirAbove, myAbove] = [above?.sources[0].joint ?? -1, above?.target ?? -1];
    const axes = heading.slice();
    if (theirAbove >= 0) mul(axes, 0, axes, 0, a.rotations, theirAbove * 4);
    if (myAbove >= 0) invMul(axes, 0, b.rotations, myAbove * 4, axes, 0);
    const mine = new Float64Array(4);
    relative(mine, b, myAbove, pair.target);
    const [theirPlace, myPlace] = [new Float64Array(3), new Float64Array(3)];
    relativePlace(theirPlace, a, theirAbove, pair.sources[0].joint);
    relativePlace(myPlace, b, myAbove, pair.target);
    const moves =
      carry.places !== 'none' && character.canMove[pair.target] === 1 && slidesBelow(performer.skeleton, sliding, pair, theirAbove);
    return {
      pair,
      above,
      carry,
      axes: carry.axes === 'world' ? axes : identityTurn(),
      theirs: pair.sources.map(({ joint }) => {
        const q = new Float64Array(4);
        relative(q, a, theirAbove, joint);
        return q;
      }),
      mine,
      theirPlace,
      myPlace,
      moves,
      ratio: (carry.places === 'recorded' ? 1 : placeRatio(above !== undefined, theirPlace, myPlace, map.size)) * carry.placesTimes,
      last: new Float64Array(pair.sources.length * 3),
    };
  });
}

const identityTurn = (): Float64Array => Float64Array.of(0, 0, 0, 1);

/** A joint's turn in relation to another; in the world for −1. */
function relative(out: Float64Array, { rotations }: Pose, above: number, joint: number): void {
  if (above >= 0) invMul(out, 0, rotations, above * 4, rotations, joint * 4);
  else copy(out, 0, rotations, joint * 4);
}

function relativePlace(out: Float64Array, { positions, rotations }: Pose, above: number, joint: number): void {
  for (let c = 0; c < 3; c++) out[c] = positions[joint * 3 + c] - (above >= 0 ? positions[above * 3 + c] : 0);
  if (above >= 0) unrotate(out, 0, rotations, above * 4, out, 0);
}

/**
 * The character's rest as takes are laid on it: where a joint is carried as it points in the world, its bone lies as the performer's does
 * at rest, so that what is recorded holds for directions.
 */
function neutralOf(performer: Jointed, character: Jointed, map: JointMap, settings: ByJoint): Pose {
  const { skeleton, restPose } = character;
  const carry = carryOf(character.skeleton, settings);
  const pointed = map.pairs.filter(({ target }) => carry(target).turns === 'recorded' && carry(target).axes === 'world');
  if (pointed.length === 0) return restPose;
  const { rotations, translations } = restLocals(character);
  const heading = headingTurn(map);
  const pose = emptyPose(skeleton);
  const turn = new Float64Array(4);
  const sourceOf = new Map(pointed.map(({ target, sources }) => [target, sources[0].joint]));
  skeleton.parents.forEach((parent, j) => {
    const source = sourceOf.get(j);
    const theirs = source === undefined ? undefined : boneAt(performer, source);
    const own = boneAt(character, j);
    if (theirs && own) {
      rotate(theirs, 0, heading, 0, theirs, 0);
      between(turn, 0, own, 0, theirs, 0);
      mul(turn, 0, turn, 0, restPose.rotations, j * 4);
      if (parent >= 0) invMul(rotations, j * 4, pose.rotations, parent * 4, turn, 0);
      else copy(rotations, j * 4, turn, 0);
    }
    forward(pose, skeleton.parents, translations, rotations, 0, Int32Array.of(j));
  });
  return pose;
}

function headingTurn({ heading }: JointMap): Float64Array {
  const turn = new Float64Array(4);
  fromAxisAngle(turn, 0, 0, 1, 0, heading);
  return turn;
}

/** What is carried for a joint of the character. */
function carryOf(skeleton: Skeleton, { own, carry }: ByJoint): (joint: number) => Carry {
  const keys = jointKeys(skeleton);
  return (joint) => (own[keys[joint]] as Carry | undefined) ?? carry;
}

/** The world direction at rest from a joint to its only child, or its tip; undefined where it has none, or several. */
function boneAt({ skeleton, restPose: { positions, rotations } }: Jointed, joint: number): Float64Array | undefined {
  const children = childrenOf(skeleton)[joint];
  const out = new Float64Array(3);
  if (children.length === 1) for (let c = 0; c < 3; c++) out[c] = positions[children[0] * 3 + c] - positions[joint * 3 + c];
  else if (children.length === 0 && Number.isFinite(skeleton.tips[joint * 3]))
    rotate(out, 0, rotations, joint * 4, skeleton.tips, joint * 3);
  return length(out, 0) > 1e-9 ? out : undefined;
}

/** How places grow: as the joint is away from the one above it at rest; in the world, and where it lies on that one, as the whole is. */
function placeRatio(hasAbove: boolean, theirs: Float64Array, mine: Float64Array, size: number): number {
  const [a, b] = [length(theirs, 0), length(mine, 0)];
  return hasAbove && a > STILL && b > STILL ? b / a : size;
}

/** Joints of a skeleton that change their place at their parent in a clip. */
function slidingJoints(skeleton: Skeleton, clip: Clip): Uint8Array {
  const out = new Uint8Array(skeleton.names.length);
  for (const { joint, values } of clip.moves) {
    const scale = STILL * Math.max(1, length(skeleton.restT, joint * 3));
    for (let i = 0; i < values.length && out[joint] === 0; i++) {
      if (Math.abs(values[i] - skeleton.restT[joint * 3 + (i % 3)]) > scale) out[joint] = 1;
    }
  }
  return out;
}

function slidesBelow({ parents }: Skeleton, sliding: Uint8Array, { sources }: Relation['pair'], above: number): boolean {
  for (let j = sources[0].joint; j >= 0 && j !== above; j = parents[j]) if (sliding[j] === 1) return true;
  return false;
}

const change = new Float64Array(4);
const back = new Float64Array(4);
const vector = new Float64Array(3);
const sum = new Float64Array(3);

/** The character's turn in relation to the joint above. */
function turnOf(out: Float64Array, { pair, above, carry, axes, theirs, mine, last }: Carrier, pose: Pose): void {
  if (carry.turns === 'none') {
    copy(out, 0, mine, 0);
    return;
  }
  const from = above?.sources[0].joint ?? -1;
  const isPlain = pair.sources.length === 1 && pair.sources[0].weight * carry.turnsTimes === 1;
  sum.fill(0);
  for (let i = 0; i < pair.sources.length; i++) {
    relative(change, pose, from, pair.sources[i].joint);
    if (carry.turns === 'recorded' && carry.axes !== 'world') mulInv(change, 0, change, 0, mine, 0);
    else if (carry.axes === 'own') invMul(change, 0, theirs[i], 0, change, 0);
    else mulInv(change, 0, change, 0, theirs[i], 0);
    if (isPlain) break;
    unwound(vector, change, last, i * 3);
    const share = pair.sources[i].weight * carry.turnsTimes;
    for (let c = 0; c < 3; c++) sum[c] += share * vector[c];
  }
  if (!isPlain) exp(change, 0, sum[0], sum[1], sum[2]);
  // C · change · C⁻¹
  mul(change, 0, axes, 0, change, 0);
  invert(back, 0, axes, 0);
  mul(change, 0, change, 0, back, 0);
  if (carry.axes === 'own' && carry.turns === 'rest') mul(out, 0, mine, 0, change, 0);
  else mul(out, 0, change, 0, mine, 0);
}

/** A turn as a rotation vector that goes on from the frame before: past half a turn it grows on instead of coming from behind. */
function unwound(out: Float64Array, q: Float64Array, last: Float64Array, o: number): void {
  log(out, 0, q, 0);
  const size = length(out, 0);
  if (size > 1e-9) {
    const along = (last[o] * out[0] + last[o + 1] * out[1] + last[o + 2] * out[2]) / size;
    const turns = Math.round((along - size) / TAU);
    for (let c = 0; c < 3; c++) out[c] *= (size + turns * TAU) / size;
  } else {
    // Whole turns end where they began; which way they went the last frame knows.
    const before = Math.sqrt(last[o] * last[o] + last[o + 1] * last[o + 1] + last[o + 2] * last[o + 2]);
    const turns = Math.round(before / TAU);
    for (let c = 0; c < 3; c++) out[c] = before > 1e-9 ? (last[o + c] / before) * turns * TAU : 0;
  }
  for (let c = 0; c < 3; c++) last[o + c] = out[c];
}

const away = new Float64Array(3);

/** The character's place in relation to the joint above. */
function placeOf(out: Float64Array, { pair, above, carry, axes, theirPlace, myPlace, ratio }: Carrier, pose: Pose): void {
  relativePlace(away, pose, above?.sources[0].joint ?? -1, pair.sources[0].joint);
  const isWhole = carry.places === 'recorded' || (above === undefined && (length(theirPlace, 0) < STILL || length(myPlace, 0) < STILL));
  if (!isWhole) for (let c = 0; c < 3; c++) away[c] -= theirPlace[c];
  rotate(out, 0, axes, 0, away, 0);
  for (let c = 0; c < 3; c++) out[c] = out[c] * ratio + (isWhole ? 0 : myPlace[c]);
}
