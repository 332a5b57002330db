import { fail } from '../../errors';
import type { Clip } from '../../clip';
import { asin, atan2, DEG, PI } from '../../math/trig';
import { childrenOf, type Skeleton } from '../../skeleton';
import { CHANNEL_NAMES, type BvhLayout } from './layout';
import { joinParts } from '../parts';
import { TextBytes } from './textBytes';
import { square } from '../../math/numbers';

/** Frames of a part. */
const PART = 2048;

/** A motion as a BVH file holds it. */
export interface BvhMotion {
  /** Without rest rotations: a BVH file's own, or one made by `flattenRest`. */
  readonly skeleton: Skeleton;
  readonly clip: Clip;
  readonly layout: BvhLayout;
}

/**
 * Writes a clip as BVH text, in the joint order, names and channel orders of the layout.
 * The skeleton must have no rest rotations (a BVH file's own, or one made by `flattenRest`).
 * @returns UTF-8 bytes; angles in degrees to six places, continuous along time
 * @throws FaultError clip/not-finite, with the joint and the frame
 */
export function writeBvh(skeleton: Skeleton, clip: Clip, layout: BvhLayout): Uint8Array<ArrayBuffer> {
  return joinParts(bvhParts(clip, (part) => ({ skeleton, clip: part, layout })));
}

/**
 * The text of a clip, part by part, as `writeBvh` gives it whole: nothing that is made of the motion on the way grows as long as it.
 * @param made a part of the clip as the file holds it; skeleton and layout are the same for all parts
 */
export function* bvhParts(clip: Clip, made: (part: Clip) => BvhMotion): Generator<Uint8Array<ArrayBuffer>, void> {
  let writer: BvhWriter | undefined;
  let first = 0;
  do {
    const motion = made(framesOf(clip, first, Math.min(PART, clip.frames - first)));
    writer ??= new BvhWriter(motion, clip.frames);
    yield writer.add(motion.clip);
    first += PART;
  } while (first < clip.frames);
}

/** A run of frames of a clip, in the same memory. */
function framesOf(clip: Clip, first: number, frames: number): Clip {
  const stride = clip.frames === 0 ? 0 : clip.rotations.length / clip.frames;
  return {
    ...clip,
    frames,
    rotations: clip.rotations.subarray(first * stride, (first + frames) * stride),
    moves: clip.moves.map(({ joint, values }) => ({ joint, values: values.subarray(first * 3, (first + frames) * 3) })),
  };
}

/** A BVH file that grows by frames. */
class BvhWriter {
  private readonly text = new TextBytes();
  private readonly skeleton: Skeleton;
  private readonly layout: BvhLayout;
  private readonly order: readonly number[];
  private readonly axesOf: readonly (readonly number[])[];
  private readonly previous: Float64Array;
  private readonly angles = new Float64Array(3);
  private written = 0;

  /** @param frames that will be added in all */
  constructor({ skeleton, clip, layout }: BvhMotion, frames: number) {
    this.skeleton = skeleton;
    this.layout = layout;
    this.order = depthFirst(skeleton);
    this.axesOf = layout.channels.map((list) => list.filter((c) => c > 2).map((c) => c - 3));
    this.previous = new Float64Array(skeleton.names.length * 3);
    const lines = ['HIERARCHY'];
    writeJoints(lines, skeleton, layout, this.order);
    lines.push('MOTION', `Frames: ${frames}`, `Frame Time: ${formatTime(clip.frameTime)}`, '');
    this.text.words(lines.join('\n'));
  }

  /** The text of more frames; that of the first begins with the skeleton. @throws FaultError clip/not-finite */
  add(clip: Clip): Uint8Array<ArrayBuffer> {
    const { text } = this;
    const moves = new Map(clip.moves.map((track) => [track.joint, track.values]));
    for (let f = 0; f < clip.frames; f++, this.written++) {
      for (const j of this.order) this.addJoint(clip, moves.get(j), j, f);
      text.endLine();
    }
    return text.take();
  }

  private addJoint({ rotations: q }: Clip, move: Float32Array | undefined, j: number, f: number): void {
    const { angles, layout, previous, skeleton, text } = this;
    const axes = this.axesOf[j];
    if (axes.length > 0) {
      const o = (f * skeleton.names.length + j) * 4;
      if (!Number.isFinite(q[o] + q[o + 1] + q[o + 2] + q[o + 3])) this.notFinite(j);
      eulerAngles(angles, q, o, axes);
      if (this.written > 0) nearest(angles, previous, j * 3, axes.length);
      for (let i = 0; i < axes.length; i++) previous[j * 3 + i] = angles[i];
    }
    const list = layout.channels[j];
    let axis = 0;
    for (let i = 0; i < list.length; i++) {
      const code = list[i];
      let value: number;
      if (code > 2) value = angles[axis++] / DEG;
      else {
        const base = layout.fromOffset[j] ? layout.offsets[j * 3 + code] : 0;
        value = (move ? move[f * 3 + code] : skeleton.restT[j * 3 + code]) - base;
      }
      if (!Number.isFinite(value)) this.notFinite(j);
      text.number(value);
    }
  }

  private notFinite(joint: number): never {
    fail('clip/not-finite', 'the motion holds a number that is not finite', {
      joint: this.skeleton.names[joint],
      frame: this.written + 1,
    });
  }
}

/** Joints in the order in which nested blocks list them; that of the file itself for a skeleton that came as BVH. */
function depthFirst(skeleton: Skeleton): number[] {
  const children = childrenOf(skeleton);
  const order: number[] = [];
  const stack = skeleton.names
    .map((_, j) => j)
    .filter((j) => skeleton.parents[j] < 0)
    .reverse();
  for (let j = stack.pop(); j !== undefined; j = stack.pop()) {
    order.push(j);
    for (let i = children[j].length - 1; i >= 0; i--) stack.push(children[j][i]);
  }
  return order;
}

function writeJoints(lines: string[], skeleton: Skeleton, layout: BvhLayout, order: readonly number[]): void {
  const depthOf: number[] = [];
  const open: number[] = [];
  const close = (): void => {
    lines.push(`${'\t'.repeat(depthOf[open.pop()!])}}`);
  };
  for (const j of order) {
    const parent = skeleton.parents[j];
    while (open.length > 0 && open[open.length - 1] !== parent) close();
    const depth = parent < 0 ? 0 : depthOf[parent] + 1;
    depthOf[j] = depth;
    const tab = '\t'.repeat(depth);
    const channels = layout.channels[j];
    lines.push(`${tab}${parent < 0 ? 'ROOT' : 'JOINT'} ${skeleton.names[j]}`, `${tab}{`);
    lines.push(`${tab}\tOFFSET ${offsetText(layout.offsets, j * 3)}`);
    lines.push(`${tab}\tCHANNELS ${[channels.length, ...channels.map((c) => CHANNEL_NAMES[c])].join(' ')}`);
    const sites = layout.endSites[j];
    for (let i = 0; i + 2 < sites.length; i += 3) {
      lines.push(`${tab}\tEnd Site`, `${tab}\t{`, `${tab}\t\tOFFSET ${offsetText(sites, i)}`, `${tab}\t}`);
    }
    open.push(j);
  }
  while (open.length > 0) close();
}

function offsetText(values: ArrayLike<number>, at: number): string {
  return [0, 1, 2].map((i) => values[at + i].toFixed(6)).join(' ');
}

function formatTime(seconds: number): string {
  return Number(seconds.toFixed(9)).toString();
}

/** A rotation matrix, row by row; written anew for each joint and frame. */
const MATRIX = new Float64Array(9);

/**
 * Angles about the given axes, in order, whose product is the rotation (Shoemake, "Euler angle conversion",
 * Graphics Gems IV, 1994). With fewer than three axes: the angles that come nearest.
 */
function eulerAngles(out: Float64Array, q: Float32Array, o: number, axes: readonly number[]): void {
  const x = q[o],
    y = q[o + 1],
    z = q[o + 2],
    w = q[o + 3];
  const n = 2 / (x * x + y * y + z * z + w * w);
  const m = MATRIX;
  m[0] = 1 - n * (y * y + z * z);
  m[1] = n * (x * y - w * z);
  m[2] = n * (x * z + w * y);
  m[3] = n * (x * y + w * z);
  m[4] = 1 - n * (x * x + z * z);
  m[5] = n * (y * z - w * x);
  m[6] = n * (x * z - w * y);
  m[7] = n * (y * z + w * x);
  m[8] = 1 - n * (x * x + y * y);
  const i = axes[0];
  if (axes.length === 1) {
    out[0] = 2 * atan2(q[o + i], w);
    if (out[0] > PI) out[0] -= 2 * PI;
    else if (out[0] < -PI) out[0] += 2 * PI;
    return;
  }
  const j = axes[1];
  const k = 3 - i - j;
  const parity = (j - i + 3) % 3 === 1 ? 1 : -1;
  const s = parity * m[i * 3 + k];
  const c = Math.sqrt(square(m[i * 3 + i]) + square(m[i * 3 + j]));
  out[1] = c > 1e-7 ? atan2(s, c) : asin(s);
  if (c > 1e-7) {
    out[0] = atan2(-parity * m[j * 3 + k], m[k * 3 + k]);
    out[2] = atan2(-parity * m[i * 3 + j], m[i * 3 + i]);
  } else {
    // Gimbal lock: only the sum or difference is defined; put all of it in the first.
    out[0] = atan2(parity * m[k * 3 + j], m[j * 3 + j]);
    out[2] = 0;
  }
}

/** An angle by as many full turns that it lies nearest another. */
function unwrap(value: number, before: number): number {
  const by = value - before;
  return by < PI && by > -PI ? value : value - 2 * PI * Math.round(by / (2 * PI));
}

/** Moves angles by full turns, or to the other solution of the same rotation, to lie nearest the previous frame's. */
function nearest(angles: Float64Array, previous: Float64Array, po: number, count: number): void {
  for (let i = 0; i < count; i++) angles[i] = unwrap(angles[i], previous[po + i]);
  if (count < 3) return;
  const cost = Math.abs(angles[0] - previous[po]) + Math.abs(angles[1] - previous[po + 1]) + Math.abs(angles[2] - previous[po + 2]);
  // The other solution's first angle is half a turn off this one's.
  if (cost < PI / 2) return;
  const first = unwrap(angles[0] + PI, previous[po]);
  const second = unwrap(PI - angles[1], previous[po + 1]);
  const third = unwrap(angles[2] + PI, previous[po + 2]);
  if (Math.abs(first - previous[po]) + Math.abs(second - previous[po + 1]) + Math.abs(third - previous[po + 2]) >= cost) return;
  angles[0] = first;
  angles[1] = second;
  angles[2] = third;
}
