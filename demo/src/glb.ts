import { Accessor, Document, WebIO } from '@gltf-transform/core';
import type { MeshBuilder } from './mesh';
import type { Rig } from './rig';

export interface Material {
  readonly colour: readonly [number, number, number];
  readonly rough: number;
}

/** Writes a puppet as one skinned mesh in a GLB file. */
export async function writePuppet(
  name: string,
  rig: Rig,
  mesh: MeshBuilder,
  materials: Readonly<Record<string, Material>>,
): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const { skeleton, joints, index, worldR } = rig;
  const nodes = joints.map(({ name: joint }, j) =>
    document
      .createNode(joint)
      .setTranslation([...skeleton.restT.slice(j * 3, j * 3 + 3)] as [number, number, number])
      .setRotation([...skeleton.restR.slice(j * 4, j * 4 + 4)] as [number, number, number, number]),
  );
  skeleton.parents.forEach((parent, j) => {
    if (parent >= 0) nodes[parent].addChild(nodes[j]);
  });
  const inverse = new Float32Array(joints.length * 16);
  joints.forEach(({ at }, j) => inverse.set(inverseMatrix(worldR.subarray(j * 4, j * 4 + 4), at), j * 16));
  const skin = document
    .createSkin(name)
    .setInverseBindMatrices(document.createAccessor().setType(Accessor.Type.MAT4).setArray(inverse).setBuffer(buffer));
  nodes.forEach((node) => skin.addJoint(node));
  const shape = document.createMesh(name);
  for (const [colour, part] of mesh.parts) {
    const count = part.weights.length;
    const jointsArray = new Uint8Array(count * 4);
    const weightsArray = new Float32Array(count * 4);
    part.weights.forEach((weights, i) => {
      const total = weights.reduce((s, [, w]) => s + w, 0);
      weights.forEach(([joint, weight], k) => {
        const j = index.get(joint);
        if (j === undefined) throw new Error(`${name}: no joint ${joint}`);
        jointsArray[i * 4 + k] = j;
        weightsArray[i * 4 + k] = weight / total;
      });
    });
    const { colour: rgb, rough } = materials[colour];
    const attribute = (type: 'VEC3' | 'VEC4', array: Float32Array | Uint8Array): Accessor =>
      document
        .createAccessor()
        .setType(type)
        .setArray(array as Float32Array<ArrayBuffer>)
        .setBuffer(buffer);
    shape.addPrimitive(
      document
        .createPrimitive()
        .setAttribute('POSITION', attribute('VEC3', Float32Array.from(part.positions)))
        .setAttribute('NORMAL', attribute('VEC3', Float32Array.from(part.normals)))
        .setAttribute('JOINTS_0', attribute('VEC4', jointsArray))
        .setAttribute('WEIGHTS_0', attribute('VEC4', weightsArray))
        .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint16Array.from(part.triangles)).setBuffer(buffer))
        .setMaterial(
          document
            .createMaterial(colour)
            .setBaseColorFactor([...rgb, 1])
            .setRoughnessFactor(rough)
            .setMetallicFactor(0),
        ),
    );
  }
  const body = document.createNode(`${name} body`).setMesh(shape).setSkin(skin);
  const scene = document.createScene(name).addChild(nodes[0]).addChild(body);
  document.getRoot().setDefaultScene(scene).getAsset().generator = 'Hollow Stride demo';
  return new WebIO().writeBinary(document);
}

/** Column-major inverse of a rotation and translation. */
function inverseMatrix(q: ArrayLike<number>, at: readonly [number, number, number]): number[] {
  const [x, y, z, w] = [-q[0], -q[1], -q[2], q[3]];
  const r = [
    [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
    [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
    [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
  ];
  const t = r.map((row) => -(row[0] * at[0] + row[1] * at[1] + row[2] * at[2]));
  return [r[0][0], r[1][0], r[2][0], 0, r[0][1], r[1][1], r[2][1], 0, r[0][2], r[1][2], r[2][2], 0, t[0], t[1], t[2], 1];
}
