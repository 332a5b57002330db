/** GLB files packed as other programs pack them: the packing is written by hand, from the encoders of the two formats. */
import { type Document, WebIO } from '@gltf-transform/core';
import { KHRDracoMeshCompression } from '@gltf-transform/extensions';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { readContainer, writeContainer } from '../formats';

interface Gltf {
  buffers: { byteLength: number; extensions?: object }[];
  bufferViews: { buffer: number; byteOffset?: number; byteLength: number; byteStride?: number; extensions?: object }[];
  accessors: { bufferView: number; byteOffset?: number; count: number; type: string; componentType: number }[];
  meshes: { primitives: { indices?: number }[] }[];
  extensionsUsed?: string[];
  extensionsRequired?: string[];
}

const SIZE: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT4: 16 };
const BYTES: Readonly<Record<number, number>> = { 5121: 1, 5123: 2, 5125: 4, 5126: 4 };

/**
 * Packs each accessor of a file by meshopt: its plain data is gone, and the views point to a second buffer that is not there.
 * @param name of the extension: EXT_ or KHR_meshopt_compression
 */
export async function packMeshopt(bytes: Uint8Array, name = 'EXT_meshopt_compression'): Promise<Uint8Array<ArrayBuffer>> {
  await MeshoptEncoder.ready;
  const { json, bin } = readContainer(bytes);
  const gltf = JSON.parse(JSON.stringify(json)) as Gltf;
  const triangles = new Set(gltf.meshes.flatMap(({ primitives }) => primitives.flatMap(({ indices }) => indices ?? [])));
  const blocks: Uint8Array[] = [];
  const views: Gltf['bufferViews'] = [];
  let [length, plain] = [0, 0];
  gltf.accessors = gltf.accessors.map((accessor, i) => {
    const view = gltf.bufferViews[accessor.bufferView];
    const element = SIZE[accessor.type] * BYTES[accessor.componentType];
    const isTriangles = triangles.has(i);
    // Vertices are packed by strides of four bytes.
    const stride = isTriangles ? element : (element + 3) & ~3;
    const data = new Uint8Array(accessor.count * stride);
    const from = (view.byteOffset ?? 0) + (accessor.byteOffset ?? 0);
    for (let k = 0; k < accessor.count; k++) {
      const at = from + k * (view.byteStride ?? element);
      data.set(bin!.subarray(at, at + element), k * stride);
    }
    const mode = isTriangles ? 'TRIANGLES' : 'ATTRIBUTES';
    const packed = MeshoptEncoder.encodeGltfBuffer(data, accessor.count, stride, mode);
    const extension = { buffer: 0, byteOffset: length, byteLength: packed.length, byteStride: stride, count: accessor.count, mode };
    blocks.push(packed, new Uint8Array((4 - (packed.length % 4)) % 4));
    length += (packed.length + 3) & ~3;
    const made = views.push({
      buffer: 1,
      byteOffset: plain,
      byteLength: data.length,
      ...(!isTriangles && stride !== element && { byteStride: stride }),
      extensions: { [name]: extension },
    });
    plain += (data.length + 3) & ~3;
    return { ...accessor, bufferView: made - 1, byteOffset: 0 };
  });
  const out = new Uint8Array(length);
  let at = 0;
  for (const block of blocks) {
    out.set(block, at);
    at += block.length;
  }
  gltf.bufferViews = views;
  gltf.buffers = [{ byteLength: length }, { byteLength: plain, extensions: { [name]: { fallback: true } } }];
  gltf.extensionsUsed = gltf.extensionsRequired = [name];
  return writeContainer(gltf, out);
}

/** Packs the meshes of a file by Draco. @param encoder the module that its packages make */
export async function packDraco(bytes: Uint8Array, encoder: unknown): Promise<Uint8Array<ArrayBuffer>> {
  const io = new WebIO().registerExtensions([KHRDracoMeshCompression]).registerDependencies({ 'draco3d.encoder': encoder });
  const document: Document = await io.readBinary(bytes);
  document
    .createExtension(KHRDracoMeshCompression)
    .setRequired(true)
    .setEncoderOptions({ method: KHRDracoMeshCompression.EncoderMethod.EDGEBREAKER, quantizationBits: { POSITION: 16 } });
  return (await io.writeBinary(document)) as Uint8Array<ArrayBuffer>;
}
