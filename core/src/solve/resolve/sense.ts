import { gaussian } from '../../math/filter';
import { distance, length } from '../../math/vec';
import type { LimbTrack } from '../limbTrack';
import { foldOf } from '../reach';

/** Share of the room between its copied and its full length, and of what it may be drawn out, that a limb takes as asked, or very nearly so. */
const EASY = 0.5;

/** The same of the room between its copied length and the shortest: a limb that folds turns the more the nearer it comes to that. */
const EASY_FOLD = 0.25;

/** A limb comes to its shortest with ease: nearer to it than by this factor its end would stay some millimetres short of its place. */
const EASED = 1.05;

/** Least sine of a knee's bend that its turn is reckoned with: a straight knee would turn without end. */
const LEAST_SINE = 0.25;

/** Share of a limb's length that its root comes after the end at most: legs that stand bend so far for it, and no farther. */
const COMES = 0.22;

/** How a limb takes a change of the place of its end, frame by frame, as it is copied or displaced. */
export interface Sense {
  /** Lengths of both bones, and from the limb's root to its end as copied, metres; 3 per frame. */
  readonly lengths: Float64Array;
  /**
   * Half the limb's length × the turn of its middle joint for each metre that its end goes out, times the direction out, in the copied pose: a
   * limb that is bent more would turn less, and is not to be bent for that. Smooth; 3 per frame.
   */
  readonly slope: Float64Array;
  /** The same, less where the limb is drawn out instead. */
  readonly turn: Float64Array;
  /** Direction from the limb's root to its end; 3 per frame. */
  readonly out: Float64Array;
  /** How far apart they are, metres. */
  readonly distance: Float64Array;
  /** Metres that the end is farther from the root than the limb takes with ease; below zero where it is not. */
  readonly far: Float64Array;
  /** Metres by which the limb is drawn out. */
  readonly drawn: Float64Array;
  /** Metres that the root may come after the end, whatever is missing. */
  readonly most: Float64Array;
  /** Metres that it is nearer than the limb takes with ease; below zero where it is not. */
  readonly near: Float64Array;
  /** Metres that it is nearer than the limb folds to; below zero where it is not. */
  readonly folded: Float64Array;
  /** Metres that it is nearer than so much that it would stay short of its place; below zero where it is not. */
  readonly short: Float64Array;
}

/** Standard deviation over which a limb's slope is smoothed, seconds: what a capture's noise makes of it is none of the limb. */
const SLOPE = 0.05;

/** Half the limb's length × the turn of its middle joint for each metre that its end goes out, times the direction out, copied; 3 per frame. */
function slopeOf({ data, stride, at, frames }: LimbTrack, lengths: Float64Array, frameTime: number): Float64Array {
  const slope = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    const [upper, lower, copied] = [lengths[f * 3], lengths[f * 3 + 1], lengths[f * 3 + 2]];
    const cosine = (copied * copied - upper * upper - lower * lower) / (2 * upper * lower);
    const sine = Math.max(LEAST_SINE, Math.sqrt(Math.max(0, 1 - cosine * cosine)));
    const turns = (0.5 * (upper + lower)) / (upper * lower * sine);
    const o = f * stride;
    for (let c = 0; c < 3; c++) slope[f * 3 + c] = turns * (data[o + at.end + c] - data[o + at.top + c]);
  }
  return gaussian(slope, 3, SLOPE / frameTime);
}

export function makeSense(leg: LimbTrack, frameTime: number): Sense {
  const { data, stride, at, frames } = leg;
  const lengths = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    const o = f * stride;
    lengths[f * 3] = distance(data, o + at.top, data, o + at.mid);
    lengths[f * 3 + 1] = distance(data, o + at.mid, data, o + at.end);
    lengths[f * 3 + 2] = distance(data, o + at.top, data, o + at.end) || 1e-9;
  }
  return {
    lengths,
    slope: slopeOf(leg, lengths, frameTime),
    turn: new Float64Array(frames * 3),
    out: new Float64Array(frames * 3),
    distance: new Float64Array(frames),
    far: new Float64Array(frames),
    near: new Float64Array(frames),
    folded: new Float64Array(frames),
    short: new Float64Array(frames),
    drawn: new Float64Array(frames),
    most: new Float64Array(frames),
  };
}

/** How a limb is displaced, metres, 3 per frame, and what it is let do. */
interface Displacing {
  readonly ends: Float64Array;
  readonly root: Float64Array;
  readonly softReach: number;
  readonly stretch: number;
  /** 1 in frames that are looked at; undefined for all. */
  readonly asked?: Uint8Array;
}

/**
 * Says how a limb with its end displaced by `ends` and its root by `root` takes more of it. The middle joint's bend follows from the
 * triangle of the two bones and the distance of root and end.
 */
export function senseOf(sense: Sense, leg: LimbTrack, { ends, root, softReach, stretch, asked }: Displacing): void {
  const { data, stride, at, frames } = leg;
  const { lengths, slope, turn, out, far, near, folded, short, most } = sense;
  for (let f = 0; f < frames; f++) {
    if (asked && asked[f] === 0) continue;
    const o = f * stride;
    const upper = lengths[f * 3];
    const lower = lengths[f * 3 + 1];
    const copied = lengths[f * 3 + 2];
    for (let c = 0; c < 3; c++) out[f * 3 + c] = data[o + at.end + c] + ends[f * 3 + c] - data[o + at.top + c] - root[f * 3 + c];
    const distance = length(out, f * 3) || 1e-9;
    // A limb straightens the more slowly the nearer it is to its full length: it is to stay where it hardly does.
    const room = EASY * Math.max(0, softReach * (upper + lower) - copied);
    const drawn = leg.plan.drawn.length > 0 ? EASY * stretch * (upper + lower) : 0;
    sense.drawn[f] = Math.max(0, Math.min(drawn, distance - copied - room));
    // A limb that is drawn out turns no joint for it.
    const bends = drawn > 0 ? 1 - sense.drawn[f] / drawn : 1;
    for (let c = 0; c < 3; c++) {
      out[f * 3 + c] /= distance;
      turn[f * 3 + c] = bends * slope[f * 3 + c];
    }
    sense.distance[f] = distance;
    most[f] = COMES * (upper + lower);
    far[f] = distance - (copied + room + drawn);
    // One that the performer folds farther is as it was copied.
    const fold = Math.min(copied, foldOf(upper, lower));
    const easy = copied - EASY_FOLD * (copied - fold);
    near[f] = easy - distance;
    short[f] = Math.min(easy, EASED * fold) - distance;
    folded[f] = fold - distance;
  }
}
