import { MeshoptDecoder } from 'meshoptimizer/decoder';
import * as v from 'valibot';
import { asFault, fail } from '../../errors';

/** Names under which the same packing of buffer views goes: EXT_meshopt_compression, and its successor with the same fields. */
export const MESHOPT = ['EXT_meshopt_compression', 'KHR_meshopt_compression'] as const;

/** Limit on the packed views of a file once they are unpacked, bytes. */
const MAX_UNPACKED = 320 * 2 ** 20;

const count = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(2 ** 32));
const packedSchema = v.object({
  buffer: v.pipe(v.number(), v.integer(), v.minValue(0)),
  byteOffset: v.optional(count, 0),
  byteLength: count,
  byteStride: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(256)),
  count,
  mode: v.picklist(['ATTRIBUTES', 'TRIANGLES', 'INDICES']),
  filter: v.optional(v.picklist(['NONE', 'OCTAHEDRAL', 'QUATERNION', 'EXPONENTIAL', 'COLOR']), 'NONE'),
});
type PackedView = v.InferOutput<typeof packedSchema>;

interface View {
  readonly buffer: number;
  readonly byteOffset?: number;
  readonly byteLength: number;
  readonly byteStride?: number;
  readonly extensions?: unknown;
}

interface Buffered {
  readonly bufferViews?: readonly View[];
  readonly buffers?: readonly { readonly byteLength: number; readonly extensions?: unknown }[];
}

const extensionOf = (extensions: unknown): unknown =>
  MESHOPT.map((name) => (extensions as Record<string, unknown> | undefined)?.[name]).find((found) => found !== undefined);

/** True for a buffer that stands only for readers without the extension: it need not be there. */
export function isFallback(extensions: unknown): boolean {
  return (extensionOf(extensions) as { fallback?: unknown } | undefined)?.fallback === true;
}

/** How a buffer view is packed; undefined for a plain one. @throws FaultError glb/extension */
function packedView(view: View, index: number): PackedView | undefined {
  const found = extensionOf(view.extensions);
  if (found === undefined) return undefined;
  const result = v.safeParse(packedSchema, found);
  if (!result.success) fail('glb/extension', `buffer view ${index} is packed in a way that is not valid: ${result.issues[0].message}`);
  return result.output;
}

/**
 * Unpacks the buffer views that meshopt has packed: each lies plain behind the others in a new binary chunk. Everything else keeps its
 * place. The file itself is not changed.
 * @returns the document and chunk to be read in the place of those given
 * @throws FaultError glb/extension
 */
export async function unpackMeshopt<G extends Buffered>(gltf: G, bin: Uint8Array): Promise<{ gltf: G; bin: Uint8Array }> {
  const packed = (gltf.bufferViews ?? []).map(packedView);
  if (packed.every((one) => one === undefined)) return { gltf, bin };
  await MeshoptDecoder.ready;
  const start = (bin.length + 3) & ~3;
  let length = start;
  const places = packed.map((one, i) => {
    if (!one) return -1;
    if (one.buffer !== 0 || one.byteOffset + one.byteLength > bin.length) {
      fail('glb/extension', `the packed data of buffer view ${i} runs past the end of the binary chunk`);
    }
    const at = length;
    length += 4 * Math.ceil((one.count * one.byteStride) / 4);
    if (length - start > MAX_UNPACKED) {
      fail('glb/extension', `unpacked, the mesh takes more than ${MAX_UNPACKED / 2 ** 20} MB; bring in a lighter one`);
    }
    return at;
  });
  const out = new Uint8Array(length);
  out.set(bin);
  packed.forEach((one, i) => {
    if (!one) return;
    const { count: many, byteStride, byteOffset, byteLength, mode, filter } = one;
    const target = out.subarray(places[i], places[i] + many * byteStride);
    try {
      MeshoptDecoder.decodeGltfBuffer(target, many, byteStride, bin.subarray(byteOffset, byteOffset + byteLength), mode, filter);
    } catch (error) {
      fail('glb/extension', `the packed data of buffer view ${i} is damaged: ${asFault(error).message}`);
    }
  });
  const bufferViews = (gltf.bufferViews ?? []).map(({ extensions: _, ...view }, i) => {
    const one = packed[i];
    return one ? { ...view, buffer: 0, byteOffset: places[i], byteLength: one.count * one.byteStride } : view;
  });
  return { gltf: { ...gltf, bufferViews, buffers: [{ byteLength: length }] }, bin: out };
}
