/** The judge of faces: every shape and joint that a name table drives, told again from the recording by sums of its own. */
import type { FaceTrack, FaceWeights } from '../formats';
import type { Clip } from '../clip';
import { angleBetween, copy, exp, mul } from '../math/quat';
import { DEG } from '../math/trig';
import type { Skeleton, Pose } from '../skeleton';
import { frameOrNone, type Figure, type Found } from './figure';
import { figureOf } from './judge';

/** How a sum of channels should become a value. */
interface Driven {
  /** Channels by their place in the recording. */
  readonly sources: readonly { readonly channel: number; readonly weight: number }[];
  readonly offset: number;
  readonly strength: number;
  readonly curve: readonly (readonly [number, number])[] | null;
  readonly rest: number;
  readonly low: number;
  readonly high: number;
}

/** A face on a character beside its recording. */
export interface FaceCase {
  /** As it was cleaned. */
  readonly recording: FaceTrack;
  /** Where the clip's first frame lies on the recorder's clock, and seconds of that clock for a second of the clip. */
  readonly first: number;
  readonly pace: number;
  readonly clip: Clip;
  /** Shapes as they are delivered; none where the file holds none. */
  readonly weights: FaceWeights | undefined;
  readonly shapes: readonly (Driven & { readonly name: string })[];
  readonly skeleton: Skeleton;
  readonly restPose: Pose;
  /** To the body's left, and ahead. */
  readonly left: Float64Array;
  readonly forward: Float64Array;
  readonly joints: readonly { readonly joint: number; readonly turns: readonly (Driven & { readonly degrees: readonly number[] })[] }[];
  /** Frames at either end that a loop has drawn together, in seconds. */
  readonly eased: number;
}

/** A channel that moves by less than this in all has nothing that could arrive, in share of its full. */
const MOVES = 0.01;

/** Figures of a face. */
export function judgeFace(given: FaceCase): Figure[] {
  return [shapesFound(given), jointsFound(given), leftFound(given)].map(figureOf);
}

function shapesFound({ recording, first, pace, clip, weights, shapes, eased }: FaceCase): Found {
  const driven = shapes.filter(({ sources }) => sources.length > 0);
  if (!weights || driven.length === 0) {
    return { id: 'face.shapes', value: NaN, looked: weights ? 'nothing drives a shape' : 'the file holds no shapes', words: '' };
  }
  const end = (clip.frames - 1) * clip.frameTime;
  let [worst, shape, seconds] = [0, '', 0];
  let looked = 0;
  for (let f = 0; f < recording.frames; f++) {
    const at = (recording.start + f * recording.frameTime - first) / pace;
    if (at < eased || at > end - eased) continue;
    looked++;
    for (const one of driven) {
      const off = Math.abs(delivered(weights, one.name, at) - expected(recording, one, f));
      if (!(off <= worst)) [worst, shape, seconds] = [Number.isFinite(off) ? off : 100, one.name, at];
    }
  }
  return {
    id: 'face.shapes',
    value: looked > 0 ? worst * 100 : NaN,
    looked: looked > 0 ? `${looked} frames of the recording on ${driven.length} shapes` : 'the recording lies outside of the take',
    words: worst === 0 ? 'as recorded' : `worst at ${shape}, ${seconds.toFixed(2)} s`,
    frame: frameOrNone(worst === 0 ? -1 : Math.min(clip.frames - 1, Math.round(seconds / clip.frameTime))),
  };
}

function jointsFound(given: FaceCase): Found {
  const { recording, first, pace, clip, joints, skeleton, restPose, left, forward, eased } = given;
  const count = skeleton.names.length;
  const [wanted, got] = [new Float64Array(4), new Float64Array(4)];
  let [worst, joint, frame] = [0, -1, -1];
  const [from, to] = [Math.ceil(eased / clip.frameTime), clip.frames - 1 - Math.ceil(eased / clip.frameTime)];
  for (const { joint: j, turns } of joints) {
    const parent = skeleton.parents[j];
    for (let f = from; f <= to; f++) {
      const at = (first + f * clip.frameTime * pace - recording.start) / recording.frameTime;
      const v = [0, 0, 0];
      for (const turn of turns) {
        const value = between(recording, turn, at);
        for (let c = 0; c < 3; c++) {
          v[c] += value * DEG * (turn.degrees[0] * left[c] + (c === 1 ? turn.degrees[1] : 0) + turn.degrees[2] * forward[c]);
        }
      }
      // What stands at rest under its parent, turned in the world's axes.
      exp(wanted, 0, v[0], v[1], v[2]);
      mul(wanted, 0, wanted, 0, restPose.rotations, j * 4);
      if (parent < 0) copy(got, 0, clip.rotations, (f * count + j) * 4);
      else mul(got, 0, restPose.rotations, parent * 4, clip.rotations, (f * count + j) * 4);
      const off = angleBetween(wanted, 0, got, 0) / DEG;
      if (!(off <= worst)) [worst, joint, frame] = [Number.isFinite(off) ? off : 180, j, f];
    }
  }
  return {
    id: 'face.joints',
    value: joints.length > 0 ? worst : NaN,
    looked: joints.length > 0 ? `${clip.frames} frames of ${joints.length} joints` : 'nothing drives a joint',
    words: joint < 0 ? '' : `worst at ${skeleton.names[joint]}, frame ${frame + 1}`,
    frame: frameOrNone(frame),
  };
}

function leftFound({ recording, shapes, joints }: FaceCase): Found {
  const { frames, channels, values } = recording;
  const used = new Set(
    [...shapes, ...joints.flatMap(({ turns }) => turns)].flatMap(({ sources }) => sources.map(({ channel }) => channel)),
  );
  const moving = channels.flatMap((_, c) => {
    let [low, high] = [Infinity, -Infinity];
    for (let f = 0; f < frames; f++) {
      low = Math.min(low, values[f * channels.length + c]);
      high = Math.max(high, values[f * channels.length + c]);
    }
    return high - low > MOVES ? [c] : [];
  });
  const left = moving.filter((c) => !used.has(c));
  const bare = shapes.filter(({ sources }) => sources.length === 0).length;
  const listed =
    left
      .slice(0, 6)
      .map((c) => channels[c])
      .join(', ') + (left.length > 6 ? ` and ${left.length - 6} more` : '');
  return {
    id: 'face.left',
    value: moving.length > 0 ? (100 * left.length) / moving.length : NaN,
    looked: `${moving.length} channels that move, ${shapes.length} shapes`,
    words: [left.length > 0 ? `nothing is driven by ${listed}` : 'each drives something', bare > 0 ? `${bare} shapes stay at rest` : '']
      .filter((text) => text !== '')
      .join('; '),
  };
}

/** A shape's weight in the file at a second of the clip. */
function delivered({ times: at, shapes, values }: FaceWeights, name: string, seconds: number): number {
  const s = shapes.indexOf(name);
  if (s < 0) return NaN;
  // The last key that is not later.
  let [low, high] = [0, at.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (at[middle] <= seconds) low = middle;
    else high = middle - 1;
  }
  const next = Math.min(low + 1, at.length - 1);
  const span = at[next] - at[low];
  const share = span > 0 ? Math.max(0, (seconds - at[low]) / span) : 0;
  return values[low * shapes.length + s] * (1 - share) + values[next * shapes.length + s] * share;
}

/** What the recording asks for at one of its frames. */
function expected({ channels, values }: FaceTrack, one: Driven, frame: number): number {
  let sum = one.offset;
  for (const { channel, weight } of one.sources) sum += weight * values[frame * channels.length + channel];
  return answer(one, sum);
}

/** The same between frames. */
function between(recording: FaceTrack, one: Driven, at: number): number {
  const held = Math.min(recording.frames - 1, Math.max(0, at));
  const f = Math.floor(held);
  const next = Math.min(f + 1, recording.frames - 1);
  const width = recording.channels.length;
  let sum = one.offset;
  for (const { channel, weight } of one.sources) {
    const [a, b] = [recording.values[f * width + channel], recording.values[next * width + channel]];
    sum += weight * (a * (1 - (held - f)) + b * (held - f));
  }
  return answer(one, sum);
}

function answer({ curve, strength, rest, low, high }: Driven, sum: number): number {
  let value = sum;
  if (curve) {
    const right = curve.findIndex(([x]) => x >= sum);
    const end = right < 0 ? curve.length - 1 : Math.max(1, right);
    const [[x0, y0], [x1, y1]] = [curve[end - 1], curve[end]];
    value = (y0 * (x1 - sum) + y1 * (sum - x0)) / (x1 - x0);
  }
  return Math.max(low, Math.min(high, rest + value * strength));
}
