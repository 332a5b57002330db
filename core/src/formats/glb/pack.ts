import { asFaultError, fail } from '../../errors';
import { writeContainer } from './container';
import { isFallback, MESHOPT } from './meshopt';

/** The parts of a glTF document that packing touches; all else is passed through. */
interface Document {
  asset?: { version?: unknown };
  buffers?: { uri?: unknown; byteLength?: unknown; extensions?: unknown; [key: string]: unknown }[];
  bufferViews?: { extensions?: unknown; buffer?: unknown; byteOffset?: unknown; byteLength?: unknown; [key: string]: unknown }[];
  images?: { uri?: unknown; bufferView?: number; mimeType?: string; [key: string]: unknown }[];
  [key: string]: unknown;
}

/** Limit on a document with its parts: as much as one file. */
const MOST_BYTES = 256 * 2 ** 20;

/** True for text that begins as a glTF document does. */
export function looksLikeGltf(head: string): boolean {
  return /^\uFEFF?\s*\{/.test(head);
}

/** The files beside a glTF document that it refers to by name, data addresses apart. */
export function partsOfGltf(bytes: Uint8Array, name: string): string[] {
  const json = parse(bytes, name);
  return [...(json.buffers ?? []), ...(json.images ?? [])]
    .map(({ uri }) => uri)
    .filter((uri): uri is string => typeof uri === 'string' && !uri.startsWith('data:'))
    .map(partName);
}

/**
 * Packs a glTF document and its parts into one GLB file: every buffer and picture goes into the binary chunk.
 * @param part content of a part by its path as the document writes it (decoded), undefined when it was not brought along
 * @throws FaultError gltf/parts naming each part that is missing, glb/json
 */
export function packGltf(bytes: Uint8Array, name: string, part: (path: string) => Uint8Array | undefined): Uint8Array<ArrayBuffer> {
  try {
    const json = parse(bytes, name);
    const missing: string[] = [];
    // A part named many times is read once and stands once in the packed file.
    const known = new Map<string, Uint8Array>();
    const content = (uri: unknown): Uint8Array => {
      if (typeof uri !== 'string') return new Uint8Array(0);
      const before = known.get(uri);
      if (before) return before;
      const found = uri.startsWith('data:') ? decodeData(uri) : part(partName(uri));
      if (!found) missing.push(partName(uri));
      const block = found ?? new Uint8Array(0);
      known.set(uri, block);
      return block;
    };
    // A buffer that stands in for packed data need not be there.
    const standIns = (json.buffers ?? []).flatMap(({ uri, extensions }, i) => (uri === undefined && isFallback(extensions) ? [i] : []));
    const buffers = (json.buffers ?? []).map(({ uri }) => content(uri));
    const pictures = (json.images ?? []).map(({ uri }) => (uri === undefined ? undefined : content(uri)));
    if (missing.length > 0) {
      fail('gltf/parts', `the document's parts are missing: ${missing.join(', ')}. Bring them in together with it, or as a folder or zip`);
    }
    const starts = new Map<Uint8Array, number>();
    let size = 0;
    for (const block of [...buffers, ...pictures.filter((p) => p !== undefined)]) {
      if (starts.has(block)) continue;
      starts.set(block, size);
      size += (block.length + 3) & ~3;
    }
    if (size > MOST_BYTES) {
      fail(
        'file/too-large',
        `the document's parts are ${(size / 2 ** 20).toFixed(0)} MB together; at most ${MOST_BYTES / 2 ** 20} MB are read`,
      );
    }
    const bin = new Uint8Array(size);
    for (const [block, start] of starts) bin.set(block, start);
    const views = (json.bufferViews ?? []).map((view) => {
      const buffer = typeof view.buffer === 'number' ? view.buffer : -1;
      if (!(buffer in buffers)) fail('glb/reference', `a buffer view points to buffer ${String(view.buffer)}, and there is none`);
      const offset = typeof view.byteOffset === 'number' ? view.byteOffset : 0;
      const unpacked = moved(view, (index) => starts.get(buffers[index]));
      if (standIns.includes(buffer)) return { ...unpacked, buffer: 1 + standIns.indexOf(buffer) };
      if (offset + Number(view.byteLength) > buffers[buffer].length) {
        fail('glb/reference', `a buffer view runs past the end of buffer ${buffer}: a part may be another file's`);
      }
      return { ...unpacked, buffer: 0, byteOffset: starts.get(buffers[buffer])! + offset };
    });
    const images = json.images?.map((image, i) => {
      const block = pictures[i];
      if (!block) return image;
      const { uri, ...rest } = image;
      const view = views.push({ buffer: 0, byteOffset: starts.get(block)!, byteLength: block.length }) - 1;
      return { ...rest, bufferView: view, mimeType: image.mimeType ?? pictureType(uri, block) };
    });
    const packed: Document = { ...json };
    if (json.buffers) packed.buffers = [{ byteLength: size }, ...standIns.map((i) => json.buffers![i])];
    if (views.length > 0) packed.bufferViews = views;
    if (images) packed.images = images;
    return writeContainer(packed, bin);
  } catch (error) {
    throw asFaultError(error, name);
  }
}

/** A buffer view whose packed data, where it has any, is pointed to in the one chunk. @param start of a buffer in it */
function moved<V extends { extensions?: unknown }>(view: V, start: (buffer: number) => number | undefined): V {
  const extensions = view.extensions as Record<string, { buffer?: unknown; byteOffset?: unknown }> | undefined;
  if (!extensions) return view;
  const entries = Object.entries(extensions).map(([name, packed]) => {
    if (!MESHOPT.some((known) => known === name)) return [name, packed] as const;
    const at = start(Number(packed.buffer));
    if (at === undefined) fail('glb/reference', `a packed buffer view points to buffer ${String(packed.buffer)}, and there is none`);
    return [name, { ...packed, buffer: 0, byteOffset: at + (typeof packed.byteOffset === 'number' ? packed.byteOffset : 0) }] as const;
  });
  return { ...view, extensions: Object.fromEntries(entries) };
}

function parse(bytes: Uint8Array, name: string): Document {
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes).replace(/^\uFEFF/, ''));
  } catch (error) {
    fail('file/unknown-format', `this is not a glTF document: ${(error as Error).message}`, { file: name });
  }
  const document = json as Document;
  const lists = [document?.buffers, document?.bufferViews, document?.images];
  if (typeof json !== 'object' || json === null || typeof document.asset !== 'object') {
    fail('file/unknown-format', 'this JSON file is not a glTF document: it has no "asset"', { file: name });
  }
  if (
    !lists.every((list) => list === undefined || (Array.isArray(list) && list.every((item) => typeof item === 'object' && item !== null)))
  ) {
    fail('glb/json', 'buffers, bufferViews and images must be lists of objects', { file: name });
  }
  return document;
}

/** "textures/My%20Coat.png" as the path that a file has. */
function partName(uri: string): string {
  try {
    return decodeURIComponent(uri).replace(/^\.\//, '');
  } catch {
    return uri;
  }
}

function decodeData(uri: string): Uint8Array {
  const comma = uri.indexOf(',');
  if (comma < 0 || !/;base64$/i.test(uri.slice(0, comma))) fail('gltf/parts', 'a data address is not in base64');
  let text: string;
  try {
    text = atob(uri.slice(comma + 1));
  } catch {
    return fail('gltf/parts', 'a data address is not in base64');
  }
  const out = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) out[i] = text.charCodeAt(i);
  return out;
}

function pictureType(uri: unknown, block: Uint8Array): string {
  if (block[0] === 0x89 && block[1] === 0x50) return 'image/png';
  const said = typeof uri === 'string' ? /^data:([a-z/+.-]+)/.exec(uri)?.[1] : undefined;
  return said ?? 'image/jpeg';
}
