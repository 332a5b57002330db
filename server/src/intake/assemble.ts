import { asFault, FaultError, joinAcclaim, packGltf, partsOfGltf, type Fault } from '@hollow-stride/core';

/** A file among those that came together. */
export interface Part {
  /** Path inside the archive or folder, `/` between its parts. */
  readonly path: string;
  readonly bytes: number;
}

/** A file as it is to be read: one that came whole, or one to be put together from its parts. */
export type Assembled<P extends Part> =
  { readonly name: string; readonly whole: P } | { readonly name: string; readonly bytes: number; readonly make: () => Uint8Array };

export interface Assembly<P extends Part> {
  readonly files: readonly Assembled<P>[];
  readonly faults: readonly { readonly name: string; readonly fault: Fault }[];
  /** Files that are no takes and no characters and belong to none. */
  readonly ignored: readonly string[];
}

const MOTION = /\.(bvh|glb|vrm|gltf|asf|amc)$/i;

const folderOf = (path: string): string => path.slice(0, path.lastIndexOf('/') + 1);
const baseOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
const stemOf = (path: string): string =>
  baseOf(path)
    .replace(/\.[^.]*$/, '')
    .toLowerCase();

/**
 * Finds what belongs together among files that came at once: a glTF document with its parts, Acclaim motion with its skeleton.
 * Each motion of one skeleton becomes a file of its own. Nothing is put together yet: that is done one file after the other, so
 * that parts which many share are not held many times.
 * @param strict false for folders and archives, whose other files are passed over and not called wrong
 * @param read the content of a part
 * @param most what may come out in all, bytes
 */
export function assemble<P extends Part>(
  parts: readonly P[],
  strict: boolean,
  read: (part: P) => Uint8Array,
  most = Infinity,
): Assembly<P> {
  const files: Assembled<P>[] = [];
  const faults: { name: string; fault: Fault }[] = [];
  const used = new Set<P>();
  let total = 0;
  const add = (name: string, bytes: number, make: () => Uint8Array): void => {
    total += bytes;
    if (total <= most) files.push({ name, bytes, make });
    else {
      const message = `put together the files would take more than ${most / 2 ** 20} MB; bring in fewer of them at once`;
      faults.push({ name, fault: { code: 'file/too-large', message, where: { file: name } } });
    }
  };
  const byPath = new Map(parts.map((part) => [part.path.toLowerCase(), part]));
  const byName = new Map<string, P>();
  for (const part of parts) if (!byName.has(baseOf(part.path).toLowerCase())) byName.set(baseOf(part.path).toLowerCase(), part);
  // Beside the document first; else anywhere, as files picked one by one come without their folders.
  const find = (path: string, from: P): P | undefined =>
    byPath.get((folderOf(from.path) + path).toLowerCase()) ?? byName.get(baseOf(path).toLowerCase());
  for (const part of parts.filter(({ path }) => /\.gltf$/i.test(path))) {
    used.add(part);
    const name = baseOf(part.path);
    try {
      const own = new Set(partsOfGltf(read(part), name).flatMap((uri) => find(uri, part) ?? []));
      own.forEach((each) => used.add(each));
      const bytes = [...own].reduce((sum, each) => sum + each.bytes, part.bytes);
      add(name, bytes, () =>
        packGltf(read(part), name, (uri) => {
          const found = find(uri, part);
          return found && read(found);
        }),
      );
    } catch (error) {
      faults.push({ name, fault: asFault(error, name) });
    }
  }
  const skeletons = parts.filter(({ path }) => /\.asf$/i.test(path));
  const moved = new Set<P>();
  for (const part of parts.filter(({ path }) => /\.amc$/i.test(path))) {
    used.add(part);
    const skeleton = skeletonFor(part, skeletons);
    const name = baseOf(part.path);
    // Alone it is refused by the reader, which says what is missing.
    if (!skeleton) files.push({ name, whole: part });
    else {
      moved.add(skeleton);
      add(name, skeleton.bytes + part.bytes + 1, () => joinAcclaim(read(skeleton), read(part)));
    }
  }
  for (const part of moved) used.add(part);
  const ignored: string[] = [];
  for (const part of parts) {
    if (used.has(part)) continue;
    if (strict || MOTION.test(part.path)) files.push({ name: baseOf(part.path), whole: part });
    else ignored.push(part.path);
  }
  return { files, faults, ignored };
}

/** Puts one file together. @returns its bytes, or why it cannot be put together */
export function madeOf(name: string, make: () => Uint8Array): Uint8Array | Fault {
  try {
    return make();
  } catch (error) {
    if (error instanceof FaultError || error instanceof RangeError) return asFault(error, name);
    throw error;
  }
}

/** The skeleton of a motion: the one whose name the motion's begins with, nearest first; else the only one there is. */
function skeletonFor<P extends Part>(motion: P, skeletons: readonly P[]): P | undefined {
  const near = skeletons.filter(({ path }) => folderOf(path) === folderOf(motion.path));
  for (const list of [near, skeletons]) {
    const named = list.filter(({ path }) => stemOf(motion.path).startsWith(stemOf(path)));
    if (named.length > 0) return named.reduce((best, part) => (stemOf(part.path).length > stemOf(best.path).length ? part : best));
    if (list.length === 1) return list[0];
  }
  return undefined;
}
