import { length } from '../math/vec';
import { fail } from '../errors';
import { shortened, wellFormed } from '../text';

/** More joints than any body has; a file with more is refused before memory is taken. */
export const MAX_JOINTS = 4096;
/** Longest name of a joint, UTF-16 units. */
const MAX_NAME = 200;

/**
 * A skeleton as flat arrays, parents before children. Lengths are in metres once a file has been
 * brought to the common basis (Y up, right-handed), before that in the file's own unit.
 */
export interface Skeleton {
  readonly names: readonly string[];
  /** Index of each joint's parent, −1 for a root; always smaller than the joint's own index. */
  readonly parents: Int32Array;
  /** Local rest translations, 3 per joint. */
  readonly restT: Float64Array;
  /** Local rest rotations, unit quaternions, 4 per joint. */
  readonly restR: Float64Array;
  /** Where a leaf's bone ends, in the joint's own frame, 3 per joint; NaN where unknown. */
  readonly tips: Float64Array;
}

/** The number of joints. */
export function jointCount(skeleton: Skeleton): number {
  return skeleton.parents.length;
}

/**
 * A skeleton from plain lists, checked; names are made well-formed.
 * @throws FaultError skeleton/none, skeleton/limit, skeleton/loop, skeleton/names
 */
export function makeSkeleton(joints: {
  names: readonly string[];
  parents: ArrayLike<number>;
  restT: ArrayLike<number>;
  restR?: ArrayLike<number>;
  tips?: ArrayLike<number>;
}): Skeleton {
  const count = joints.names.length;
  if (count === 0) fail('skeleton/none', 'there are no joints');
  if (count > MAX_JOINTS) {
    fail('skeleton/limit', `${count} joints; at most ${MAX_JOINTS} are read. Export the body without helper joints.`);
  }
  const names = joints.names.map((name) => wellFormed(name));
  const long = names.find((name) => name.length > MAX_NAME);
  if (long !== undefined) {
    fail('skeleton/names', `the joint's name has ${long.length} letters; at most ${MAX_NAME} are read. Give it a shorter one`, {
      joint: `${shortened(long, 40)}…`,
    });
  }
  const parents = Int32Array.from(joints.parents);
  parents.forEach((parent, joint) => {
    if (parent >= joint || parent < -1) {
      fail('skeleton/loop', 'a joint must come after its parent', { joint: names[joint] });
    }
  });
  const restR = new Float64Array(count * 4);
  for (let j = 0; j < count; j++) restR[j * 4 + 3] = 1;
  if (joints.restR) restR.set(joints.restR);
  const tips = new Float64Array(count * 3).fill(NaN);
  if (joints.tips) tips.set(joints.tips);
  return { names, parents, restT: Float64Array.from(joints.restT), restR, tips };
}

/** Children of each joint, in file order. */
export function childrenOf(skeleton: Skeleton): number[][] {
  const children: number[][] = skeleton.names.map(() => []);
  skeleton.parents.forEach((parent, joint) => {
    if (parent >= 0) children[parent].push(joint);
  });
  return children;
}

/** True when `joint` is `ancestor` or hangs below it. */
export function isBelow(skeleton: Skeleton, joint: number, ancestor: number): boolean {
  for (let j = joint; j >= 0; j = skeleton.parents[j]) if (j === ancestor) return true;
  return false;
}

/** The joints from `ancestor` down to `joint`, both included; empty when not connected that way. */
export function pathDown(skeleton: Skeleton, ancestor: number, joint: number): number[] {
  const path: number[] = [];
  for (let j = joint; j >= 0; j = skeleton.parents[j]) {
    path.push(j);
    if (j === ancestor) return path.reverse();
  }
  return [];
}

/** Length of each joint's rest translation. */
export function boneLengths(skeleton: Skeleton): Float64Array {
  const { restT } = skeleton;
  return Float64Array.from(skeleton.parents, (parent, j) => (parent < 0 ? 0 : length(restT, j * 3)));
}

/**
 * The part of the names that nearly all joints begin with (a namespace or character name), '' when there is none.
 * Only prefixes that end in a separator, or that every joint carries and that leave a capital letter, count.
 */
export function commonPrefix(names: readonly string[]): string {
  if (names.length < 3) return '';
  const counts = new Map<string, number>();
  for (const name of names) {
    for (let i = 0; i < Math.min(name.length - 1, 64); i++) {
      if (':|_.- /'.includes(name[i])) {
        const prefix = name.slice(0, i + 1);
        counts.set(prefix, (counts.get(prefix) ?? 0) + 1);
      }
    }
  }
  let best = '';
  for (const [prefix, count] of counts) {
    if (count >= names.length * 0.8 && prefix.length > best.length) best = prefix;
  }
  if (best !== '') return best;
  let shared = names[0];
  for (const name of names) {
    let i = 0;
    while (i < shared.length && i < name.length && shared[i] === name[i]) i++;
    shared = shared.slice(0, i);
  }
  return shared.length >= 3 && names.every((name) => /^[A-Z]/.test(name.slice(shared.length))) ? shared : '';
}

/** A joint's name without the skeleton's prefix and without a namespace (up to the last `:` or `|`). */
export function bareName(name: string, prefix: string): string {
  const rest = prefix !== '' && name.startsWith(prefix) ? name.slice(prefix.length) : name;
  const bare = rest.slice(Math.max(rest.lastIndexOf(':'), rest.lastIndexOf('|')) + 1);
  return bare === '' ? name : bare;
}

/** The names of all joints without prefix: what two files of the same skeleton have in common. */
export function bareNames({ names }: Skeleton): string[] {
  const prefix = commonPrefix(names);
  return names.map((name) => bareName(name, prefix));
}

/**
 * A key for each joint by which labels and poses are kept: its name without prefix, and where several joints have that name,
 * `name#2`, `name#3` in the order in which the file lists them. No two joints have the same key.
 */
export function jointKeys(skeleton: Skeleton): string[] {
  const names = bareNames(skeleton);
  const taken = new Set(names);
  const seen = new Map<string, number>();
  return names.map((name) => {
    let count = (seen.get(name) ?? 0) + 1;
    seen.set(name, count);
    if (count === 1) return name;
    while (taken.has(`${name}#${count}`)) count++;
    const key = `${name}#${count}`;
    taken.add(key);
    return key;
  });
}

/** The nearest joint at or above all of these; −1 when they hang on different roots. */
export function lowestAbove(skeleton: Skeleton, joints: Iterable<number>): number {
  let above = -1;
  let first = true;
  for (const joint of joints) {
    if (first) above = joint;
    first = false;
    while (above >= 0 && !isBelow(skeleton, joint, above)) above = skeleton.parents[above];
    if (above < 0) return -1;
  }
  return above;
}
