import { asFaultError, fail } from '../errors';
import { shortened, wellFormed } from '../text';
import { clipFromBasis, type Clip } from '../clip';
import type { Basis } from '../skeleton';
import { looksLikeAcclaim, looksLikeAcclaimMotion, readAcclaim } from './acclaim/read';
import { flattenRest } from './bvh/flatten';
import { readBvh } from './bvh/read';
import { bvhParts } from './bvh/write';
import { isGlb } from './glb/container';
import { looksLikeGltf, packGltf } from './glb/pack';
import { readGlb } from './glb/read';
import { readGlbSurface } from './glb/surface';
import { writeGlb } from './glb/write';
import type { MotionFile } from './motionFile';
import { looksLikeObj, readObj } from './obj/read';
import type { Surface } from './surface';
import { joinParts } from './parts';
import { withinLimits } from './within';

export type { FileFormat, MotionFile } from './motionFile';
export { joinAcclaim, readAcclaim } from './acclaim/read';
export { packGltf, partsOfGltf } from './glb/pack';
export { readBvh } from './bvh/read';
export { bvhParts, writeBvh } from './bvh/write';
export { joinParts } from './parts';
export { flattenRest } from './bvh/flatten';
export { readContainer, writeContainer } from './glb/container';
export { readGlb } from './glb/read';
export { writeGlb, type FaceWeights, type KeptFrames, type WrittenWith } from './glb/write';
export { bareGlb } from './glb/bare';
export { useDraco, type LoadDraco } from './glb/draco';
export { joinMotions } from './glb/join';
export type { BvhLayout } from './bvh/layout';
export type { GlbLayout } from './glb/layout';
export * from './face';
export { type Surface, type SurfacePart } from './surface';
export { bindGlb, reweighGlb, type Binding, type PointWeights } from './glb/bind';
export { isWav, MAX_SOUND_BYTES, readWav, writeWav, type Sound } from './sound/wav';
export type { SkinPoints } from './glb/skinPoints';

export { MAX_MOTION_BYTES, MAX_VALUE } from './limits';
const MAX_FILE_NAME = 400;
export const MAX_FILE_BYTES = 256 * 1024 * 1024;
export type OutputFormat = 'bvh' | 'glb';

/**
 * Reads a motion or character file; its content, not its name, says what it is.
 * @param withSkin false leaves the mesh points out, for who wants the motion alone
 * @param frameTime seconds of a frame of a GLB file's motions, where who reads knows them
 * @throws FaultError file/empty, file/unknown-format, file/too-large, and what the readers throw
 */
export async function readMotionFile(bytes: Uint8Array, fileName: string, withSkin = true, frameTime?: number): Promise<MotionFile> {
  const name = shortened(wellFormed(fileName), MAX_FILE_NAME);
  try {
    return withinLimits(await read(bytes, name, withSkin, frameTime));
  } catch (error) {
    throw asFaultError(error, name);
  }
}

/** @throws FaultError file/empty, file/too-large */
function checkSize(bytes: Uint8Array, name: string): void {
  if (bytes.length === 0) fail('file/empty', 'the file is empty', { file: name });
  if (bytes.length > MAX_FILE_BYTES)
    fail('file/too-large', `the file has ${bytes.length} bytes; at most ${MAX_FILE_BYTES} are read`, { file: name });
}

async function read(bytes: Uint8Array, name: string, withSkin: boolean, frameTime?: number): Promise<MotionFile> {
  checkSize(bytes, name);
  if (isGlb(bytes)) return readGlb(bytes, name, withSkin, frameTime);
  const head = new TextDecoder().decode(bytes.subarray(0, 4096));
  if (/^\uFEFF?\s*HIERARCHY/i.test(head) || /\.bvh$/i.test(name)) return readBvh(bytes, name);
  if (looksLikeAcclaim(head)) return readAcclaim(bytes, name);
  if (looksLikeAcclaimMotion(head)) {
    fail('acclaim/parts', 'this is Acclaim motion without its skeleton; bring the .asf file in together with it', { file: name });
  }
  if (looksLikeGltf(head))
    return readGlb(
      packGltf(bytes, name, () => undefined),
      name,
      withSkin,
    );
  return fail('file/unknown-format', 'not a file that is read here: BVH, GLB, glTF, VRM, and Acclaim ASF with AMC are', { file: name });
}

/**
 * Reads the surface of a mesh, whatever skeleton it has or has not: GLB, glTF in one piece, OBJ.
 * @throws FaultError file/empty, file/unknown-format, file/too-large, mesh/none, mesh/limit, obj/syntax, glb/…
 */
export async function readSurface(bytes: Uint8Array, fileName: string): Promise<Surface> {
  const name = shortened(wellFormed(fileName), MAX_FILE_NAME);
  checkSize(bytes, name);
  if (isGlb(bytes)) return readGlbSurface(bytes, name);
  const head = new TextDecoder().decode(bytes.subarray(0, 4096));
  if (looksLikeGltf(head)) {
    return readGlbSurface(
      packGltf(bytes, name, () => undefined),
      name,
    );
  }
  if (looksLikeObj(head) || /\.obj$/i.test(name)) return readObj(bytes, name);
  return fail('file/unknown-format', 'not a mesh that is read here: GLB, glTF and OBJ are', { file: name });
}

/**
 * Writes a clip of ours (metres, Y up) onto the file that its character came from, in that file's unit and axes.
 * A character that came as BVH can be written as BVH only; one that came as GLB as either.
 * @throws FaultError option, clip/not-finite
 */
export function writeMotion(file: MotionFile, basis: Basis, clip: Clip, format: OutputFormat): Uint8Array<ArrayBuffer> {
  return joinParts(motionParts(file, basis, clip, format));
}

/** As `writeMotion`, part by part. */
export function* motionParts(file: MotionFile, basis: Basis, clip: Clip, format: OutputFormat): Generator<Uint8Array<ArrayBuffer>, void> {
  const { layout, skeleton } = file;
  if (format === 'glb') {
    if (layout.format !== 'glb') {
      fail('option', 'a character that came as BVH has no GLB file to add the motion to; write .bvh', { file: file.name });
    }
    yield writeGlb(skeleton, clipFromBasis(skeleton, clip, basis), layout);
    return;
  }
  yield* bvhParts(clip, (part) => {
    const back = clipFromBasis(skeleton, part, basis);
    return layout.format === 'bvh' ? { skeleton, clip: back, layout } : flattenRest(skeleton, back, 'channels');
  });
}
