import { bareNames, boneLengths, type Skeleton } from './skeleton';

/** Fingerprint of a skeleton, to tell whether two files share it: names without prefix and structure as a key, and bone lengths. */
export interface SkeletonPrint {
  readonly key: string;
  /** In file units, in the order of the sorted names. */
  readonly lengths: readonly number[];
}

/** Bones of the same skeleton agree within this share of the longest. */
const TOLERANCE = 0.01;

/** The print of a skeleton; the order in which a file lists its joints does not matter. */
export function printOf(skeleton: Skeleton): SkeletonPrint {
  const names = bareNames(skeleton);
  const lengths = boneLengths(skeleton);
  const rows = names
    .map((name, j) => ({ row: `${name}<${skeleton.parents[j] < 0 ? '' : names[skeleton.parents[j]]}`, length: lengths[j] }))
    .sort((a, b) => (a.row < b.row ? -1 : a.row > b.row ? 1 : 0));
  return { key: hash(rows.map(({ row }) => row).join('\n')), lengths: rows.map(({ length }) => Number(length.toPrecision(6))) };
}

/** True when two prints are of one skeleton: the same names and structure, lengths within 1 % of the longest bone. */
export function samePrint(a: SkeletonPrint, b: SkeletonPrint): boolean {
  if (a.key !== b.key || a.lengths.length !== b.lengths.length) return false;
  const longest = Math.max(1e-12, ...a.lengths, ...b.lengths);
  return a.lengths.every((length, i) => Math.abs(length - b.lengths[i]) <= TOLERANCE * longest);
}

/** FNV-1a over UTF-16 units, twice with other seeds, as 16 hexadecimal digits: a key, not a seal. */
function hash(text: string): string {
  const run = (seed: number): string => {
    let h = seed;
    for (let i = 0; i < text.length; i++) {
      h ^= text.charCodeAt(i);
      h = Math.imul(h, 0x01000193) >>> 0;
    }
    return h.toString(16).padStart(8, '0');
  };
  return run(0x811c9dc5) + run(0x9747b28c);
}
