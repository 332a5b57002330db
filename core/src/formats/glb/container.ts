import { fail } from '../../errors';

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

/** The two chunks of a GLB file (glTF 2.0 specification, section 4.4). */
export interface GlbContainer {
  readonly json: unknown;
  readonly bin: Uint8Array | undefined;
}

/** True when the bytes begin as a GLB file does. */
export function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
}

/**
 * Splits a GLB file into its chunks.
 * @throws FaultError glb/container, glb/json
 */
export function readContainer(bytes: Uint8Array): GlbContainer {
  if (bytes.length < 20) fail('glb/container', 'the file is too short to be a GLB file; copy it again');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(0, true) !== MAGIC) fail('file/unknown-format', 'this is not a GLB file');
  const version = view.getUint32(4, true);
  if (version !== 2) fail('glb/container', `GLB version ${version} is not read; export as glTF 2.0`);
  const total = view.getUint32(8, true);
  if (total > bytes.length) {
    fail('glb/container', `the file says ${total} bytes and holds ${bytes.length}: it was cut short. Copy it again`);
  }
  let json: unknown;
  let bin: Uint8Array | undefined;
  for (let at = 12, index = 0; at + 8 <= total; index++) {
    const length = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    if (at + 8 + length > total) {
      fail('glb/container', `chunk ${index + 1} says ${length} bytes and runs past the end of the file`);
    }
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (index === 0) {
      if (type !== JSON_CHUNK) fail('glb/container', 'the first chunk is not JSON');
      try {
        json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(chunk));
      } catch {
        fail('glb/json', 'the JSON chunk cannot be read: it is not valid JSON');
      }
    } else if (type === BIN_CHUNK && bin === undefined) bin = chunk;
    at += 8 + length;
  }
  if (json === undefined) fail('glb/container', 'the file has no JSON chunk');
  return { json, bin };
}

/** Joins a JSON object and a binary chunk to a GLB file. */
export function writeContainer(json: unknown, bin: Uint8Array): Uint8Array<ArrayBuffer> {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const textLength = (text.length + 3) & ~3;
  const binLength = (bin.length + 3) & ~3;
  const out = new Uint8Array(12 + 8 + textLength + 8 + binLength);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, out.length, true);
  view.setUint32(12, textLength, true);
  view.setUint32(16, JSON_CHUNK, true);
  out.fill(0x20, 20, 20 + textLength);
  out.set(text, 20);
  view.setUint32(20 + textLength, binLength, true);
  view.setUint32(24 + textLength, BIN_CHUNK, true);
  out.set(bin, 28 + textLength);
  return out;
}
