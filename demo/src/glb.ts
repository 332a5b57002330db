import { Accessor, Document, WebIO } from '@gltf-transform/core';
import { MeshBuilder } from './mesh';
import { buildRig, type Rig } from './rig';
import type { V3 } from './vectors';

export interface Material {
  readonly colour: readonly [number, number, number];
  readonly rough: number;
}

/** A face channel: how far it moves the points of some colours at its full. */
export interface Morph {
  readonly name: string;
  readonly parts: Readonly<Record<string, (point: V3) => V3>>;
}

/** A puppet as a program with Z up and centimetres writes it: the same body, other numbers. */
export function zUpCentimetres(rig: Rig, mesh: MeshBuilder): [Rig, MeshBuilder] {
  const turn = ([x, y, z]: V3, k: number): V3 => [x * k, -z * k, y * k];
  const { skeleton } = rig;
  const tips = new Map<string, V3>();
  rig.joints.forEach(({ name, at }, j) => {
    const [x, y, z] = skeleton.tips.subarray(j * 3, j * 3 + 3);
    // Axes lie along the world, so a tip in the joint's frame is one in the world.
    if (Number.isFinite(x)) tips.set(name, turn([at[0] + x, at[1] + y, at[2] + z], 100));
  });
  const turned = buildRig(
    rig.joints.map((joint) => ({ ...joint, at: turn(joint.at, 100) })),
    'world',
    tips,
  );
  const out = new MeshBuilder();
  for (const [colour, { positions, normals, weights, triangles }] of mesh.parts) {
    const all = (list: readonly number[], k: number): number[] =>
      Array.from({ length: list.length / 3 }, (_, i) => turn([list[i * 3], list[i * 3 + 1], list[i * 3 + 2]], k)).flat();
    out.parts.set(colour, { positions: all(positions, 100), normals: all(normals, 1), weights, triangles });
  }
  return [turned, out];
}

/** Writes a puppet as one skinned mesh in a GLB file. */
export async function writePuppet(
  name: string,
  rig: Rig,
  mesh: MeshBuilder,
  materials: Readonly<Record<string, Material>>,
  morphs: readonly Morph[] = [],
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
    part.weights.forEach((given, i) => {
      // A joint that is named twice moves the point by both of its shares.
      const weights = new Map<string, number>();
      for (const [joint, weight] of given) weights.set(joint, (weights.get(joint) ?? 0) + weight);
      const total = given.reduce((s, [, w]) => s + w, 0);
      [...weights].forEach(([joint, weight], k) => {
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
    const primitive = document.createPrimitive();
    // Every primitive of a mesh has all of its targets; those that a channel does not move hold still.
    for (const morph of morphs) {
      const move = morph.parts[colour] as ((point: V3) => V3) | undefined;
      const p = part.positions;
      const moved = Float32Array.from(part.weights.flatMap((_, i) => move?.([p[i * 3], p[i * 3 + 1], p[i * 3 + 2]]) ?? [0, 0, 0]));
      primitive.addTarget(document.createPrimitiveTarget(morph.name).setAttribute('POSITION', attribute('VEC3', moved)));
    }
    shape.addPrimitive(
      primitive
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
  if (morphs.length > 0) shape.setWeights(morphs.map(() => 0)).setExtras({ targetNames: morphs.map((morph) => morph.name) });
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
