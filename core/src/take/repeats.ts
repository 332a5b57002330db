/** Frames in which the whole body is held while it should move: a recorder that lost some, and had others stand in for them. */
import type { Clip } from '../clip';
import { movingMean } from '../math/filter';
import { angleBetween } from '../math/quat';
import { square } from '../math/numbers';
import { DEG } from '../math/trig';
import { distance } from '../math/vec';
import type { Skeleton } from '../skeleton';
import type { SamplingFault } from './fault';

/** A turn between frames below this is no movement; a joint that moves more than this beside a hold is being held. */
export const STILL = 1e-6;
const MOVING = 0.05 * DEG;
/** Shortest hold that is called a gap, frames. */
export const GAP = 3;
/** The leap out of a hold of all joints together over the steps beside it; one that is farther than this leaves out more than a frame. */
const LEAP = 1.35;
const FARTHEST = 3;
/** A frame that repeats the one before turns, and moves, by less than this share of what is usual around it: recorders find some joints anew. */
const NEARLY = 0.3;
/** At their own times the turns of a span, and its places, have less than this share of their squared accelerations. */
const EVENER = 0.5;
/** What is usual around a frame is told by so many seconds on either side, and by so many frames at least; a lost frame is caught up within them. */
const AROUND = 0.05;
const LEAST_AROUND = 3;

/** What helps, for people. */
const LED = 'a transfer to another body leads over it; fill the gap to mend the take itself';

/** Frame-to-frame turn of every joint, frames × joints, radians; row f is the way from f − 1 to f, row 0 is zero. */
export function stepsOf(joints: number, clip: Clip): Float32Array {
  const out = new Float32Array(clip.frames * joints);
  for (let f = 1; f < clip.frames; f++) {
    for (let j = 0; j < joints; j++) {
      const o = (f * joints + j) * 4;
      const q = clip.rotations;
      // Below what single precision tells apart, equal numbers are what counts.
      const same = q[o] === q[o - joints * 4] && q[o + 1] === q[o + 1 - joints * 4] && q[o + 2] === q[o + 2 - joints * 4];
      out[f * joints + j] = same ? 0 : Math.max(2 * STILL, angleBetween(q, o, q, o - joints * 4));
    }
  }
  return out;
}

/** Joints that move in a take at all. @param turned frame-to-frame turns, frames × joints */
export function liveJoints(turned: Float32Array, joints: number): Int32Array {
  const moves = new Uint8Array(joints);
  for (let o = joints; o < turned.length; o += joints) for (let j = 0; j < joints; j++) if (turned[o + j] > MOVING) moves[j] = 1;
  return Int32Array.from([...moves.keys()].filter((j) => moves[j] === 1));
}

/** A sample held through a motion catches up with it in one leap; a body that rests and starts again does not. */
export function catchesUp(before: number, out: number, next: number, ratio: number): boolean {
  return out > MOVING && out > ratio * Math.max(before, next, MOVING);
}

/**
 * Frames in which all that moves is held, and the spans of them that catch up, or are out of time: from a frame that repeats, or nearly repeats, the one
 * before to the leap over one that was lost, which may come before it.
 * @param turned frame-to-frame turns, frames × joints
 * @param live joints that move in the take
 * @param first the first frame that is looked at
 */
export function wholeHolds(
  turned: Float32Array,
  live: Int32Array,
  clip: Clip,
  first: number,
): { readonly still: Uint8Array; readonly faults: SamplingFault[] } {
  const { frames, frameTime, moves } = clip;
  const joints = turned.length / frames;
  const totals = new Float64Array(frames);
  const still = new Uint8Array(frames);
  for (let f = 1; f < frames; f++) {
    let most = 0;
    for (let i = 0; i < live.length; i++) {
      const turn = turned[f * joints + live[i]];
      totals[f] += turn;
      if (turn > most) most = turn;
    }
    if (f > first && most < STILL) still[f] = 1;
  }
  const total = (f: number): number => (f > 0 && f < frames ? totals[f] : 0);
  const faults: SamplingFault[] = [];
  const told = new Uint8Array(frames);
  eachRun(still, (from, to) => {
    const count = to - from + 1;
    if (!catchesUp(total(from - 1), total(to + 1), total(to + 2), LEAP)) return;
    told.fill(1, from, to + 1);
    const message =
      count >= GAP
        ? `the whole body is held for ${count} frames while it should move; fill the gap`
        : `${count === 1 ? 'a frame repeats' : `${count} frames repeat`} the one before; ${LED}`;
    faults.push({ kind: count >= GAP ? 'gap' : 'repeat', from, to, joint: undefined, message });
  });
  const around = Math.max(LEAST_AROUND, Math.round(AROUND / frameTime));
  const usual = movingMean(totals, around);
  const ways = wayOf(moves, frames);
  const usualWay = movingMean(ways, around);
  const isGoing = (f: number): boolean => f > first + 1 && f + 1 < frames && usual[f] > MOVING * live.length;
  const isHeld = (f: number): boolean => isGoing(f) && told[f] === 0 && totals[f] < NEARLY * usual[f] && ways[f] < NEARLY * usualWay[f];
  const isLeap = (f: number): boolean => isGoing(f) && totals[f] > LEAP * usual[f] && totals[f] < FARTHEST * usual[f];
  const found = pairs(frames, around, isHeld, isLeap);
  const samples = samplesOf(frames, found);
  for (const [held, leap] of found.filter((pair) => isEvener(clip, samples, pair))) {
    const [from, to] = held < leap ? [held, leap - 1] : [leap, held];
    faults.push({
      kind: 'repeat',
      from,
      to,
      joint: undefined,
      message:
        from === to
          ? `a frame repeats the one before; ${LED}`
          : `a frame repeats the one before, and another is lost, so that ${to - from + 1} come out of time; ${LED}`,
    });
  }
  return { still, faults };
}

/** How far a take's places move from frame to frame, in its unit; row f is the way from f − 1. */
function wayOf(moves: Clip['moves'], frames: number): Float64Array {
  const out = new Float64Array(frames);
  for (const { values } of moves) for (let f = 1; f < frames; f++) out[f] += distance(values, f * 3, values, (f - 1) * 3);
  return out;
}

/** A frame that repeats the one before, and the one that leaps over a frame that was lost. */
type Pair = readonly [held: number, leap: number];

/** Where frames of spans that are out of time stand among the samples: a frame later or earlier, and half way into the leap. */
export function samplesOf(frames: number, found: readonly Pair[]): Float64Array {
  const out = Float64Array.from({ length: frames }, (_, f) => f);
  for (const [held, leap] of found) {
    if (held < leap) for (let f = held; f < leap; f++) out[f] = f + 1;
    else for (let f = leap; f <= held; f++) out[f] = f - 1;
    out[held < leap ? leap - 1 : leap] = leap - 0.5;
  }
  return out;
}

/** The squared accelerations of a span at its own times, as a share of what they are as recorded. @param width numbers in a row of a series */
function evened(values: Float32Array, width: number, samples: Float64Array, first: number, last: number): number {
  const valueAt = (at: number, c: number): number => (values[Math.floor(at) * width + c] + values[Math.ceil(at) * width + c]) / 2;
  let [before, after] = [0, 0];
  for (let f = first; f <= last; f++) {
    const [a, b, d] = [samples[f - 1], samples[f], samples[f + 1]];
    for (let c = 0; c < width; c++) {
      before += square(values[(f + 1) * width + c] - 2 * values[f * width + c] + values[(f - 1) * width + c]);
      after += square(valueAt(d, c) - 2 * valueAt(b, c) + valueAt(a, c));
    }
  }
  return before > 0 ? after / before : 0;
}

/** True where a span goes much more evenly at its own times: a body that stops, and starts in a jerk, does not. */
function isEvener({ rotations, moves, frames }: Clip, samples: Float64Array, [held, leap]: Pair): boolean {
  const first = Math.max(1, Math.min(held, leap) - 1);
  const last = Math.min(frames - 2, Math.max(held, leap) + 1);
  return (
    evened(rotations, rotations.length / frames, samples, first, last) < EVENER &&
    moves.every(({ values }) => evened(values, 3, samples, first, last) < EVENER)
  );
}

/** Each held frame with the leap nearest to it that no other goes with, and no other held frame between. */
function pairs(frames: number, around: number, isHeld: (f: number) => boolean, isLeap: (f: number) => boolean): readonly Pair[] {
  const held = Array.from({ length: frames }, (_, f) => f).filter(isHeld);
  const taken = new Set<number>();
  return held.flatMap((h, i): Pair[] => {
    const [before, after] = [held[i - 1] ?? -1, held[i + 1] ?? frames];
    for (let d = 1; d <= around; d++) {
      for (const leap of [h + d, h - d]) {
        if (leap <= before || leap >= after || taken.has(leap) || !isLeap(leap)) continue;
        taken.add(leap);
        return [[h, leap]];
      }
    }
    return [];
  });
}

/** Frames of a take that repeat the one before, or very nearly so, while the body moves. In their order. */
export function findRepeats({ parents: { length: joints } }: Skeleton, clip: Clip): SamplingFault[] {
  if (clip.frames < 5) return [];
  const turned = stepsOf(joints, clip);
  return wholeHolds(turned, liveJoints(turned, joints), clip, 0)
    .faults.filter(({ kind }) => kind === 'repeat')
    .sort((a, b) => a.from - b.from);
}

function eachRun(flags: Uint8Array, visit: (from: number, to: number) => void): void {
  for (let f = 0; f < flags.length; f++) {
    if (flags[f] === 0) continue;
    const from = f;
    while (f + 1 < flags.length && flags[f + 1] === 1) f++;
    visit(from, f);
  }
}
