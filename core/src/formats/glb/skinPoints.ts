import type { Document } from '@gltf-transform/core';
import { rotate } from '../../math/quat';
import type { Pose } from '../../skeleton';
import { MAX_VALUE } from '../limits';

/** Mesh points at the file's rest pose, in file axes and units, each with the joints that move it. */
export interface SkinPoints {
  readonly positions: Float32Array;
  /** The joint that moves a point most. */
  readonly joints: Int32Array;
  /** Up to four joints a point, −1 for none, their weights adding up to 1, and the point in each joint's frame. */
  readonly influences: Int32Array;
  readonly weights: Float32Array;
  readonly locals: Float32Array;
  /** Pairs of points that an edge of the mesh joins. */
  readonly edges: Uint32Array;
}

const MAX_POINTS = 300_000;

/**
 * Skins every mesh of a document at the rest pose (linear blend skinning, glTF 2.0 section 3.7.3).
 * @param jointOfNode joint index of each node, −1 for none
 * @param rest world rest pose of the joints
 * @param scales world scale of each joint's own frame
 */
export function skinPoints(document: Document, jointOfNode: Int32Array, rest: Pose, scales: Float64Array): SkinPoints | undefined {
  const root = document.getRoot();
  const nodeIndex = new Map(root.listNodes().map((node, i) => [node, i]));
  const positions: number[] = [];
  const joints: number[] = [];
  const influences: number[] = [];
  const weights: number[] = [];
  const locals: number[] = [];
  const edges: number[] = [];
  const local = new Float64Array(3);
  const at = new Float64Array(3);
  for (const node of root.listNodes()) {
    const skin = node.getSkin();
    const mesh = node.getMesh();
    if (!skin || !mesh) continue;
    const skinJoints = skin.listJoints().map((joint) => jointOfNode[nodeIndex.get(joint)!]);
    const inverse = skin.getInverseBindMatrices();
    for (const primitive of mesh.listPrimitives()) {
      const point = primitive.getAttribute('POSITION');
      const jointIndex = primitive.getAttribute('JOINTS_0');
      const weight = primitive.getAttribute('WEIGHTS_0');
      if (!point || !jointIndex || !weight || positions.length / 3 + point.getCount() > MAX_POINTS) continue;
      const p: number[] = [];
      const ji: number[] = [];
      const w: number[] = [];
      const m: number[] = [];
      // Place in our lists of each point of the primitive, −1 for those that no joint moves.
      const index = new Int32Array(point.getCount()).fill(-1);
      for (let i = 0; i < point.getCount(); i++) {
        point.getElement(i, p);
        jointIndex.getElement(i, ji);
        weight.getElement(i, w);
        let x = 0,
          y = 0,
          z = 0,
          total = 0,
          best = -1,
          bestWeight = 0;
        const start = influences.length;
        for (let k = 0; k < 4; k++) {
          const joint = skinJoints[ji[k]];
          if (!(w[k] > 0) || joint === undefined || joint < 0) continue;
          if (inverse) {
            inverse.getElement(ji[k], m);
            for (let r = 0; r < 3; r++) local[r] = m[r] * p[0] + m[4 + r] * p[1] + m[8 + r] * p[2] + m[12 + r];
          } else local.set(p);
          for (let r = 0; r < 3; r++) local[r] *= scales[joint];
          rotate(at, 0, rest.rotations, joint * 4, local, 0);
          x += w[k] * (at[0] + rest.positions[joint * 3]);
          y += w[k] * (at[1] + rest.positions[joint * 3 + 1]);
          z += w[k] * (at[2] + rest.positions[joint * 3 + 2]);
          total += w[k];
          influences.push(joint);
          weights.push(w[k]);
          locals.push(local[0], local[1], local[2]);
          if (w[k] > bestWeight) {
            bestWeight = w[k];
            best = joint;
          }
        }
        if (best < 0 || !(Math.abs(x) + Math.abs(y) + Math.abs(z) < MAX_VALUE * total)) {
          influences.length = weights.length = start;
          locals.length = start * 3;
          continue;
        }
        for (let k = start; k < influences.length; k++) weights[k] /= total;
        for (; influences.length < start + 4; locals.push(0, 0, 0)) {
          influences.push(-1);
          weights.push(0);
        }
        index[i] = joints.length;
        positions.push(x / total, y / total, z / total);
        joints.push(best);
      }
      addEdges(primitive.getIndices()?.getArray(), index, edges);
    }
  }
  if (positions.length === 0) return undefined;
  return {
    positions: Float32Array.from(positions),
    joints: Int32Array.from(joints),
    influences: Int32Array.from(influences),
    weights: Float32Array.from(weights),
    locals: Float32Array.from(locals),
    edges: Uint32Array.from(edges),
  };
}

/** The edges of a primitive's triangles, each once as far as neighbours turn the same way. */
function addEdges(triangles: ArrayLike<number> | undefined, index: Int32Array, edges: number[]): void {
  for (let i = 0; triangles && i + 2 < triangles.length; i += 3) {
    for (let k = 0; k < 3; k++) {
      const a = index[triangles[i + k]] ?? -1;
      const b = index[triangles[i + ((k + 1) % 3)]] ?? -1;
      if (a >= 0 && b >= 0 && a < b) edges.push(a, b);
    }
  }
}
