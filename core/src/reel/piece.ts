/** A clip of the reel before it is joined: the piece of a result, as it is cut, turned round, closed, repeated, stretched and held. */
import { ClipReader, makeContinuous, pickFrames, resample, resampledFrames, trim, type Clip } from '../clip';
import type { Contacts } from '../contact';
import { fail } from '../errors';
import { SIDES } from '../label';
import { copy, exp, fromAxisAngle, invMul, log, mul, mulInv, normalize } from '../math/quat';
import type { ReelClip } from '../recipe';
import type { Rig } from '../rig';
import type { Skeleton } from '../skeleton';
import { cutOf } from './length';
import { pickedWays, retimedWays, turnedWays, waysOf, type Ways } from './slip';
import { after, bodyJoint, movedClip, overIt, STAYS, type Planar } from './planar';

/** A result that pieces are cut from. */
export interface Source {
  readonly rig: Rig;
  readonly clip: Clip;
  readonly contacts: Pick<Contacts, 'plants'>;
}

/** A motion with what stands in it. */
export interface Piece {
  readonly clip: Clip;
  /** By foot, left first: 1 in frames in which some part of it stands. */
  readonly planted: readonly [Uint8Array, Uint8Array];
  /** 1 in frames that are as they were solved: nothing in them has to be set right. */
  readonly pure: Uint8Array;
  /** How far feet go over the floor by themselves, as it was solved. */
  readonly ways: Ways;
}

/** Most frames that a reel may have in a lane: an hour at 60 a second. */
export const MOST_FRAMES = 216_000;

/**
 * The piece of a result that a clip of the reel plays, at the reel's rate.
 * @param pace how much faster its lane plays
 * @throws FaultError option where the piece is empty or too long
 */
export function makePiece(source: Source, settings: ReelClip, fps: number, pace = 1): Piece {
  const { rig } = source;
  let piece = cut(source, settings);
  if (settings.reverse) piece = reversed(rig.skeleton, piece);
  const step = passOf(rig, piece);
  if (settings.closed) piece = closed(rig, piece, step);
  if (settings.repeats > 1) piece = repeated(rig.skeleton, piece, step, settings.repeats);
  if (!settings.travel) piece = withoutTravel(rig, piece);
  return held(retimed(rig.skeleton, piece, fps, settings.rate * pace), settings.hold);
}

function cut({ rig, clip, contacts }: Source, settings: ReelClip): Piece {
  const [first, last] = cutOf(settings, clip);
  if (clip.frames === 0) fail('option', `the clip "${settings.name}" has no motion to play`);
  const planted = SIDES.map((side) => {
    const flags = new Uint8Array(last - first + 1);
    for (const plant of contacts.plants) {
      if (plant.side === side) flags.fill(1, Math.max(0, plant.first - first), Math.max(0, plant.last - first + 1));
    }
    return flags;
  }) as [Uint8Array, Uint8Array];
  const own = trim(rig.skeleton, clip, first, last);
  return { clip: own, planted, pure: new Uint8Array(own.frames).fill(1), ways: waysOf(rig, own) };
}

/** A piece's frames in another order, each as often as it is named. */
export function picked(piece: Piece, order: readonly number[]): Piece {
  const flags = (of: Uint8Array): Uint8Array => Uint8Array.from(order, (from) => of[from]);
  return {
    clip: pickFrames(piece.clip, order),
    planted: [flags(piece.planted[0]), flags(piece.planted[1])],
    pure: flags(piece.pure),
    ways: pickedWays(piece.ways, order),
  };
}

/** The same backwards. */
export function reversed(skeleton: Skeleton, piece: Piece): Piece {
  const { frames } = piece.clip;
  const turned = picked(
    piece,
    Array.from({ length: frames }, (_, f) => frames - 1 - f),
  );
  makeContinuous(turned.clip.rotations, skeleton.names.length);
  return turned;
}

/** The move over the floor from the first pose to the last: by a foot that stands in both, else by the hips. */
function passOf(rig: Rig, { clip, planted }: Piece): Planar {
  const reader = new ClipReader(rig.skeleton, clip);
  const last = clip.frames - 1;
  const first = { positions: reader.at(0).positions.slice(), rotations: reader.pose.rotations.slice() };
  const foot = [0, 1].find((side) => planted[side][0] === 1 && planted[side][last] === 1);
  const joint = foot === undefined ? undefined : rig.roles.get(`${SIDES[foot]}.foot`);
  return overIt(rig, first, reader.at(last), joint ?? bodyJoint(rig));
}

/** Both ends made one pose: what they differ by, but for the way over the floor, is spread evenly, half at either end. */
function closed({ skeleton }: Rig, piece: Piece, step: Planar): Piece {
  const { clip } = piece;
  const last = clip.frames - 1;
  if (last < 2) return piece;
  const joints = skeleton.names.length;
  const rotations = clip.rotations.slice();
  const yaw = new Float64Array(4);
  const [end, d, q] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  const w = new Float64Array(3);
  for (let j = 0; j < joints; j++) {
    copy(end, 0, rotations, (last * joints + j) * 4);
    if (skeleton.parents[j] < 0) {
      fromAxisAngle(yaw, 0, 0, 1, 0, step.yaw);
      invMul(end, 0, yaw, 0, end, 0);
    }
    mulInv(d, 0, end, 0, rotations, j * 4);
    log(w, 0, d, 0);
    for (let f = 0; f <= last; f++) {
      const share = 0.5 - f / last;
      exp(q, 0, w[0] * share, w[1] * share, w[2] * share);
      if (skeleton.parents[j] < 0) {
        // Told before the turn over the floor, which grows along the piece.
        fromAxisAngle(yaw, 0, 0, 1, 0, (step.yaw * f) / last);
        mul(q, 0, yaw, 0, q, 0);
        mulInv(q, 0, q, 0, yaw, 0);
      }
      const o = (f * joints + j) * 4;
      copy(end, 0, rotations, o);
      mul(end, 0, q, 0, end, 0);
      normalize(end, 0);
      copy(rotations, o, end, 0);
    }
  }
  const moves = clip.moves.map(({ joint, values }) => {
    const out = values.slice();
    const isRoot = skeleton.parents[joint] < 0;
    for (let c = 0; c < 3; c++) {
      if (isRoot && c !== 1) continue;
      const by = values[last * 3 + c] - values[c];
      for (let f = 0; f <= last; f++) out[f * 3 + c] += by * (0.5 - f / last);
    }
    return { joint, values: out };
  });
  makeContinuous(rotations, joints);
  return { ...piece, clip: { ...clip, rotations, moves }, pure: new Uint8Array(clip.frames) };
}

/** The piece so often on end, each from where the one before has come to. */
function repeated(skeleton: Skeleton, piece: Piece, step: Planar, times: number): Piece {
  const last = piece.clip.frames - 1;
  const frames = last * times + 1;
  if (frames > MOST_FRAMES) fail('option', `repeated ${times} times the clip has ${frames} frames; at most ${MOST_FRAMES} are played`);
  const whole = picked(
    piece,
    Array.from({ length: frames }, (_, f) => (f === frames - 1 ? last : f % last)),
  );
  const passes: Planar[] = [STAYS];
  for (let i = 1; i < times; i++) passes.push(after(passes[i - 1], step));
  const passAt = (f: number): Planar => passes[Math.min(times - 1, Math.floor(f / last))];
  const clip = movedClip(skeleton, whole.clip, passAt);
  makeContinuous(clip.rotations, skeleton.names.length);
  return { ...whole, clip, ways: turnedWays(whole.ways, passAt) };
}

/** Over one place: the even part of the way is taken out, and what it sways about it stays. */
function withoutTravel(rig: Rig, piece: Piece): Piece {
  const { clip } = piece;
  const joint = bodyJoint(rig);
  const reader = new ClipReader(rig.skeleton, clip);
  const at = (f: number): [number, number] => {
    const { positions } = reader.at(f);
    return [positions[joint * 3], positions[joint * 3 + 2]];
  };
  const last = Math.max(1, clip.frames - 1);
  const [x, z] = at(0);
  const [ex, ez] = at(clip.frames - 1);
  const still = movedClip(rig.skeleton, clip, (f) => ({ yaw: 0, x: (-(ex - x) * f) / last, z: (-(ez - z) * f) / last }));
  // What stands on the floor then goes with it by design.
  return { clip: still, planted: [new Uint8Array(clip.frames), new Uint8Array(clip.frames)], pure: piece.pure, ways: piece.ways };
}

/** At another rate, so many times as fast. */
function retimed(skeleton: Skeleton, piece: Piece, fps: number, rate: number): Piece {
  const { clip } = piece;
  const step = rate / fps / clip.frameTime;
  if (Math.abs(step - 1) < 1e-9 || clip.frames < 2) return { ...piece, clip: { ...clip, frameTime: 1 / fps } };
  const frames = resampledFrames(clip.frames, clip.frameTime, step * clip.frameTime);
  if (frames > MOST_FRAMES) fail('option', `stretched so far the clip has ${frames} frames; at most ${MOST_FRAMES} are played`);
  const times = Float64Array.from({ length: frames }, (_, f) => Math.min(clip.frames - 1, f * step));
  const flags = (of: Uint8Array): Uint8Array => Uint8Array.from(times, (t) => of[Math.round(t)]);
  return {
    clip: { ...resample(skeleton, clip, step * clip.frameTime), frameTime: 1 / fps },
    planted: [flags(piece.planted[0]), flags(piece.planted[1])],
    pure: flags(piece.pure),
    ways: retimedWays(piece.ways, times),
  };
}

/** The last pose held for some seconds. */
function held(piece: Piece, seconds: number): Piece {
  const more = Math.round(seconds / piece.clip.frameTime);
  if (more === 0) return piece;
  const { frames } = piece.clip;
  return picked(
    piece,
    Array.from({ length: frames + more }, (_, f) => Math.min(f, frames - 1)),
  );
}
