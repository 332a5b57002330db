import { MathUtils, type mat4, type vec3, type vec4 } from '@gltf-transform/core';
import { fail } from '../../errors';
import { copy, identity, mul, normalize, rotate } from '../../math/quat';
import { MAX_JOINTS } from '../../skeleton';
import { nodeParents, type Gltf } from './gltf';

/** A node's transform as translation, rotation and one scale. */
export interface NodeTransforms {
  readonly parents: Int32Array;
  readonly t: Float64Array;
  readonly r: Float64Array;
  /** Uniform scale of each node; NaN where the scale is not uniform. */
  readonly s: Float64Array;
  /** Why a scale is NaN. */
  readonly trouble: Map<number, string>;
}

/** Reads TRS or matrix of every node. */
export function nodeTransforms(gltf: Gltf): NodeTransforms {
  const nodes = gltf.nodes ?? [];
  const count = nodes.length;
  const t = new Float64Array(count * 3);
  const r = new Float64Array(count * 4);
  const s = new Float64Array(count).fill(1);
  const trouble = new Map<number, string>();
  nodes.forEach((node, n) => {
    identity(r, n * 4);
    let scale = node.scale ?? [1, 1, 1];
    if (node.matrix) {
      const m = node.matrix as mat4;
      const place: vec3 = [0, 0, 0];
      const turn: vec4 = [0, 0, 0, 1];
      const size: vec3 = [1, 1, 1];
      MathUtils.decompose(m, place, turn, size);
      // Shear cannot be expressed by place, turn and size, and is lost.
      const again = MathUtils.compose(place, turn, size, new Array<number>(16).fill(0) as mat4);
      const largest = Math.max(...size.map(Math.abs));
      if (!MathUtils.eq([...again].slice(0, 12), m.slice(0, 12), 0.01 * largest)) trouble.set(n, 'it is sheared');
      t.set(place, n * 3);
      copy(r, n * 4, turn, 0);
      normalize(r, n * 4);
      scale = size;
    } else {
      if (node.translation) t.set(node.translation, n * 3);
      if (node.rotation) {
        copy(r, n * 4, node.rotation, 0);
        normalize(r, n * 4);
      }
    }
    const [x, y, z] = scale;
    if (x < 0 || y < 0 || z < 0) trouble.set(n, 'it is mirrored (negative scale)');
    else if (Math.max(x, y, z) - Math.min(x, y, z) > 2e-3 * Math.max(x, y, z)) {
      trouble.set(n, `its scale is not the same along all axes (${scale.map((v) => v.toFixed(3)).join(', ')})`);
    } else if (x < 1e-9) trouble.set(n, 'its scale is zero');
    s[n] = trouble.has(n) ? NaN : (x + y + z) / 3;
  });
  return { parents: nodeParents(nodes), t, r, s, trouble };
}

/** Which nodes are joints, in parent-before-child order, and the container that stands above each root. */
export interface JointNodes {
  readonly nodes: Int32Array;
  readonly jointOfNode: Int32Array;
}

/**
 * Chooses the skeleton: the joints of the largest skin and of every skin that shares its tree, all nodes between them,
 * and moving ancestors. Without a skin: the moving nodes and what stands between and below them, without meshes.
 * @throws FaultError skeleton/none, skeleton/limit
 */
export function chooseJoints(gltf: Gltf, parents: Int32Array): JointNodes {
  const nodes = gltf.nodes ?? [];
  const chosen = new Uint8Array(nodes.length);
  const moving = new Uint8Array(nodes.length);
  gltf.animations?.forEach((animation) =>
    animation.channels.forEach(({ target }) => {
      if (target.node !== undefined && (target.path === 'rotation' || target.path === 'translation')) moving[target.node] = 1;
    }),
  );
  const skins = gltf.skins ?? [];
  if (skins.length > 0) {
    const largest = skins.reduce((a, b) => (b.joints.length > a.joints.length ? b : a));
    const top = rootOf(parents, largest.joints[0]);
    for (const skin of skins) {
      for (const joint of skin.joints) if (rootOf(parents, joint) === top) chosen[joint] = 1;
    }
  } else {
    nodes.forEach((node, n) => {
      if (moving[n] || (node.mesh === undefined && node.children?.length)) chosen[n] = 1;
    });
    nodes.forEach((node, n) => {
      if (node.mesh === undefined && parents[n] >= 0 && chosen[parents[n]]) chosen[n] = 1;
    });
  }
  // Between two joints, and from a joint up to a moving ancestor, everything belongs.
  const order = topDown(nodes.length, parents);
  const above = new Uint8Array(nodes.length);
  for (const n of order) {
    const parent = parents[n];
    above[n] = chosen[n] || moving[n] || (parent >= 0 && above[parent]) ? 1 : 0;
  }
  const below = chosen.slice();
  for (let i = order.length - 1; i >= 0; i--) {
    const n = order[i];
    if (below[n] && parents[n] >= 0) below[parents[n]] = 1;
  }
  const list = order.filter((n) => above[n] && below[n]);
  if (list.length < 2) {
    fail('skeleton/none', 'the file has no skin and no skeleton of joints; export the character with its skeleton');
  }
  if (list.length > MAX_JOINTS) {
    fail('skeleton/limit', `${list.length} joints; at most ${MAX_JOINTS} are read. Export the body without helper joints.`);
  }
  const jointOfNode = new Int32Array(nodes.length).fill(-1);
  list.forEach((n, j) => (jointOfNode[n] = j));
  return { nodes: Int32Array.from(list), jointOfNode };
}

function rootOf(parents: Int32Array, node: number): number {
  let n = node;
  while (parents[n] >= 0) n = parents[n];
  return n;
}

/** Node indices with parents before children, siblings in file order. */
function topDown(count: number, parents: Int32Array): number[] {
  const children: number[][] = Array.from({ length: count }, () => []);
  const stack: number[] = [];
  for (let n = count - 1; n >= 0; n--) if (parents[n] < 0) stack.push(n);
  for (let n = 0; n < count; n++) if (parents[n] >= 0) children[parents[n]].push(n);
  const order: number[] = [];
  while (stack.length > 0) {
    const n = stack.pop()!;
    order.push(n);
    for (let i = children[n].length - 1; i >= 0; i--) stack.push(children[n][i]);
  }
  return order;
}

/** World rotation, position and scale of a node at rest, from its chain of ancestors. */
export function nodeWorld(transforms: NodeTransforms, node: number): { r: Float64Array; t: Float64Array; s: number } {
  const chain: number[] = [];
  for (let n = node; n >= 0; n = transforms.parents[n]) chain.unshift(n);
  const r = new Float64Array(4);
  identity(r, 0);
  const t = new Float64Array(3);
  const moved = new Float64Array(3);
  let s = 1;
  for (const n of chain) {
    for (let c = 0; c < 3; c++) moved[c] = transforms.t[n * 3 + c] * s;
    rotate(moved, 0, r, 0, moved, 0);
    for (let c = 0; c < 3; c++) t[c] += moved[c];
    mul(r, 0, r, 0, transforms.r, n * 4);
    s *= transforms.s[n];
  }
  return { r, t, s };
}
