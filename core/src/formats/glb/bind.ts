import { inverted, multiply, placeMatrix } from '../../math/matrix';
import { restPose, type Skeleton } from '../../skeleton';
import type { Surface, SurfacePart } from '../surface';
import { readContainer, writeContainer } from './container';

/** What moves each point of a surface: four joints a point and their weights, adding up to 1. */
export interface PointWeights {
  readonly joints: Uint16Array;
  /** 4 a point. */
  readonly values: Float32Array;
}

/** A skeleton for a surface. */
export interface Binding {
  readonly name: string;
  /** Metres, Y up. */
  readonly skeleton: Skeleton;
  /** Column-major 4 × 4: the surface's space to the skeleton's. */
  readonly toBody: Float64Array;
  readonly weights: PointWeights;
}

interface Loose {
  [key: string]: unknown;
  nodes?: Record<string, unknown>[];
  meshes?: { primitives: LoosePrimitive[]; [key: string]: unknown }[];
  skins?: Record<string, unknown>[];
  accessors?: Record<string, unknown>[];
  bufferViews?: Record<string, unknown>[];
  buffers?: { byteLength: number }[];
  extensions?: Record<string, unknown>;
  extensionsUsed?: string[] | undefined;
  extensionsRequired?: string[] | undefined;
}
interface LoosePrimitive {
  attributes: Record<string, number>;
  mode?: number;
  [key: string]: unknown;
}

/** What an avatar's file says of a skeleton that is no longer there. */
const OF_THE_SKELETON = /^(VRM|VRMC_)/;
/** Columns of a matrix, and numbers in it. */
const MATRIX = 16;

/**
 * Binds a surface to a skeleton in a file of its own: the points, materials and pictures are those of the surface's file, byte by
 * byte; its nodes give way to the joints, and one node for each mesh. Skeletons, animations, cameras and lights that were there are
 * left out. The place of a mesh is in the inverse bind matrices (glTF 2.0 section 3.7.3), so that no point is written anew.
 * @returns a GLB file, metres and Y up
 */
export function bindGlb(surface: Surface, { name, skeleton, toBody, weights }: Binding): Uint8Array<ArrayBuffer> {
  const file = new Appended(surface);
  const { gltf } = file;
  const old = gltf.nodes ?? [];
  const meshes = gltf.meshes ?? [];
  const joints = skeleton.names.map((joint, j): Record<string, unknown> => {
    const children = [...skeleton.parents.keys()].filter((i) => skeleton.parents[i] === j);
    return {
      name: joint,
      ...(children.length > 0 && { children }),
      translation: [...skeleton.restT.subarray(j * 3, j * 3 + 3)],
      // Rounding may leave a part of a unit quaternion just over 1, which the format forbids.
      rotation: Array.from(skeleton.restR.subarray(j * 4, j * 4 + 4), (v) => Math.max(-1, Math.min(1, v))),
    };
  });
  const { positions, rotations } = restPose(skeleton);
  const binds = new Float64Array(joints.length * MATRIX);
  joints.forEach((_, j) => binds.set(placeMatrix(rotations.subarray(j * 4, j * 4 + 4), positions.subarray(j * 3, j * 3 + 3)), j * MATRIX));
  const skins = new Map<string, number>();
  gltf.skins = [];
  gltf.meshes = [];
  gltf.nodes = joints;
  const bodies: number[] = [];
  for (const parts of byNode(surface.parts)) {
    const [{ node, mesh, matrix }] = parts;
    const key = matrix.join();
    let skin = skins.get(key);
    if (skin === undefined) {
      const inverse = file.inverses(binds, multiply(toBody, matrix));
      skin = gltf.skins.push({ name, joints: joints.map((_, j) => j), inverseBindMatrices: inverse }) - 1;
      skins.set(key, skin);
    }
    gltf.meshes.push({
      ...meshes[mesh],
      primitives: parts.map((part) => file.weighted(meshes[mesh].primitives[part.primitive], part, weights)),
    });
    const { name: title, weights: morphs } = old[node];
    bodies.push(
      gltf.nodes.push({
        name: title ?? `${name} body`,
        mesh: gltf.meshes.length - 1,
        skin,
        ...(morphs !== undefined && { weights: morphs }),
      }) - 1,
    );
  }
  const roots = [...skeleton.parents.keys()].filter((j) => skeleton.parents[j] < 0);
  gltf.scenes = [{ name, nodes: [...roots, ...bodies] }];
  gltf.scene = 0;
  delete gltf.animations;
  forgetSkeleton(gltf);
  return file.written();
}

/**
 * Gives the points of a file other weights for the joints it has; all else of the file stays.
 * @param nodes node of each joint that the weights speak of
 * @param binds column-major world matrix of each joint where the surface was bound, 16 a joint, in the surface's space
 */
export function reweighGlb(
  surface: Surface,
  weights: PointWeights,
  nodes: ArrayLike<number>,
  binds: Float64Array,
): Uint8Array<ArrayBuffer> {
  const file = new Appended(surface);
  const { gltf } = file;
  const skins = (gltf.skins ??= []);
  for (const parts of byNode(surface.parts)) {
    const [{ node, mesh, matrix }] = parts;
    const skin = skins.push({ joints: Array.from(nodes), inverseBindMatrices: file.inverses(binds, matrix) }) - 1;
    const meshes = gltf.meshes!;
    const primitives = parts.map((part) => file.weighted(meshes[mesh].primitives[part.primitive], part, weights));
    meshes.push({ ...meshes[mesh], primitives });
    Object.assign(gltf.nodes![node], { mesh: meshes.length - 1, skin });
  }
  return file.written();
}

/** A GLB file to which numbers are added behind those it has. */
class Appended {
  readonly gltf: Loose;
  private readonly bin: Uint8Array;
  private readonly blocks: (Float32Array | Uint16Array)[] = [];
  private length: number;

  constructor(surface: Surface) {
    const { json, bin = new Uint8Array(0) } = readContainer(surface.glb);
    this.gltf = JSON.parse(JSON.stringify(json)) as Loose;
    this.bin = bin;
    this.length = (bin.length + 3) & ~3;
  }

  /** A new accessor over numbers. @returns its index */
  add(data: Float32Array | Uint16Array, componentType: number, type: string, size: number): number {
    const views = (this.gltf.bufferViews ??= []);
    views.push({ buffer: 0, byteOffset: this.length, byteLength: data.byteLength });
    this.blocks.push(data);
    this.length += (data.byteLength + 3) & ~3;
    return (this.gltf.accessors ??= []).push({ bufferView: views.length - 1, componentType, count: data.length / size, type }) - 1;
  }

  /** An accessor of inverse bind matrices: from a mesh's own space to that of each joint. @param binds 16 a joint, column-major */
  inverses(binds: Float64Array, placed: Float64Array): number {
    const inverse = new Float32Array(binds.length);
    for (let o = 0; o < binds.length; o += MATRIX) {
      inverse.set(multiply(inverted(binds.subarray(o, o + MATRIX)), placed), o);
      // The last row is that of a place, to the bit.
      for (let c = 0; c < 4; c++) inverse[o + c * 4 + 3] = c === 3 ? 1 : 0;
    }
    return this.add(inverse, 5126, 'MAT4', MATRIX);
  }

  /** A primitive as it is, but for what moves its points. */
  weighted(primitive: LoosePrimitive, { first, count }: SurfacePart, { joints, values }: PointWeights): LoosePrimitive {
    const kept = Object.entries(primitive.attributes).filter(([key]) => !/^(JOINTS|WEIGHTS)_\d+$/.test(key));
    const range = [first * 4, (first + count) * 4] as const;
    return {
      ...primitive,
      attributes: {
        ...Object.fromEntries(kept),
        JOINTS_0: this.add(joints.slice(...range), 5123, 'VEC4', 4),
        WEIGHTS_0: this.add(values.slice(...range), 5126, 'VEC4', 4),
      },
    };
  }

  written(): Uint8Array<ArrayBuffer> {
    const joined = new Uint8Array(this.length);
    joined.set(this.bin);
    let at = (this.bin.length + 3) & ~3;
    for (const block of this.blocks) {
      joined.set(new Uint8Array(block.buffer, block.byteOffset, block.byteLength), at);
      at += (block.byteLength + 3) & ~3;
    }
    const buffers = (this.gltf.buffers ??= []);
    if (buffers.length === 0) buffers.push({ byteLength: this.length });
    else buffers[0].byteLength = this.length;
    return writeContainer(this.gltf, joined);
  }
}

/** Pieces by the node they hang on. */
function byNode(parts: readonly SurfacePart[]): SurfacePart[][] {
  const nodes = new Map<number, SurfacePart[]>();
  for (const part of parts) nodes.set(part.node, [...(nodes.get(part.node) ?? []), part]);
  return [...nodes.values()];
}

function forgetSkeleton(gltf: Loose): void {
  if (gltf.extensions) gltf.extensions = Object.fromEntries(Object.entries(gltf.extensions).filter(([key]) => !OF_THE_SKELETON.test(key)));
  for (const list of ['extensionsUsed', 'extensionsRequired'] as const) {
    const names = gltf[list]?.filter((name) => !OF_THE_SKELETON.test(name)) ?? [];
    // Writing leaves undefined lists out.
    gltf[list] = names.length > 0 ? names : undefined;
  }
  if (gltf.extensions && Object.keys(gltf.extensions).length === 0) delete gltf.extensions;
}
