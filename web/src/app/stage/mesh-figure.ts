import {
  Box3,
  Color,
  Mesh,
  MeshLambertMaterial,
  type Object3D,
  Quaternion,
  SkinnedMesh,
  Vector3,
  type Material,
  type MeshStandardMaterial,
} from 'three';
import { MeshoptDecoder } from 'three/addons/libs/meshopt_decoder.module.js';
import { DRACOLoader } from 'three/addons/loaders/DRACOLoader.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import type { FaceWeights, Pose } from '@hollow-stride/core';
import type { DisplayBody } from '../solver/messages';
import { weightsAt } from './face-keys';

/** Share of its opacity that a skin keeps when joints are seen through it. */
const THIN = 0.32;

interface Solid {
  readonly opacity: number;
  readonly transparent: boolean;
}

let draco: DRACOLoader | undefined;

/** A loader that unpacks meshes; the decoder of Draco is fetched from the server when the first such mesh is met. */
function makeLoader(): GLTFLoader {
  draco ??= new DRACOLoader().setDecoderPath('/draco/').setWorkerLimit(1);
  return new GLTFLoader().setMeshoptDecoder(MeshoptDecoder).setDRACOLoader(draco);
}

/** A character's own mesh, moved by world poses of its joints in metres with Y up. */
export class MeshFigure {
  private readonly position = new Vector3();
  private readonly turn = new Quaternion();
  private readonly size = new Vector3();
  /** Meshes with face shapes, found when they are first asked for. */
  private faces: readonly FaceMesh[] | undefined;

  private constructor(
    readonly group: Object3D,
    private readonly joints: readonly (Object3D | undefined)[],
    readonly scales: Float64Array,
    /** The skin that each joint moves most, in its own frame; undefined where it moves none. */
    readonly boxes: readonly (Box3 | undefined)[],
  ) {}

  /** Loads the mesh from a GLB file's content. */
  static async load(bytes: ArrayBuffer, mesh: NonNullable<DisplayBody['mesh']>): Promise<MeshFigure> {
    const gltf = await makeLoader().parseAsync(bytes, '');
    const joints = await Promise.all(
      Array.from(mesh.nodes, async (node) => (await gltf.parser.getDependency('node', node)) as Object3D | undefined),
    );
    for (const joint of joints) {
      if (!joint) continue;
      joint.matrixAutoUpdate = false;
      joint.matrixWorldAutoUpdate = false;
    }
    gltf.scene.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      object.frustumCulled = false;
      // Light that costs little: the stage is drawn in software on many machines.
      const material = object.material as Material | Material[];
      object.material = Array.isArray(material) ? material.map(plain) : plain(material);
    });
    return new MeshFigure(gltf.scene, joints, mesh.scales, boxesOf(gltf.scene, joints));
  }

  pose({ positions, rotations, sizes }: Pose): void {
    this.joints.forEach((joint, j) => {
      if (!joint) return;
      this.position.fromArray(positions, j * 3);
      this.turn.fromArray(rotations, j * 4);
      this.size.setScalar(this.scales[j]);
      if (sizes) this.size.set(this.size.x * sizes[j * 3], this.size.y * sizes[j * 3 + 1], this.size.z * sizes[j * 3 + 2]);
      joint.matrixWorld.compose(this.position, this.turn, this.size);
    });
  }

  /** Moves the face's shapes as they are at a second of the clip; those without a weight rest. */
  shapes(face: FaceWeights | undefined, seconds: number): void {
    this.faces ??= facesOf(this.group);
    if (this.faces.length === 0) return;
    // All at once: a frame looks its moment up one time.
    const now = face && weightsAt(face, seconds);
    for (const { mesh, names, rest } of this.faces) {
      const weights = mesh.morphTargetInfluences!;
      for (let i = 0; i < names.length; i++) {
        const shape = face?.shapes.indexOf(names[i]) ?? -1;
        weights[i] = now && shape >= 0 ? now[shape] : rest[i];
      }
    }
  }

  /** Lets joints be seen through the skin. */
  veil(isThin: boolean): void {
    this.group.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      for (const material of [object.material].flat() as MeshLambertMaterial[]) {
        const solid = (material.userData['solid'] ??= { opacity: material.opacity, transparent: material.transparent }) as Solid;
        material.opacity = isThin ? solid.opacity * THIN : solid.opacity;
        material.transparent = isThin || solid.transparent;
        material.depthWrite = !isThin;
        material.needsUpdate = true;
      }
    });
  }

  dispose(): void {
    this.group.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      object.geometry.dispose();
      for (const material of [object.material].flat() as Material[]) material.dispose();
      if (object instanceof SkinnedMesh) object.skeleton.dispose();
    });
    this.group.removeFromParent();
  }
}

/** A mesh that has face shapes, and their weights at rest. */
interface FaceMesh {
  readonly mesh: Mesh;
  readonly names: readonly string[];
  readonly rest: readonly number[];
}

function facesOf(group: Object3D): FaceMesh[] {
  const found: FaceMesh[] = [];
  group.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    const weights = object.morphTargetInfluences;
    if (!weights || weights.length === 0) return;
    const names: string[] = [];
    for (const [name, i] of Object.entries(object.morphTargetDictionary ?? {})) names[i] = name;
    found.push({ mesh: object, names: weights.map((_, i) => names[i] ?? ''), rest: [...weights] });
  });
  return found;
}

/** Boxes around the skin that each joint moves most, in the joint's own frame. */
function boxesOf(scene: Object3D, joints: readonly (Object3D | undefined)[]): (Box3 | undefined)[] {
  const places = new Map(joints.map((joint, j) => [joint, j]));
  const boxes: (Box3 | undefined)[] = joints.map(() => undefined);
  const at = new Vector3();
  scene.traverse((object) => {
    if (!(object instanceof SkinnedMesh)) return;
    const { geometry, skeleton, bindMatrix } = object;
    const [point, index, weight] = ['position', 'skinIndex', 'skinWeight'].map((name) => geometry.getAttribute(name));
    if (!index || !weight) return;
    for (let i = 0; i < point.count; i++) {
      let best = 0;
      for (let k = 1; k < 4; k++) if (weight.getComponent(i, k) > weight.getComponent(i, best)) best = k;
      const bone = index.getComponent(i, best);
      const j = places.get(skeleton.bones[bone]);
      if (j === undefined) continue;
      at.fromBufferAttribute(point, i).applyMatrix4(bindMatrix).applyMatrix4(skeleton.boneInverses[bone]);
      (boxes[j] ??= new Box3()).expandByPoint(at);
    }
  });
  return boxes;
}

function plain(material: Material): Material {
  const from = material as MeshStandardMaterial;
  const out = new MeshLambertMaterial({
    color: from.color ?? new Color('#999'),
    map: from.map ?? null,
    transparent: from.transparent,
    opacity: from.opacity,
    side: from.side,
    vertexColors: from.vertexColors,
    alphaTest: from.alphaTest,
  });
  material.dispose();
  return out;
}
