/** Small GLB files for tests: a skeleton as nodes under a container, a skinned patch of mesh, an animation. */
import { Accessor, Document, WebIO, type Node } from '@gltf-transform/core';
import { restPose, type Skeleton } from '../skeleton';

export interface GlbOptions {
  /** Uniform scale and rotation of a node above the skeleton; the skeleton inside is scaled against it. */
  readonly scale?: number;
  readonly turn?: readonly [number, number, number, number];
  readonly at?: readonly [number, number, number];
  /** Joint whose node is scaled by this factor, its children's translations divided by it. */
  readonly jointScale?: { readonly joint: number; readonly factor: number };
  readonly skinned?: boolean;
  /** Lays a tube of mesh along every bone, its ends moved by both joints, so that a bone that parts draws it out. */
  readonly sheath?: boolean;
}

/** Writes a skeleton, standing as its rest pose in the world, as a GLB file. */
export async function makeGlb(skeleton: Skeleton, options: GlbOptions = {}): Promise<Uint8Array> {
  const { scale = 1, turn = [0, 0, 0, 1], at = [0, 0, 0], jointScale, skinned = true, sheath = false } = options;
  const document = new Document();
  const buffer = skinned ? document.createBuffer() : null;
  const container = document
    .createNode('stand')
    .setScale([scale, scale, scale])
    .setRotation([...turn])
    .setTranslation([...at]);
  const nodes: Node[] = skeleton.names.map((name, j) => {
    const parent = skeleton.parents[j];
    const shrink = scale * (jointScale && parent === jointScale.joint ? jointScale.factor : 1) * inheritedScale(parent);
    const t = [0, 1, 2].map((c) => skeleton.restT[j * 3 + c] / shrink) as [number, number, number];
    const node = document
      .createNode(name)
      .setTranslation(t)
      .setRotation([...skeleton.restR.slice(j * 4, j * 4 + 4)] as never);
    if (jointScale?.joint === j) node.setScale([jointScale.factor, jointScale.factor, jointScale.factor]);
    return node;
  });
  function inheritedScale(joint: number): number {
    for (let j = joint >= 0 ? skeleton.parents[joint] : -1; j >= 0; j = skeleton.parents[j])
      if (jointScale && j === jointScale.joint) return jointScale.factor;
    return 1;
  }
  skeleton.parents.forEach((parent, j) => (parent < 0 ? container : nodes[parent]).addChild(nodes[j]));
  const scene = document.createScene().addChild(container);
  document.getRoot().setDefaultScene(scene);
  const pose = restPose(skeleton);
  const attribute = (type: 'VEC3' | 'VEC4' | 'MAT4' | 'SCALAR', array: Float32Array | Uint8Array | Uint16Array) =>
    document
      .createAccessor()
      .setType(Accessor.Type[type])
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  if (skinned) {
    const skin = document.createSkin();
    nodes.forEach((node) => skin.addJoint(node));
    // Points given in the world at rest, bound by each joint's world inverse without rotation: enough to find soles.
    const inverse = new Float32Array(nodes.length * 16);
    nodes.forEach((_, j) => inverse.set(worldInverse(pose.positions, pose.rotations, j, scale), j * 16));
    skin.setInverseBindMatrices(attribute('MAT4', inverse));
    const feet = skeleton.names.map((name, j) => ({ name, j })).filter(({ name }) => /Foot/.test(name));
    const positions: number[] = [];
    const joints: number[] = [];
    const weights: number[] = [];
    const triangles: number[] = [];
    if (sheath) skeleton.parents.forEach((parent, j) => parent >= 0 && tube(parent, j));
    for (const { j } of feet) {
      for (let i = 0; i < 12; i++) {
        positions.push(pose.positions[j * 3] + (i % 2) * 0.02, 0.002 * (i % 3), pose.positions[j * 3 + 2] - 0.06 + 0.025 * i);
        joints.push(j, 0, 0, 0);
        weights.push(1, 0, 0, 0);
        if (i % 3 === 2) triangles.push(positions.length / 3 - 3, positions.length / 3 - 2, positions.length / 3 - 1);
      }
    }
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', attribute('VEC3', Float32Array.from(positions)))
      .setAttribute('JOINTS_0', attribute('VEC4', Uint8Array.from(joints)))
      .setAttribute('WEIGHTS_0', attribute('VEC4', Float32Array.from(weights)))
      .setIndices(attribute('SCALAR', Uint16Array.from(triangles)))
      .setExtras({ kept: 'yes' });
    scene.addChild(document.createNode('body').setMesh(document.createMesh().addPrimitive(primitive)).setSkin(skin));

    /** Three rings of three points about a bone: at its parent, halfway moved by both, at the joint. */
    function tube(parent: number, j: number): void {
      const base = positions.length / 3;
      for (let ring = 0; ring < 3; ring++) {
        for (let k = 0; k < 3; k++) {
          const around = [0.02 * Math.cos(2.1 * k), 0.01, 0.02 * Math.sin(2.1 * k)];
          const share = ring / 2;
          for (let c = 0; c < 3; c++) {
            positions.push(pose.positions[parent * 3 + c] * (1 - share) + pose.positions[j * 3 + c] * share + around[c]);
          }
          joints.push(j, parent, 0, 0);
          weights.push(share, 1 - share, 0, 0);
          const [a, b] = [base + ring * 3 + k, base + ring * 3 + ((k + 1) % 3)];
          if (ring > 0) triangles.push(a, b, a - 3);
        }
      }
    }
  }
  return new WebIO().writeBinary(document);
}

function worldInverse(p: Float64Array, r: Float64Array, j: number, scale: number): number[] {
  const [x, y, z, w] = [-r[j * 4], -r[j * 4 + 1], -r[j * 4 + 2], r[j * 4 + 3]];
  const m = [
    [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
    [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
    [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
  ].map((row) => row.map((v) => v / scale));
  const t = m.map((row) => -(row[0] * p[j * 3] + row[1] * p[j * 3 + 1] + row[2] * p[j * 3 + 2]));
  return [m[0][0], m[1][0], m[2][0], 0, m[0][1], m[1][1], m[2][1], 0, m[0][2], m[1][2], m[2][2], 0, t[0], t[1], t[2], 1];
}
