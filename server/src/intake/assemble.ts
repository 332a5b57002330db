import { asFault, joinAcclaim, packGltf, partsOfGltf, type Fault } from '@hollow-stride/core';
import type { Entry } from './archive';

/** A file as it is read: one in one piece, or one put together from its parts. */
export interface Assembled {
  readonly name: string;
  readonly bytes: Uint8Array;
}

export interface Assembly {
  readonly files: readonly Assembled[];
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
 * Puts together what belongs together among files that came at once: a glTF document with its parts, Acclaim motion with its
 * skeleton. Each motion of one skeleton becomes a file of its own.
 * @param strict false for folders and archives, whose other files are passed over and not called wrong
 */
export function assemble(entries: readonly Entry[], strict: boolean): Assembly {
  const files: Assembled[] = [];
  const faults: { name: string; fault: Fault }[] = [];
  const used = new Set<Entry>();
  const attempt = (name: string, make: () => Uint8Array): void => {
    try {
      files.push({ name, bytes: make() });
    } catch (error) {
      faults.push({ name, fault: asFault(error, name) });
    }
  };
  const byPath = new Map(entries.map((entry) => [entry.path.toLowerCase(), entry]));
  const find = (path: string, from: Entry): Entry | undefined => {
    const lower = path.toLowerCase();
    // Beside the document first; else anywhere, as files picked one by one come without their folders.
    return (
      byPath.get(folderOf(from.path).toLowerCase() + lower) ?? entries.find((entry) => baseOf(entry.path).toLowerCase() === baseOf(lower))
    );
  };
  for (const entry of entries.filter(({ path }) => /\.gltf$/i.test(path))) {
    used.add(entry);
    const name = baseOf(entry.path);
    attempt(name, () => {
      for (const part of partsOfGltf(entry.bytes, name)) {
        const found = find(part, entry);
        if (found) used.add(found);
      }
      return packGltf(entry.bytes, name, (part) => find(part, entry)?.bytes);
    });
  }
  const skeletons = entries.filter(({ path }) => /\.asf$/i.test(path));
  const moved = new Set<Entry>();
  for (const entry of entries.filter(({ path }) => /\.amc$/i.test(path))) {
    used.add(entry);
    const skeleton = skeletonFor(entry, skeletons);
    if (skeleton) moved.add(skeleton);
    // Alone it is refused by the reader, which says what is missing.
    attempt(baseOf(entry.path), () => (skeleton ? joinAcclaim(skeleton.bytes, entry.bytes) : entry.bytes));
  }
  for (const entry of moved) used.add(entry);
  const ignored: string[] = [];
  for (const entry of entries) {
    if (used.has(entry)) continue;
    if (strict || MOTION.test(entry.path)) files.push({ name: baseOf(entry.path), bytes: entry.bytes });
    else ignored.push(entry.path);
  }
  return { files, faults, ignored };
}

/** The skeleton of a motion: the one whose name the motion's begins with, nearest first; else the only one there is. */
function skeletonFor(motion: Entry, skeletons: readonly Entry[]): Entry | undefined {
  const near = skeletons.filter(({ path }) => folderOf(path) === folderOf(motion.path));
  for (const list of [near, skeletons]) {
    const named = list.filter(({ path }) => stemOf(motion.path).startsWith(stemOf(path)));
    if (named.length > 0) return named.reduce((best, entry) => (stemOf(entry.path).length > stemOf(best.path).length ? entry : best));
    if (list.length === 1) return list[0];
  }
  return undefined;
}
