/** A lane of the reel: its clips one after the other, joined, gone over into each other, with feet that stand. */
import { ClipReader, makeContinuous, mixedTracks, type Clip } from '../clip';
import { fail } from '../errors';
import { SIDES } from '../label';
import { smootherstep } from '../math/filter';
import { slerp } from '../math/quat';
import { DEG } from '../math/trig';
import { distance } from '../math/vec';
import type { ReelLane } from '../recipe';
import { soleHeight, type Rig } from '../rig';
import type { Pose } from '../skeleton';
import { firstFrame, poseFrames } from './length';
import { makeMix } from './mix';
import { makePiece, MOST_FRAMES, picked, type Piece, type Source } from './piece';
import { makePose } from './pose';
import { bodyJoint, movedClip, overIt, STAYS, type Planar } from './planar';
import { turnedWays } from './slip';
import { slideOf, standStill } from './stand';

/** Where a clip came to lie on its lane. */
export interface PlacedClip {
  /** By the lane's list. */
  readonly index: number;
  readonly first: number;
  readonly last: number;
  /** Frames over which it comes in from the one before. */
  readonly overlap: number;
  /** How far joints are from where they were a frame before, on average, metres: of a clip that comes in at once. */
  readonly seam: number;
}

/** A lane as it plays. */
export interface LaneMade {
  readonly clip: Clip;
  readonly placed: readonly PlacedClip[];
  /** Slide of feet in stands that were mixed, closed or stretched, metres a second: the worst stand, and its frame; −1 for none. */
  readonly slide: { readonly worst: number; readonly frame: number };
}

/** Whether a lane ends where it begins: one closed clip from the start, played so many times. */
export function isLoop({ clips, shift }: ReelLane): boolean {
  const [only, ...others] = clips;
  return others.length === 0 && only.closed && only.hold === 0 && !only.pose && !only.mix && only.start === 0 && shift === 0;
}

/**
 * Plays a lane: clips in the order in which they begin, each brought over what is before it, gone over into each other where they overlap, the last
 * pose held where there is nothing. Feet that stand are kept from sliding.
 * @param sourceOf the result of a take on the lane's character
 * @throws FaultError option where a clip is empty, or all of it too long
 */
export function playLane(rig: Rig, lane: ReelLane, fps: number, sourceOf: (take: string) => Source): LaneMade {
  const clips = lane.clips
    .map((settings, index) => ({ settings, index, first: firstFrame(lane, settings, fps) }))
    .sort((a, b) => a.first - b.first || a.index - b.index);
  if (clips.length === 0) fail('option', `there is no clip on the lane "${lane.name}"`);
  let whole: Whole | undefined;
  const placed: PlacedClip[] = [];
  for (const { settings, index, first } of clips) {
    const piece = settings.pose
      ? makePose(rig, settings.pose, poseFrames(settings.hold, fps, lane.pace), fps)
      : settings.mix
        ? makeMix(rig, settings.mix, fps, sourceOf, lane.pace)
        : makePiece(sourceOf(settings.take), settings, fps, lane.pace);
    if (first + piece.clip.frames > MOST_FRAMES) fail('option', `the reel ends behind an hour; begin the clip "${settings.name}" earlier`);
    const joined = whole ? whole.add(piece, first, settings.joined) : undefined;
    whole ??= new Whole(rig, piece, first);
    placed.push({ index, first, last: first + piece.clip.frames - 1, overlap: joined?.overlap ?? 0, seam: joined?.seam ?? 0 });
  }
  const made = whole!.piece;
  const still = standStill(rig, made, whole!.heights);
  const slide = slideOf(rig, { ...made, clip: still });
  const [x, z] = lane.place;
  const at: Planar = { yaw: lane.heading * DEG, x, z };
  const clip = at.yaw === 0 && x === 0 && z === 0 ? still : movedClip(rig.skeleton, still, () => at);
  return { clip: { ...clip, name: lane.name }, placed, slide };
}

/** What is on a lane so far. */
class Whole {
  piece: Piece;
  /** Of frames that were mixed: how high what a foot stands on is, left first; NaN of the others. */
  heights: [Float64Array, Float64Array];

  /** @param first frame at which the first clip begins: until then its first pose stands */
  constructor(
    private readonly rig: Rig,
    piece: Piece,
    first: number,
  ) {
    this.piece = first === 0 ? piece : padded(piece, first, piece.clip.frames + first);
    this.heights = [0, 1].map(() => new Float64Array(this.piece.clip.frames).fill(NaN)) as [Float64Array, Float64Array];
  }

  /** Lays a piece behind, or over the end of, what is there. */
  add(piece: Piece, first: number, joined: boolean): { overlap: number; seam: number } {
    const { rig } = this;
    if (first > this.piece.clip.frames) this.piece = padded(this.piece, 0, first);
    const overlap = Math.min(this.piece.clip.frames - first, piece.clip.frames);
    const [before, now] = [new ClipReader(rig.skeleton, this.piece.clip), new ClipReader(rig.skeleton, piece.clip)];
    const middle = overlap >> 1;
    const at = overlap > 0 ? first + middle : first - 1;
    const move = joined ? overIt(rig, now.at(middle), before.at(at), this.anchor(piece, at, middle)) : STAYS;
    const over: Piece = { ...piece, clip: movedClip(rig.skeleton, piece.clip, () => move), ways: turnedWays(piece.ways, () => move) };
    const seam = overlap > 0 ? 0 : meanWay(before.at(first - 1), new ClipReader(rig.skeleton, over.clip).at(0));
    this.mix(over, first, overlap);
    return { overlap, seam };
  }

  /** A foot that stands in both, the one that has stood longest; else the hips. */
  private anchor({ planted }: Piece, at: number, middle: number): number {
    const standing = [0, 1]
      .filter((side) => this.piece.planted[side][at] === 1 && planted[side][middle] === 1)
      .map((side) => ({ side, since: since(this.piece.planted[side], at) + until(planted[side], middle) }))
      .sort((a, b) => b.since - a.since);
    const joint = standing.length > 0 ? this.rig.roles.get(`${SIDES[standing[0].side]}.foot`) : undefined;
    return joint ?? bodyJoint(this.rig);
  }

  private mix(over: Piece, first: number, overlap: number): void {
    const { skeleton, feet } = this.rig;
    const frames = first + over.clip.frames;
    const joints = skeleton.names.length;
    const a = cutTo(this.piece, first + overlap);
    const b = over;
    const rotations = new Float32Array(frames * joints * 4);
    rotations.set(a.clip.rotations);
    rotations.set(b.clip.rotations, first * joints * 4);
    const planted = [0, 1].map((side) => {
      const flags = new Uint8Array(frames);
      flags.set(a.planted[side]);
      flags.set(b.planted[side], first);
      return flags;
    }) as [Uint8Array, Uint8Array];
    const pure = new Uint8Array(frames);
    pure.set(a.pure);
    pure.set(b.pure, first);
    const heights = this.heights.map((own) => {
      const more = new Float64Array(frames).fill(NaN);
      more.set(own.subarray(0, Math.min(frames, own.length)));
      return more;
    }) as [Float64Array, Float64Array];
    const ways = [0, 1].map((side) => {
      const own = new Float64Array(frames * 2);
      own.set(a.ways[side]);
      own.set(b.ways[side].subarray(2 * Math.max(0, overlap)), (first + overlap) * 2);
      for (let k = 0; k < overlap; k++) {
        const w = smootherstep((k + 1) / (overlap + 1));
        for (let c = 0; c < 2; c++) own[(first + k) * 2 + c] = (1 - w) * a.ways[side][(first + k) * 2 + c] + w * b.ways[side][k * 2 + c];
      }
      return own;
    }) as [Float64Array, Float64Array];
    const readers = [a, b].map(({ clip }) => new ClipReader(skeleton, clip));
    for (let k = 0; k < overlap; k++) {
      const f = first + k;
      const w = smootherstep((k + 1) / (overlap + 1));
      for (let j = 0; j < joints; j++) {
        const o = (f * joints + j) * 4;
        slerp(rotations, o, a.clip.rotations, o, b.clip.rotations, (k * joints + j) * 4, w);
      }
      const lows = readers.map((reader, i) => feet.map((foot) => soleHeight(reader.at(i === 0 ? f : k), foot)));
      feet.forEach(({ side }, i) => {
        const s = SIDES.indexOf(side);
        heights[s][f] = (1 - w) * lows[0][i] + w * lows[1][i];
      });
      for (const side of [0, 1]) {
        const [one, other] = [a.planted[side][f], b.planted[side][k]];
        planted[side][f] = (one === 1 && other === 1) || (w < 0.5 ? one : other) === 1 ? 1 : 0;
      }
      pure[f] = 0;
    }
    makeContinuous(rotations, joints);
    const share = (f: number): number => {
      const k = f - first;
      return k < 0 ? 0 : k >= overlap ? 1 : smootherstep((k + 1) / (overlap + 1));
    };
    const tracks = mixedTracks(a.clip, b.clip, { frames, first: (f) => f, second: (f) => f - first, share }, skeleton.restT);
    this.piece = { clip: { ...b.clip, frames, rotations, ...tracks }, planted, pure, ways };
    this.heights = heights;
  }
}

/** A piece whose first pose stands in front of it, or whose last stands behind it, until it is so long. */
function padded(piece: Piece, first: number, frames: number): Piece {
  const last = piece.clip.frames - 1;
  return picked(
    piece,
    Array.from({ length: frames }, (_, f) => Math.max(0, Math.min(last, f - first))),
  );
}

const cutTo = (piece: Piece, frames: number): Piece => (frames >= piece.clip.frames ? piece : padded(piece, 0, frames));

function since(flags: Uint8Array, at: number): number {
  let f = at;
  while (f > 0 && flags[f - 1] === 1) f--;
  return at - f;
}

function until(flags: Uint8Array, at: number): number {
  let f = at;
  while (f + 1 < flags.length && flags[f + 1] === 1) f++;
  return f - at;
}

function meanWay(a: Pose, b: Pose): number {
  const joints = a.positions.length / 3;
  let sum = 0;
  for (let j = 0; j < joints; j++) sum += distance(a.positions, j * 3, b.positions, j * 3);
  return sum / joints;
}
