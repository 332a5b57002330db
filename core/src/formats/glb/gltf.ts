import * as v from 'valibot';
import { fail } from '../../errors';
import { isFallback } from './meshopt';

/** The parts of a glTF 2.0 document that a motion needs; everything else is left as it is. */
const index = v.pipe(v.number(), v.integer(), v.minValue(0));
const count = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(2 ** 32));
const numbers = (length: number) => v.pipe(v.array(v.pipe(v.number(), v.finite())), v.length(length));

const nodeSchema = v.object({
  name: v.optional(v.string()),
  children: v.optional(v.array(index)),
  mesh: v.optional(index),
  skin: v.optional(index),
  weights: v.optional(v.array(v.pipe(v.number(), v.finite()))),
  translation: v.optional(numbers(3)),
  rotation: v.optional(numbers(4)),
  scale: v.optional(numbers(3)),
  matrix: v.optional(numbers(16)),
});

const gltfSchema = v.object({
  asset: v.object({ version: v.pipe(v.string(), v.regex(/^2\.0$/, 'is not glTF 2.0; export as that')) }),
  scene: v.optional(index),
  scenes: v.optional(v.array(v.object({ nodes: v.optional(v.array(index)) }))),
  nodes: v.optional(v.array(nodeSchema)),
  skins: v.optional(v.array(v.object({ joints: v.array(index), inverseBindMatrices: v.optional(index), skeleton: v.optional(index) }))),
  meshes: v.optional(
    v.array(
      v.object({
        primitives: v.array(
          v.object({
            attributes: v.record(v.string(), index),
            indices: v.optional(index),
            mode: v.optional(index),
            targets: v.optional(v.array(v.record(v.string(), index))),
            extensions: v.optional(v.unknown()),
          }),
        ),
        weights: v.optional(v.array(v.pipe(v.number(), v.finite()))),
        extras: v.optional(v.unknown()),
      }),
    ),
  ),
  animations: v.optional(
    v.array(
      v.object({
        name: v.optional(v.string()),
        channels: v.array(v.object({ sampler: index, target: v.object({ node: v.optional(index), path: v.string() }) })),
        samplers: v.array(
          v.object({
            input: index,
            output: index,
            interpolation: v.optional(v.picklist(['LINEAR', 'STEP', 'CUBICSPLINE'])),
          }),
        ),
      }),
    ),
  ),
  accessors: v.optional(
    v.array(
      v.object({
        bufferView: v.optional(index),
        byteOffset: v.optional(count),
        componentType: v.picklist([5120, 5121, 5122, 5123, 5125, 5126]),
        normalized: v.optional(v.boolean()),
        count,
        type: v.picklist(['SCALAR', 'VEC2', 'VEC3', 'VEC4', 'MAT2', 'MAT3', 'MAT4']),
        sparse: v.optional(
          v.object({
            count,
            indices: v.object({ bufferView: index, byteOffset: v.optional(count), componentType: v.picklist([5121, 5123, 5125]) }),
            values: v.object({ bufferView: index, byteOffset: v.optional(count) }),
          }),
        ),
      }),
    ),
  ),
  bufferViews: v.optional(
    v.array(
      v.object({
        buffer: index,
        byteOffset: v.optional(count),
        byteLength: count,
        byteStride: v.optional(v.pipe(v.number(), v.integer(), v.minValue(4), v.maxValue(252))),
        extensions: v.optional(v.unknown()),
      }),
    ),
  ),
  buffers: v.optional(v.array(v.object({ byteLength: count, uri: v.optional(v.string()), extensions: v.optional(v.unknown()) }))),
  extensionsRequired: v.optional(v.array(v.string())),
});

export type Gltf = v.InferOutput<typeof gltfSchema>;

const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const TYPE_SIZE: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };

/** Limit on all accessors of a file, bytes. */
const MAX_ROOM = 320 * 2 ** 20;

/**
 * Checks a glTF document's shape, every index, every byte range, and that the nodes form trees.
 * @throws FaultError glb/json, glb/reference, skeleton/loop, with what points where
 */
export function checkGltf(json: unknown, binLength: number | undefined): Gltf {
  const result = v.safeParse(gltfSchema, json);
  if (!result.success) {
    const issue = result.issues[0];
    const path = issue.path?.map((p) => String(p.key)).join('.') ?? '';
    fail('glb/json', `the glTF document is not valid at ${path || 'its top'}: ${issue.message}`);
  }
  const gltf = result.output;
  const { nodes = [], skins = [], meshes = [], animations = [], accessors = [], bufferViews = [], buffers = [] } = gltf;
  const refer = (value: number | undefined, list: readonly unknown[], what: string, from: string): void => {
    if (value !== undefined && value >= list.length) {
      fail('glb/reference', `${from} points to ${what} ${value}, and there are only ${list.length}`);
    }
  };
  buffers.forEach((buffer, i) => {
    if (buffer.uri !== undefined) {
      fail('glb/reference', `buffer ${i} lies in another file; pack everything into one GLB file`);
    }
    if (isFallback(buffer.extensions)) return;
    if (i > 0 || binLength === undefined) fail('glb/reference', `buffer ${i} is missing: the file has no binary chunk for it`);
    if (buffer.byteLength > binLength) {
      fail('glb/reference', `buffer ${i} says ${buffer.byteLength} bytes, the binary chunk holds ${binLength}`);
    }
  });
  bufferViews.forEach((view, i) => {
    refer(view.buffer, buffers, 'buffer', `buffer view ${i}`);
    if ((view.byteOffset ?? 0) + view.byteLength > buffers[view.buffer].byteLength) {
      fail('glb/reference', `buffer view ${i} runs past the end of buffer ${view.buffer}`);
    }
  });
  accessors.forEach((accessor, i) => {
    refer(accessor.bufferView, bufferViews, 'buffer view', `accessor ${i}`);
    const element = COMPONENT_BYTES[accessor.componentType] * TYPE_SIZE[accessor.type];
    if (accessor.bufferView !== undefined) {
      const view = bufferViews[accessor.bufferView];
      const need = accessor.count === 0 ? 0 : (accessor.byteOffset ?? 0) + (accessor.count - 1) * (view.byteStride ?? element) + element;
      if (need > view.byteLength) fail('glb/reference', `accessor ${i} runs past the end of buffer view ${accessor.bufferView}`);
    }
    if (accessor.sparse) {
      const { sparse } = accessor;
      const ranges = [
        [sparse.indices, COMPONENT_BYTES[sparse.indices.componentType]],
        [sparse.values, element],
      ] as const;
      for (const [part, bytes] of ranges) {
        refer(part.bufferView, bufferViews, 'buffer view', `accessor ${i}`);
        if ((part.byteOffset ?? 0) + sparse.count * bytes > bufferViews[part.bufferView].byteLength) {
          fail('glb/reference', `the sparse part of accessor ${i} runs past the end of buffer view ${part.bufferView}`);
        }
      }
    }
  });
  // Sparse accessors and those without a view take room that the file does not: counted before it is taken.
  const room = accessors.reduce((sum, a) => sum + a.count * COMPONENT_BYTES[a.componentType] * TYPE_SIZE[a.type], 0);
  if (room > MAX_ROOM) {
    fail('glb/reference', `the accessors take ${(room / 2 ** 20).toFixed(0)} MB; at most ${MAX_ROOM / 2 ** 20} MB of one file are read`);
  }
  meshes.forEach((mesh, i) =>
    mesh.primitives.forEach((primitive) => {
      refer(primitive.indices, accessors, 'accessor', `the triangles of mesh ${i}`);
      Object.entries(primitive.attributes).forEach(([name, a]) => refer(a, accessors, 'accessor', `attribute ${name} of mesh ${i}`));
    }),
  );
  nodes.forEach(({ mesh }, n) => refer(mesh, meshes, 'mesh', `node ${n}`));
  skins.forEach((skin, i) => {
    if (skin.joints.length === 0) fail('glb/reference', `skin ${i} has no joints`);
    skin.joints.forEach((joint) => refer(joint, nodes, 'node', `skin ${i}`));
    refer(skin.inverseBindMatrices, accessors, 'accessor', `skin ${i}`);
    if (skin.inverseBindMatrices !== undefined) {
      const accessor = accessors[skin.inverseBindMatrices];
      if (accessor.type !== 'MAT4' || accessor.count < skin.joints.length) {
        fail('glb/reference', `skin ${i} has ${skin.joints.length} joints and too few inverse bind matrices`);
      }
    }
  });
  animations.forEach((animation, i) => {
    animation.channels.forEach((channel) => {
      refer(channel.sampler, animation.samplers, 'sampler', `animation ${i}`);
      refer(channel.target.node, nodes, 'node', `animation ${i}`);
    });
    animation.samplers.forEach((sampler) => {
      refer(sampler.input, accessors, 'accessor', `animation ${i}`);
      refer(sampler.output, accessors, 'accessor', `animation ${i}`);
    });
  });
  checkTrees(gltf);
  gltf.scenes?.forEach((scene, i) => scene.nodes?.forEach((n) => refer(n, nodes, 'node', `scene ${i}`)));
  return gltf;
}

/** Each node may have one parent and no node may be its own ancestor: all must be reached from the roots. */
function checkTrees({ nodes = [] }: Gltf): void {
  const parents = nodeParents(nodes);
  const reached = new Uint8Array(nodes.length);
  const queue = [...parents.keys()].filter((n) => parents[n] < 0);
  for (let n = queue.pop(); n !== undefined; n = queue.pop()) {
    reached[n] = 1;
    nodes[n].children?.forEach((child) => queue.push(child));
  }
  const lost = reached.indexOf(0);
  if (lost >= 0) {
    fail('skeleton/loop', 'the joint is its own ancestor: the nodes form a loop', { joint: nodes[lost].name ?? `node ${lost}` });
  }
}

/** Parent of each node, −1 for none. @throws FaultError glb/reference when a node has two parents */
export function nodeParents(nodes: NonNullable<Gltf['nodes']>): Int32Array {
  const parents = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((node, n) =>
    node.children?.forEach((child) => {
      if (child >= nodes.length) {
        fail('glb/reference', `node ${n} points to node ${child}, and there are only ${nodes.length}`);
      }
      if (parents[child] >= 0) {
        fail('skeleton/loop', 'the joint has two parents', { joint: nodes[child].name ?? `node ${child}` });
      }
      parents[child] = n;
    }),
  );
  return parents;
}
