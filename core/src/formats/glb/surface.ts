import type { Node, Primitive, Skin } from '@gltf-transform/core';
import { asFaultError, fail } from '../../errors';
import { shortened, wellFormed } from '../../text';
import { multiply } from '../../math/matrix';
import { MAX_VALUE } from '../limits';
import { MAX_SURFACE_POINTS, MAX_SURFACE_TRIANGLES, type Surface, type SurfacePart } from '../surface';
import { readContainer } from './container';
import { readDocument } from './document';
import { checkGltf } from './gltf';

/** Ways in which corners make triangles: three by three, in a strip, in a fan (glTF 2.0 section 3.7.2.1). */
const [TRIANGLES, STRIP, FAN] = [4, 5, 6];

/**
 * Reads the surface of a GLB file: every piece made of triangles, where its node has it; a piece that is bound to a skeleton
 * already, as it was bound.
 * @throws FaultError glb/…, mesh/none, mesh/limit
 */
export async function readGlbSurface(bytes: Uint8Array, name: string): Promise<Surface> {
  try {
    const { json, bin } = readContainer(bytes);
    const gltf = checkGltf(json, bin?.length);
    const root = (await readDocument(gltf, bin, 'all')).getRoot();
    const meshes = root.listMeshes();
    const pieces: { primitive: Primitive; part: SurfacePart; corners: Corners }[] = [];
    let [points, corners] = [0, 0];
    root.listNodes().forEach((node, n) => {
      const mesh = node.getMesh();
      if (!mesh) return;
      const matrix = placedBy(node);
      mesh.listPrimitives().forEach((primitive, k) => {
        const position = primitive.getAttribute('POSITION');
        // The document that is read here has lost its ways of drawing; the file's own has them.
        const way = gltf.meshes?.[meshes.indexOf(mesh)]?.primitives[k]?.mode ?? TRIANGLES;
        if (!position || way < TRIANGLES || way > FAN) return;
        const count = position.getCount();
        const own = cornersOf(primitive.getIndices()?.getCount() ?? count, way);
        const title = shortened(wellFormed(gltf.nodes?.[n].name ?? '').trim(), 80) || `piece ${pieces.length + 1}`;
        const several = mesh.listPrimitives().length > 1 ? ` ${k + 1}` : '';
        const part = { name: `${title}${several}`, node: n, mesh: meshes.indexOf(mesh), primitive: k, matrix, first: points, count };
        pieces.push({ primitive, part, corners: own });
        points += count;
        corners += own.count;
        checkRoom(points, corners / 3);
      });
    });
    if (corners === 0) fail('mesh/none', 'the file has no mesh made of triangles; export the body as a mesh');
    const positions = new Float32Array(points * 3);
    const triangles = new Uint32Array(corners);
    let at = 0;
    for (const { primitive, part, corners: own } of pieces) {
      fillPoints(primitive, part, positions);
      const indices = primitive.getIndices();
      for (let i = 0; i < own.count; i++) {
        const corner = indices ? indices.getScalar(own.at(i)) : own.at(i);
        if (corner >= part.count)
          fail('glb/reference', `a triangle of "${part.name}" names point ${corner}, and there are only ${part.count}`);
        triangles[at++] = part.first + corner;
      }
    }
    return { name, positions, triangles, parts: pieces.map(({ part }) => part), glb: bytes, inMetres: true };
  } catch (error) {
    throw asFaultError(error, name);
  }
}

/** Corners of triangles, three by three, as places in a list of corners that is drawn in some way. */
interface Corners {
  readonly count: number;
  readonly at: (i: number) => number;
}

function cornersOf(used: number, way: number): Corners {
  if (way === TRIANGLES) return { count: used - (used % 3), at: (i) => i };
  const count = Math.max(0, used - 2) * 3;
  if (way === FAN) return { count, at: (i) => (i % 3 === 0 ? 0 : Math.floor(i / 3) + (i % 3)) };
  // Every other triangle of a strip is turned over, so that all face the same way.
  return { count, at: (i) => Math.floor(i / 3) + (way === STRIP && Math.floor(i / 3) % 2 === 1 && i % 3 > 0 ? 3 - (i % 3) : i % 3) };
}

/** @throws FaultError mesh/limit */
export function checkRoom(points: number, triangles: number): void {
  if (points <= MAX_SURFACE_POINTS && triangles <= MAX_SURFACE_TRIANGLES) return;
  fail(
    'mesh/limit',
    `the mesh has more than ${MAX_SURFACE_POINTS.toLocaleString('en')} points or ${MAX_SURFACE_TRIANGLES.toLocaleString('en')} triangles; reduce it first`,
  );
}

function fillPoints(primitive: Primitive, { name, matrix: m, first, count }: SurfacePart, out: Float32Array): void {
  const position = primitive.getAttribute('POSITION')!;
  const p: number[] = [];
  for (let i = 0; i < count; i++) {
    position.getElement(i, p);
    for (let r = 0; r < 3; r++) {
      const value = m[r] * p[0] + m[4 + r] * p[1] + m[8 + r] * p[2] + m[12 + r];
      if (!(Math.abs(value) < MAX_VALUE)) fail('mesh/limit', `point ${i + 1} of "${name}" lies at no place that can be measured`);
      out[(first + i) * 3 + r] = value;
    }
  }
}

/** Where a node's mesh stands: by the node, or, bound to a skeleton, where the joint that is first in its skin has it. */
function placedBy(node: Node): Float64Array {
  const skin = node.getSkin();
  return skin ? boundAs(skin) : Float64Array.from(node.getWorldMatrix());
}

/** A skin's own place: the world matrix of its first joint over that joint's inverse bind matrix. */
function boundAs(skin: Skin): Float64Array {
  const [joint] = skin.listJoints();
  const world = joint.getWorldMatrix();
  const inverse = skin.getInverseBindMatrices();
  if (!inverse) return Float64Array.from(world);
  const m: number[] = [];
  inverse.getElement(0, m);
  return multiply(world, m);
}
