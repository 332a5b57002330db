import { fail } from '../../errors';
import type { Clip } from '../../clip';
import { copy, invMul, unrotate } from '../../math/quat';
import type { Skeleton } from '../../skeleton';
import { readContainer, writeContainer } from './container';
import type { GlbLayout } from './layout';

/** Which frames are written as keys. */
export interface KeptFrames {
  readonly turns: readonly Int32Array[];
  /** In the order of the clip's moves, and of its sizes. */
  readonly moves: readonly Int32Array[];
  readonly sizes?: readonly Int32Array[];
}

/** Weights of face shapes over time, by name. */
export interface FaceWeights {
  /** Seconds from the first frame of the clip, rising. */
  readonly times: Float32Array;
  readonly shapes: readonly string[];
  /** Times × shapes. */
  readonly values: Float32Array;
}

/** What goes into the animation beside the clip, and how. */
export interface WrittenWith {
  /** Frames that are written, for each joint and each translation track; all where nothing is said. */
  readonly keys?: KeptFrames | undefined;
  /** Weights of the character's face shapes, which have their own times. */
  readonly face?: FaceWeights | undefined;
  /** The motion ends where it begins: said in the animation's extras, as `{ "loop": true }`. */
  readonly isLoop?: boolean;
}

interface LooseGltf {
  [key: string]: unknown;
  accessors?: unknown[];
  bufferViews?: unknown[];
  buffers?: { byteLength: number }[];
  animations?: unknown[];
  nodes?: { scale?: number[] }[];
}

/**
 * Writes a clip into the character's own GLB file as one more animation on its own nodes.
 * Everything in the file is kept as it is, extensions unknown to us included: accessors, views and one animation are
 * appended to the document, and their numbers to the binary chunk.
 * @param clip in the file's unit and axes
 * @throws FaultError clip/not-finite, with the joint and the frame
 */
export function writeGlb(
  skeleton: Skeleton,
  clip: Clip,
  layout: GlbLayout,
  { keys, face, isLoop = false }: WrittenWith = {},
): Uint8Array<ArrayBuffer> {
  const container = readContainer(layout.bytes);
  const gltf = structured(container.json);
  const bin = container.bin ?? new Uint8Array(0);
  const start = (bin.length + 3) & ~3;
  const blocks: Float32Array[] = [];
  let length = start;
  const accessors = (gltf.accessors ??= []);
  const views = (gltf.bufferViews ??= []);

  const addAccessor = (data: Float32Array, type: string, extra: object = {}): number => {
    views.push({ buffer: 0, byteOffset: length, byteLength: data.byteLength });
    blocks.push(data);
    length += data.byteLength;
    const size = type === 'SCALAR' ? 1 : type === 'VEC3' ? 3 : 4;
    return accessors.push({ bufferView: views.length - 1, componentType: 5126, count: data.length / size, type, ...extra }) - 1;
  };

  // Channels with keys at the same frames share their times.
  const inputs = new Map<string, number>();
  const inputOf = (frames: Int32Array | undefined): number => {
    const key = frames ? frames.join() : 'all';
    const known = inputs.get(key);
    if (known !== undefined) return known;
    const times = Float32Array.from(frames ?? { length: clip.frames }, (frame, f) => (frames ? frame : f) * clip.frameTime);
    const made = addAccessor(times, 'SCALAR', { min: [times[0]], max: [times[times.length - 1]] });
    inputs.set(key, made);
    return made;
  };
  const picked = (values: Float32Array, size: number, frames: Int32Array | undefined): Float32Array => {
    if (!frames) return values;
    const out = new Float32Array(frames.length * size);
    frames.forEach((f, i) => out.set(values.subarray(f * size, f * size + size), i * size));
    return out;
  };
  const samplers: object[] = [];
  const channels: object[] = [];
  const addChannel = (joint: number, path: string, values: Float32Array, frames: Int32Array | undefined): void => {
    const size = path === 'rotation' ? 4 : 3;
    const input = inputOf(frames);
    const output = addAccessor(picked(values, size, frames), size === 4 ? 'VEC4' : 'VEC3');
    samplers.push({ input, output, interpolation: 'LINEAR' });
    channels.push({ sampler: samplers.length - 1, target: { node: layout.nodes[joint], path } });
  };

  const joints = skeleton.names.length;
  for (let j = 0; j < joints; j++) {
    const values = new Float32Array(clip.frames * 4);
    const isRoot = skeleton.parents[j] < 0;
    for (let f = 0; f < clip.frames; f++) {
      if (isRoot) invMul(values, f * 4, layout.containerR, j * 4, clip.rotations, (f * joints + j) * 4);
      else copy(values, f * 4, clip.rotations, (f * joints + j) * 4);
      if (!Number.isFinite(values[f * 4] + values[f * 4 + 1] + values[f * 4 + 2] + values[f * 4 + 3])) notFinite(j, f);
    }
    addChannel(j, 'rotation', values, keys?.turns[j]);
  }
  for (const [i, { joint, values }] of clip.moves.entries()) {
    const local = new Float32Array(values.length);
    const v = new Float64Array(3);
    for (let f = 0; f < clip.frames; f++) {
      for (let c = 0; c < 3; c++) v[c] = values[f * 3 + c];
      if (skeleton.parents[joint] < 0) {
        for (let c = 0; c < 3; c++) v[c] -= layout.containerT[joint * 3 + c];
        unrotate(v, 0, layout.containerR, joint * 4, v, 0);
      }
      for (let c = 0; c < 3; c++) local[f * 3 + c] = v[c] / layout.scales[joint];
      if (!Number.isFinite(local[f * 3] + local[f * 3 + 1] + local[f * 3 + 2])) notFinite(joint, f);
    }
    addChannel(joint, 'translation', local, keys?.moves[i]);
  }
  for (const [i, { joint, values }] of (clip.sizes ?? []).entries()) {
    const rest = gltf.nodes?.[layout.nodes[joint]]?.scale ?? [1, 1, 1];
    for (let k = 0; k < values.length; k++) if (!Number.isFinite(values[k])) notFinite(joint, Math.floor(k / 3));
    const local = values.map((value, k) => value * rest[k % 3]);
    addChannel(joint, 'scale', local, keys?.sizes?.[i]);
  }
  if (face) addFace(face);
  (gltf.animations ??= []).push({ name: clip.name, samplers, channels, ...(isLoop && { extras: { loop: true } }) });

  const joined = new Uint8Array(length);
  joined.set(bin);
  let at = start;
  for (const block of blocks) {
    joined.set(new Uint8Array(block.buffer, block.byteOffset, block.byteLength), at);
    at += block.byteLength;
  }
  const buffers = (gltf.buffers ??= []);
  if (buffers.length === 0) buffers.push({ byteLength: length });
  else buffers[0].byteLength = length;
  return writeContainer(gltf, joined);

  /** One channel of weights for each mesh that has shapes: all of its shapes at once, those that nothing drives at their rest. */
  function addFace({ times, shapes, values }: FaceWeights): void {
    const moved = (layout.morphs ?? []).filter(({ names }) => names.some((name) => shapes.includes(name)));
    if (moved.length === 0 || times.length === 0) return;
    const input = addAccessor(times, 'SCALAR', { min: [times[0]], max: [times[times.length - 1]] });
    for (const { node, names, rest } of moved) {
      const columns = names.map((name) => shapes.indexOf(name));
      const weights = new Float32Array(times.length * names.length);
      for (let t = 0; t < times.length; t++) {
        columns.forEach((column, i) => {
          const value = column < 0 ? rest[i] : values[t * shapes.length + column];
          if (!Number.isFinite(value))
            fail('clip/not-finite', `face shape "${names[i]}" has a weight that is not finite`, { frame: t + 1 });
          weights[t * names.length + i] = value;
        });
      }
      samplers.push({ input, output: addAccessor(weights, 'SCALAR'), interpolation: 'LINEAR' });
      channels.push({ sampler: samplers.length - 1, target: { node, path: 'weights' } });
    }
  }

  function notFinite(joint: number, frame: number): never {
    fail('clip/not-finite', 'the motion holds a number that is not finite', { joint: skeleton.names[joint], frame: frame + 1 });
  }
}

/** The document as an object of our own; it was checked on reading. */
function structured(json: unknown): LooseGltf {
  return JSON.parse(JSON.stringify(json)) as LooseGltf;
}
