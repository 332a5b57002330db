import { type Accessor, Document, WebIO, type Material } from '@gltf-transform/core';
import { vec, cross, normalize, sub } from '../../math/vec';
import type { ObjPiece } from './piece';

/** What a material of unknown colour looks like: plain plaster. */
const PLASTER: [number, number, number, number] = [0.72, 0.68, 0.62, 1];

/** Writes the pieces of an OBJ file as a GLB file: one mesh, a primitive for each piece. */
export function writeObjGlb(pieces: readonly ObjPiece[]): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const materials = new Map<string, Material>();
  const accessor = (type: 'VEC2' | 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>): Accessor =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const scene = document.createScene();
  for (const piece of pieces) {
    const count = piece.positions.length / 3;
    let material = materials.get(piece.material);
    if (!material) {
      material = document.createMaterial(piece.material).setBaseColorFactor(PLASTER).setRoughnessFactor(0.9).setMetallicFactor(0);
      materials.set(piece.material, material);
    }
    const positions = Float32Array.from(piece.positions);
    const normals = piece.normals.length === count * 3 ? Float32Array.from(piece.normals) : normalsOf(positions, piece.triangles);
    for (let i = 0; i < count; i++) if (!(normalize(normals, i * 3) > 1e-12)) normals[i * 3 + 1] = 1;
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', positions))
      .setAttribute('NORMAL', accessor('VEC3', normals))
      .setIndices(accessor('SCALAR', Uint32Array.from(piece.triangles)))
      .setMaterial(material);
    if (piece.coordinates.length === count * 2)
      primitive.setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(piece.coordinates)));
    scene.addChild(document.createNode(piece.name).setMesh(document.createMesh(piece.name).addPrimitive(primitive)));
  }
  document.getRoot().setDefaultScene(scene);
  return new WebIO().writeBinary(document);
}

/** Normals of points from the triangles about them, each by its area. */
function normalsOf(positions: Float32Array<ArrayBuffer>, triangles: readonly number[]): Float32Array<ArrayBuffer> {
  const out = new Float32Array(positions.length);
  const [a, b, n] = [vec(), vec(), vec()];
  for (let i = 0; i < triangles.length; i += 3) {
    sub(a, 0, positions, triangles[i + 1] * 3, positions, triangles[i] * 3);
    sub(b, 0, positions, triangles[i + 2] * 3, positions, triangles[i] * 3);
    cross(n, 0, a, 0, b, 0);
    for (let k = 0; k < 3; k++) for (let c = 0; c < 3; c++) out[triangles[i + k] * 3 + c] += n[c];
  }
  return out;
}
