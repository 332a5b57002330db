import { distance } from '../math/vec';
import { ClipReader, type Clip } from '../clip';
import { angleBetween, twistAngle } from '../math/quat';
import { percentile } from '../math/filter';
import { DEG, TAU } from '../math/trig';
import { scoreRest, CLEAN } from '../rig';
import type { RoleMap } from '../label';
import type { Skeleton } from '../skeleton';
import type { SamplingFault } from './fault';
import { catchesUp, GAP, liveJoints, stepsOf, STILL, wholeHolds } from './repeats';

/** The leap of a joint out of a hold over the steps beside it. */
const LEAP = 1.8;
/** A spike stands out by this angle at least, and by this multiple of what is usual there. */
const SPIKE = 6 * DEG;
const SPIKE_RATIO = 6;
/** Before and after a spike or a jump the joint is quiet: it turns by less than this share of it. */
const QUIET = 0.4;
/** A jump turns a joint by this in a frame and does not come back, or moves the body by this share of its leg. */
const JUMP = 25 * DEG;
const JUMP_MOVE = 0.12;

/**
 * Finds the faults of a take's samples: leading frames of a rest pose, whole frames that repeat, joints that are held while
 * the body moves, single frames that stick out, steps that do not come back, and a heading that drifts under planted feet.
 * @param clip metres, Y up
 * @param roles of the labelled skeleton; without them rest frames and drift are not looked for
 * @param leg leg length, metres
 * @returns in order of frames
 */
export function findSamplingFaults(skeleton: Skeleton, clip: Clip, roles: RoleMap | undefined, leg: number): SamplingFault[] {
  if (clip.frames < 5) return [];
  const turned = stepsOf(skeleton.parents.length, clip);
  const rest = roles ? leadingRest(skeleton, clip, turned, roles) : 0;
  const faults: SamplingFault[] = [];
  if (rest > 0) {
    faults.push({
      kind: 'rest',
      from: 0,
      to: rest - 1,
      joint: undefined,
      message:
        rest === 1
          ? 'a rest pose stands in the first frame and would play as a jump; drop it'
          : `a rest pose stands in the first ${rest} frames and would play as a jump; drop them`,
    });
  }
  holds(skeleton, clip, turned, rest, faults);
  spikesAndJumps(skeleton, clip, turned, rest, leg, faults);
  if (roles) drift(skeleton, clip, roles, rest, leg, faults);
  return faults.sort((a, b) => a.from - b.from);
}

/** Number of leading frames that hold a rest pose and are followed by a jump out of it; 0 when there are none. */
function leadingRest(skeleton: Skeleton, clip: Clip, turned: Float32Array, roles: RoleMap): number {
  const joints = skeleton.parents.length;
  const reader = new ClipReader(skeleton, clip);
  if (scoreRest(reader.at(0).positions, roles) < CLEAN) return 0;
  const most = Math.min(clip.frames - 2, Math.ceil(10 / clip.frameTime));
  const largest = (f: number): number => {
    let worst = 0;
    for (let j = 0; j < joints; j++) worst = Math.max(worst, turned[f * joints + j]);
    return worst;
  };
  for (let f = 1; f <= most; f++) {
    const step = largest(f);
    if (step > 8 * DEG) return f;
    if (step > 1.5 * DEG) return 0;
  }
  return 0;
}

function holds(skeleton: Skeleton, clip: Clip, turned: Float32Array, first: number, faults: SamplingFault[]): void {
  const joints = skeleton.parents.length;
  const { frames } = clip;
  const live = liveJoints(turned, joints);
  if (live.length === 0) return;
  // Whole frames first: a joint's hold inside one is no second fault.
  const { still: whole, faults: found } = wholeHolds(turned, live, clip, first);
  faults.push(...found);
  const step = (f: number, j: number): number => (f < frames ? turned[f * joints + j] : 0);
  const ended = (from: number, to: number, j: number): void => {
    if (to - from + 1 < GAP || !catchesUp(step(from - 1, j), step(to + 1, j), step(to + 2, j), LEAP)) return;
    faults.push({
      kind: 'gap',
      from,
      to,
      joint: j,
      message: `the joint is held for ${to - from + 1} frames and then goes on; fill the gap`,
    });
  };
  // Frame by frame, as the samples lie: from where on each joint is held, −1 for one that is not.
  const since = new Int32Array(live.length).fill(-1);
  for (let f = first + 1; f <= frames; f++) {
    for (let i = 0; i < live.length; i++) {
      const isHeld = f < frames && whole[f] === 0 && turned[f * joints + live[i]] < STILL;
      if (isHeld && since[i] < 0) since[i] = f;
      else if (!isHeld && since[i] >= 0) {
        ended(since[i], f - 1, live[i]);
        since[i] = -1;
      }
    }
  }
}

function spikesAndJumps(skeleton: Skeleton, clip: Clip, turned: Float32Array, first: number, leg: number, faults: SamplingFault[]): void {
  const joints = skeleton.parents.length;
  const { frames, rotations: q } = clip;
  const usual = new Float64Array(joints);
  const column = new Float64Array(frames - 1);
  for (let j = 0; j < joints; j++) {
    for (let f = 1; f < frames; f++) column[f - 1] = turned[f * joints + j];
    usual[j] = percentile(column, 0.9);
  }
  const at = (f: number, j: number): number => (f * joints + j) * 4;
  // The way out of a gap is the gap's, and goes with it.
  const afterGap = new Set(faults.filter(({ kind }) => kind === 'gap' || kind === 'repeat').map(({ to }) => to + 1));
  for (let f = first + 1; f + 1 < frames; f++) {
    let spike = -1;
    let jump = -1;
    let worst = 0;
    for (let j = 0; j < joints; j++) {
      const there = turned[f * joints + j];
      if (there < SPIKE || there < SPIKE_RATIO * usual[j]) continue;
      const back = turned[(f + 1) * joints + j];
      const over = angleBetween(q, at(f - 1, j), q, at(f + 1, j));
      const before = turned[(f - 1) * joints + j];
      const after = f + 2 < frames ? turned[(f + 2) * joints + j] : 0;
      if (back > SPIKE && over < 0.5 * Math.min(there, back) && before < QUIET * there && after < QUIET * back) {
        if (there > worst) [spike, worst] = [j, there];
      } else if (there > JUMP && f > first + 1 && !afterGap.has(f) && over > 0.6 * there && Math.max(before, back) < QUIET * there)
        jump = j;
    }
    if (spike >= 0) {
      faults.push({
        kind: 'spike',
        from: f,
        to: f,
        joint: spike,
        message: `the joint sticks out by ${(worst / DEG).toFixed(0)}° for one frame; remove the spike`,
      });
      // The way back is no jump.
      f++;
    } else if (jump >= 0) {
      faults.push({
        kind: 'jump',
        from: f,
        to: f,
        joint: jump,
        message: `the joint jumps by ${(turned[f * joints + jump] / DEG).toFixed(0)}° and stays there; ease the jump, or trim the take`,
      });
    }
  }
  for (const { joint, values } of clip.moves) {
    if (skeleton.parents[joint] >= 0) continue;
    for (let f = first + 1; f < frames; f++) {
      const o = f * 3;
      const moved = distance(values, o, values, o - 3);
      if (moved > JUMP_MOVE * leg && moved / clip.frameTime > 12 * leg) {
        faults.push({
          kind: 'jump',
          from: f,
          to: f,
          joint,
          message: `the body jumps ${moved.toFixed(2)} m in one frame; ease the jump, or trim the take`,
        });
      }
    }
  }
}

/** Feet that stand do not turn: when both turn the same way, slowly and all the time, the heading drifts. */
function drift(skeleton: Skeleton, clip: Clip, roles: RoleMap, first: number, leg: number, faults: SamplingFault[]): void {
  const feet = ['left', 'right'].map((side) => roles.get(`${side}.foot`)).filter((j) => j !== undefined);
  const reader = new ClipReader(skeleton, clip);
  const { frames } = clip;
  const rates: number[] = [];
  const step = Math.max(1, Math.round(0.1 / clip.frameTime));
  let previous: { x: Float64Array; yaw: Float64Array } | undefined;
  for (let f = first; f < frames; f += step) {
    const { positions, rotations } = reader.at(f);
    const x = new Float64Array(feet.length * 3);
    const yaw = new Float64Array(feet.length);
    feet.forEach((j, i) => {
      x.set(positions.subarray(j * 3, j * 3 + 3), i * 3);
      yaw[i] = twistAngle(rotations, j * 4, 0, 1, 0);
    });
    if (previous) {
      for (let i = 0; i < feet.length; i++) {
        if (distance(x, i * 3, previous.x, i * 3) > 0.02 * leg * (step * clip.frameTime * 10)) continue;
        let turn = yaw[i] - previous.yaw[i];
        turn -= TAU * Math.round(turn / TAU);
        rates.push(turn / (step * clip.frameTime));
      }
    }
    previous = { x, yaw };
  }
  if (rates.length < 20) return;
  const rate = percentile(rates, 0.5) / DEG;
  const [low, high] = [percentile(rates, 0.25) / DEG, percentile(rates, 0.75) / DEG];
  // The middle half of all standing moments turn the same way.
  if (Math.abs(rate) < 0.1 || low * high <= 0) return;
  faults.push({
    kind: 'drift',
    from: first,
    to: frames - 1,
    joint: undefined,
    message: `the heading drifts by about ${rate.toFixed(1)}° a second under standing feet; the recording was losing its north`,
  });
}
