/** Cycles mixed by a value, their steps brought together, over one place and then sent on at the speed that comes of them. */
import { ClipReader, makeContinuous, type Clip } from '../clip';
import { fail } from '../errors';
import { slerp } from '../math/quat';
import { makeReelClip, type ReelMix } from '../recipe';
import type { Rig } from '../rig';
import { mixFrames } from './length';
import { makePiece, MOST_FRAMES, type Piece, type Source } from './piece';
import { after, bodyJoint, headingAt, inverse, movedClip, STAYS, type Planar } from './planar';
import { turnedWays } from './slip';

/** A closed cycle over one place: what it goes on by from frame to frame stands apart. */
interface Round {
  readonly value: number;
  /** Over the origin, facing ahead, one frame for each of the cycle's. */
  readonly clip: Clip;
  readonly frames: number;
  readonly steps: readonly Planar[];
  readonly planted: Piece['planted'];
  readonly ways: Piece['ways'];
  /** Frames at which the left foot and the right come down: phases 0 and a half. */
  readonly lands: readonly [number, number];
}

/**
 * Cycles mixed by a value. Their phases are told by where the feet come down (registration curves after Kovar and Gleicher 2003, with these two
 * events for knots); poses, speeds over the floor and lengths are mixed between the two cycles whose values lie about the asked one.
 * @param sourceOf the result of a take
 * @throws FaultError option where a cycle is too short
 */
export function makeMix(rig: Rig, mix: ReelMix, fps: number, sourceOf: (take: string) => Source, pace = 1): Piece {
  const rounds = mix.cycles
    .map(({ take, from, to, value }) => roundOf(sourceOf(take), from, to, value, fps))
    .sort((a, b) => a.value - b.value);
  const frames = mixFrames(mix.seconds, fps, pace);
  if (frames > MOST_FRAMES) fail('option', `the mix has ${frames} frames; at most ${MOST_FRAMES} are played`);
  const keys = [...mix.keys].sort((a, b) => a.at - b.at);
  const joints = rig.skeleton.names.length;
  const rotations = new Float32Array(frames * joints * 4);
  const moving = [...new Set(rounds.flatMap(({ clip }) => clip.moves.map(({ joint }) => joint)))].sort((a, b) => a - b);
  const moves = moving.map((joint) => ({ joint, values: new Float32Array(frames * 3) }));
  const planted = [new Uint8Array(frames), new Uint8Array(frames)] as const;
  const ways = [new Float64Array(frames * 2), new Float64Array(frames * 2)] as const;
  const places: Planar[] = [];
  let place = STAYS;
  let phase = 0;
  for (let f = 0; f < frames; f++) {
    const { a, b, w } = between(rounds, valueAt(keys, (f / fps) * pace));
    const [ta, tb] = [timeOf(a, phase), timeOf(b, phase)];
    mixPose(rig, rotations, moves, f, [a, ta], [b, tb], w);
    places.push(place);
    // A cycle's length is mixed as its pose is: so much of a round goes by in a frame.
    const length = (1 - w) * a.frames + w * b.frames;
    const by = pace / length;
    const [sa, sb] = [stepOf(a, ta, by), stepOf(b, tb, by)];
    for (const side of [0, 1] as const) {
      const stands = (1 - w) * a.planted[side][frameOf(a, ta)] + w * b.planted[side][frameOf(b, tb)];
      planted[side][f] = stands >= 0.5 ? 1 : 0;
      for (let c = 0; c < 2; c++) {
        const own = (round: Round, t: number): number => round.ways[side][frameOf(round, t) * 2 + c] * by * round.frames;
        ways[side][f * 2 + c] = (1 - w) * own(a, ta) + w * own(b, tb);
      }
    }
    place = after(place, { yaw: (1 - w) * sa.yaw + w * sb.yaw, x: (1 - w) * sa.x + w * sb.x, z: (1 - w) * sa.z + w * sb.z });
    phase = (phase + by) % 1;
  }
  makeContinuous(rotations, joints);
  const clip: Clip = { name: 'mix', frameTime: 1 / fps, frames, rotations, moves };
  const at = (f: number): Planar => places[f];
  return { clip: movedClip(rig.skeleton, clip, at), planted, pure: new Uint8Array(frames), ways: turnedWays(ways, at) };
}

function roundOf(source: Source, from: number, to: number, value: number, fps: number): Round {
  const { rig } = source;
  const piece = makePiece(source, makeReelClip({ name: 'cycle', take: '-', start: 0, from, to, closed: true }), fps);
  const frames = piece.clip.frames - 1;
  if (frames < 4) fail('option', 'a cycle of the mix is shorter than four frames: choose a longer one');
  const reader = new ClipReader(rig.skeleton, piece.clip);
  const joint = bodyJoint(rig) * 3;
  const places = Array.from({ length: frames + 1 }, (_, f): Planar => {
    const pose = reader.at(f);
    return { yaw: headingAt(rig, pose), x: pose.positions[joint], z: pose.positions[joint + 2] };
  });
  const over = (f: number): Planar => inverse(places[f]);
  const lands = ([0, 1] as const).map((side) => landing(piece.planted[side], frames));
  // What stands all the time has no phase of its own: halves of the round do.
  const left = lands[0] ?? 0;
  const right = lands[1] ?? (left + frames / 2) % frames;
  return {
    value,
    clip: movedClip(rig.skeleton, piece.clip, over),
    frames,
    steps: Array.from({ length: frames }, (_, f) => unwound(after(over(f), places[f + 1]))),
    planted: piece.planted,
    ways: turnedWays(piece.ways, over),
    lands: [left, right === left ? (left + frames / 2) % frames : right],
  };
}

/** A step turns by less than half a turn. */
function unwound(step: Planar): Planar {
  return { ...step, yaw: step.yaw - 2 * Math.PI * Math.round(step.yaw / (2 * Math.PI)) };
}

/** The frame of a round at which a foot comes down; undefined where it never does. */
function landing(flags: Uint8Array, frames: number): number | undefined {
  for (let f = 0; f < frames; f++) if (flags[f] === 1 && flags[(f + frames - 1) % frames] === 0) return f;
  return undefined;
}

/** The place in a round of a phase, 0 to 1: the left foot comes down at 0, the right at a half. */
function timeOf({ lands: [left, right], frames }: Round, phase: number): number {
  const half = (right - left + frames) % frames;
  const way = phase < 0.5 ? (phase / 0.5) * half : half + ((phase - 0.5) / 0.5) * (frames - half);
  return (left + way) % frames;
}

const frameOf = ({ frames }: Round, t: number): number => Math.round(t) % frames;

/** What a round goes on by in so much of it. */
function stepOf({ steps, frames }: Round, t: number, share: number): Planar {
  const { yaw, x, z } = steps[Math.floor(t) % frames];
  const by = share * frames;
  return { yaw: yaw * by, x: x * by, z: z * by };
}

/** The two rounds about a value, and how far it is from the first to the second. */
function between(rounds: readonly Round[], value: number): { a: Round; b: Round; w: number } {
  const next = rounds.findIndex((round) => round.value > value);
  if (next === 0) return { a: rounds[0], b: rounds[0], w: 0 };
  if (next < 0) return { a: rounds[rounds.length - 1], b: rounds[rounds.length - 1], w: 0 };
  const [a, b] = [rounds[next - 1], rounds[next]];
  return { a, b, w: (value - a.value) / (b.value - a.value) };
}

function valueAt(keys: ReelMix['keys'], seconds: number): number {
  const next = keys.findIndex(({ at }) => at > seconds);
  if (next === 0) return keys[0].value;
  if (next < 0) return keys[keys.length - 1].value;
  const [a, b] = [keys[next - 1], keys[next]];
  return a.value + ((b.value - a.value) * (seconds - a.at)) / (b.at - a.at);
}

const one = new Float64Array(4);
const two = new Float64Array(4);

function mixPose(
  { skeleton }: Rig,
  rotations: Float32Array,
  moves: readonly { joint: number; values: Float32Array }[],
  f: number,
  [a, ta]: readonly [Round, number],
  [b, tb]: readonly [Round, number],
  w: number,
): void {
  const joints = skeleton.names.length;
  const pose = (out: Float64Array, { clip, frames }: Round, t: number, j: number): void => {
    const [i, k] = [Math.floor(t) % frames, (Math.floor(t) + 1) % frames];
    slerp(out, 0, clip.rotations, (i * joints + j) * 4, clip.rotations, (k * joints + j) * 4, t - Math.floor(t));
  };
  for (let j = 0; j < joints; j++) {
    pose(one, a, ta, j);
    pose(two, b, tb, j);
    slerp(rotations, (f * joints + j) * 4, one, 0, two, 0, w);
  }
  for (const { joint, values } of moves) {
    for (let c = 0; c < 3; c++) {
      const at = ({ clip, frames }: Round, t: number): number => {
        const own = clip.moves.find((track) => track.joint === joint)?.values;
        if (!own) return skeleton.restT[joint * 3 + c];
        const [i, k] = [Math.floor(t) % frames, (Math.floor(t) + 1) % frames];
        const share = t - Math.floor(t);
        return (1 - share) * own[i * 3 + c] + share * own[k * 3 + c];
      };
      values[f * 3 + c] = (1 - w) * at(a, ta) + w * at(b, tb);
    }
  }
}
