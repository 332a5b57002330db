/** Where motions come back to themselves, and where one goes over into another: frames whose poses and speeds are most alike. */
import { ClipReader, type Clip } from '../clip';
import { SIDES } from '../label';
import { square } from '../math/numbers';
import { cos, sin } from '../math/trig';
import type { Rig } from '../rig';
import { bodyJoint, headingAt } from './planar';
import type { Source } from './piece';

/** Frames that are compared, a second: finer than a person sees a seam. */
const RATE = 30;
/** Speeds count beside places as the way of so many seconds. */
const AHEAD = 0.1;
/** Feet that stand in one and not in the other count as so far apart, metres. */
const STEPS = 0.25;

/** A clip as it is compared: places and speeds of the joints in the body's own frame, row by row. */
interface Traced {
  readonly rows: Float32Array[];
  /** Frame of the clip of each row. */
  readonly frames: Int32Array;
  readonly stands: readonly number[];
}

function traced({ rig, clip, contacts }: Source): Traced {
  const step = Math.max(1, Math.round(1 / RATE / clip.frameTime));
  const joints = jointsOf(rig);
  const reader = new ClipReader(rig.skeleton, clip);
  const count = Math.floor((clip.frames - 1) / step) + 1;
  const places = Array.from({ length: count }, (_, i) => inBody(rig, reader, i * step, joints));
  const every = step * clip.frameTime;
  const hips = joints.indexOf(bodyJoint(rig)) * 3;
  const rows = places.map(({ own }, i) => {
    const [a, b] = [Math.max(0, i - 1), Math.min(count - 1, i + 1)];
    const time = Math.max(1, b - a) * every;
    const row = new Float32Array(own.length * 2);
    row.set(own);
    for (let c = 0; c < own.length; c++) row[own.length + c] = ((places[b].own[c] - places[a].own[c]) / time) * AHEAD;
    // The hips are where the body is looked at from: how they travel is told from the floor.
    const [x, z] = [places[b].x - places[a].x, places[b].z - places[a].z].map((way) => (way / time) * AHEAD);
    const [cosine, sine] = [cos(-places[i].yaw), sin(-places[i].yaw)];
    if (hips >= 0) {
      row[own.length + hips] = cosine * x + sine * z;
      row[own.length + hips + 2] = cosine * z - sine * x;
    }
    return row;
  });
  const frames = Int32Array.from({ length: count }, (_, i) => i * step);
  const stands = Array.from(frames, (f) =>
    SIDES.reduce((sum, side, i) => sum + (contacts.plants.some((p) => p.side === side && p.first <= f && f <= p.last) ? 1 << i : 0), 0),
  );
  return { rows, frames, stands };
}

/** Joints that are compared: those of a body that have a role, or all. */
function jointsOf({ roles, skeleton }: Rig): number[] {
  const body = [...roles].filter(([role]) => !/\.(thumb|index|middle|ring|little)\.|twist|^ground/.test(role)).map(([, joint]) => joint);
  return body.length > 0 ? body : [...skeleton.parents.keys()];
}

/** Places seen from the body: over the floor from the hips, turned to where it faces; and where that is. */
function inBody(
  rig: Rig,
  reader: ClipReader,
  frame: number,
  joints: readonly number[],
): { own: Float32Array; x: number; z: number; yaw: number } {
  const pose = reader.at(frame);
  const middle = bodyJoint(rig) * 3;
  const yaw = headingAt(rig, pose);
  const [c, s] = [cos(-yaw), sin(-yaw)];
  const out = new Float32Array(joints.length * 3);
  joints.forEach((joint, i) => {
    const [x, z] = [pose.positions[joint * 3] - pose.positions[middle], pose.positions[joint * 3 + 2] - pose.positions[middle + 2]];
    out[i * 3] = c * x + s * z;
    out[i * 3 + 1] = pose.positions[joint * 3 + 1];
    out[i * 3 + 2] = c * z - s * x;
  });
  return { own: out, x: pose.positions[middle], z: pose.positions[middle + 2], yaw };
}

/** Mean distance of two rows, metres; more where feet stand otherwise. */
function apart(a: Traced, i: number, b: Traced, k: number): number {
  const [x, y] = [a.rows[i], b.rows[k]];
  let sum = 0;
  for (let c = 0; c < x.length; c++) sum += (x[c] - y[c]) * (x[c] - y[c]);
  return Math.sqrt(sum / (x.length / 6)) + (a.stands[i] === b.stands[k] ? 0 : STEPS);
}

/** A cycle in a motion: from one moment to another that is most like it. */
export interface Cycle {
  /** Seconds of the result. */
  readonly from: number;
  readonly to: number;
  /** How far joints are apart at the seam, on average, metres. */
  readonly seam: number;
  /** How fast the body goes over the floor, metres a second. */
  readonly speed: number;
}

/** Cycles are at least and at most so long, seconds: from a quick run's stride to a slow sway. */
const LEAST = 0.5;
const MOST = 4;
/** A longer cycle must be better by this share of a second's worth: of two strides one is enough. */
const SHORT = 0.01;

/** The best cycle of a motion: two frames at least a stride apart whose poses and speeds are most alike; undefined where it is too short. */
export function findCycle(source: Source): Cycle | undefined {
  const all = traced(source);
  const every = (all.frames[1] ?? 1) * source.clip.frameTime;
  const [least, most] = [Math.ceil(LEAST / every), Math.floor(MOST / every)];
  let best: { i: number; k: number; value: number } | undefined;
  for (let i = 0; i < all.rows.length; i++) {
    for (let k = i + least; k < Math.min(all.rows.length, i + most); k++) {
      const value = apart(all, i, all, k) + SHORT * (k - i) * every;
      if ((!best || value < best.value) && isMoving(all, i, k)) best = { i, k, value };
    }
  }
  if (!best) return undefined;
  const [first, last] = [all.frames[best.i], all.frames[best.k]];
  return {
    from: first * source.clip.frameTime,
    to: last * source.clip.frameTime,
    seam: apart(all, best.i, all, best.k),
    speed: wayOf(source, first, last) / ((last - first) * source.clip.frameTime),
  };
}

/** Metres over the floor from one frame to another. */
function wayOf({ rig, clip }: Source, first: number, last: number): number {
  const reader = new ClipReader(rig.skeleton, clip);
  const joint = bodyJoint(rig) * 3;
  const { positions } = reader.at(first);
  const [x, z] = [positions[joint], positions[joint + 2]];
  reader.at(last);
  return Math.sqrt(square(positions[joint] - x) + square(positions[joint + 2] - z));
}

/** A body that stands still is like itself at any time: on the way round a cycle it must be elsewhere, by so much on average, metres. */
const ELSEWHERE = 0.05;
const LOOKS = 6;

function isMoving(all: Traced, i: number, k: number): boolean {
  for (let look = 1; look < LOOKS; look++) if (apart(all, i, all, i + Math.round(((k - i) * look) / LOOKS)) > ELSEWHERE) return true;
  return false;
}

/** Where one motion goes over into another best: seconds of both results. */
export interface Joining {
  readonly leave: number;
  readonly enter: number;
  readonly apart: number;
}

/**
 * The moments at which two motions are most alike, of the end of one and the beginning of the other (distance of point clouds, after Kovar, Gleicher
 * and Pighin, Motion Graphs, 2002).
 * @param a the piece of the first, from and to in seconds; its last `within` seconds are looked at
 * @param b the same of the second, and its first
 */
export function findJoining(
  a: { readonly source: Source; readonly from: number; readonly to: number },
  b: { readonly source: Source; readonly from: number; readonly to: number },
  within = 2,
): Joining | undefined {
  const [x, y] = [traced(a.source), traced(b.source)];
  const secondsOf = ({ frames }: Traced, clip: Clip, i: number): number => frames[i] * clip.frameTime;
  let best: Joining | undefined;
  for (let i = 0; i < x.rows.length; i++) {
    const leave = secondsOf(x, a.source.clip, i);
    if (leave < Math.max(a.from, a.to - within) || leave > a.to) continue;
    for (let k = 0; k < y.rows.length; k++) {
      const enter = secondsOf(y, b.source.clip, k);
      if (enter < b.from || enter > Math.min(b.to, b.from + within)) continue;
      const value = apart(x, i, y, k);
      if (!best || value < best.apart) best = { leave, enter, apart: value };
    }
  }
  return best;
}
