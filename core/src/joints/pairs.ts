/** Which joints of a performer drive which joints of a character, where they are paired one by one. */
import { readNames } from '../label';
import { square } from '../math/numbers';
import { median } from '../math/filter';
import { distance } from '../math/vec';
import { atan2, DEG, PI } from '../math/trig';
import type { ByJoint } from '../recipe';
import { childrenOf, isBelow, jointKeys, type Pose, type Skeleton } from '../skeleton';
import { leastCost } from './assignment';
import { nameLikeness, readByRules, type NameParts } from './names';
import { pairByShape } from './shape';

/** A rig as far as pairing joint by joint looks at it. */
export interface Jointed {
  readonly skeleton: Skeleton;
  /** World rest pose in metres, Y up. */
  readonly restPose: Pose;
}

/** Why two joints are a pair. */
export type PairReason = 'hand' | 'name' | 'order' | 'shape';

/** A joint of the character, and what drives it. */
export interface JointPair {
  readonly target: number;
  /** Joints of the performer with their shares; at least one. */
  readonly sources: readonly { readonly joint: number; readonly weight: number }[];
  readonly why: PairReason;
}

/** Joints of one side that have the same name once prefix, case and separators are gone. */
export interface NameClash {
  readonly of: 'performer' | 'character';
  readonly joints: readonly number[];
}

/** All pairs of two rigs, and what is left over. */
export interface JointMap {
  /** By joint of the character, in its order. */
  readonly pairs: readonly JointPair[];
  readonly leftOver: { readonly performer: readonly number[]; readonly character: readonly number[] };
  readonly clashes: readonly NameClash[];
  /** By rule, the performer's joints that it fits. */
  readonly ruled: readonly (readonly number[])[];
  /** Pairs by hand, carried settings and the branch that name joints which are not here: their keys. */
  readonly unknown: readonly string[];
  /** Radians about the vertical from the performer's axes to the character's. */
  readonly heading: number;
  /** Size of the character over the performer. */
  readonly size: number;
  /** The joints of the character that take part: 1 where they do. */
  readonly taking: Uint8Array;
}

/** Names less alike than this are not paired by their names: half of their letters differ. */
const ALIKE = 0.55;
/** What the same place in the tree is worth beside names that are alike. */
const PLACE = 0.3;
/** Names that are compared all with all; beyond, only the same names and places in the tree are paired. */
const MOST_COMPARED = 400;

/** Pairs two rigs joint by joint: by hand first, then by names, by order, or by the shape of their trees. */
export function pairJoints(performer: Jointed, character: Jointed, settings: ByJoint): JointMap {
  const { skeleton: source } = performer;
  const { skeleton: target } = character;
  const keys = { source: jointKeys(source), target: jointKeys(target) };
  const jointOf = { source: indexOf(keys.source), target: indexOf(keys.target) };
  const { named, rule } = readByRules(keys.source, settings.rules);
  const unknown: string[] = [];
  const root = settings.branch === null ? -1 : (jointOf.target.get(settings.branch) ?? -1);
  if (settings.branch !== null && root < 0) unknown.push(settings.branch);
  const taking = Uint8Array.from(target.parents, (_, j) => (root < 0 || isBelow(target, j, root) ? 1 : 0));

  const pairs = new Map<number, JointPair>();
  const byHand = new Set<number>();
  for (const [key, sources] of Object.entries(settings.pairs)) {
    const joint = jointOf.target.get(key);
    if (joint === undefined) {
      unknown.push(key);
      continue;
    }
    byHand.add(joint);
    const found = sources.flatMap(({ joint: name, weight }) => {
      const at = jointOf.source.get(name);
      if (at === undefined) unknown.push(name);
      return at === undefined ? [] : [{ joint: at, weight }];
    });
    if (found.length > 0 && taking[joint] === 1) pairs.set(joint, { target: joint, sources: found, why: 'hand' });
  }
  for (const key of Object.keys(settings.own)) if (!jointOf.target.has(key)) unknown.push(key);

  // A joint that only adds its share to another one drives its own partner all the same.
  const taken = new Set([...pairs.values()].flatMap(({ sources }) => (sources.length === 1 ? [sources[0].joint] : [])));
  const free = {
    source: source.names.map((_, j) => j).filter((j) => !taken.has(j)),
    target: target.names.map((_, j) => j).filter((j) => !byHand.has(j) && taking[j] === 1),
  };
  const names = { source: readNames(named), target: readNames(keys.target) };
  const put = (s: number, t: number, why: PairReason): void => void pairs.set(t, { target: t, sources: [{ joint: s, weight: 1 }], why });
  const shape = (likeness?: (s: number, t: number) => number): Int32Array =>
    pairByShape(source, performer.restPose.positions, target, character.restPose.positions, likeness);
  if (settings.by === 'order') free.target.forEach((t, i) => i < free.source.length && put(free.source[i], t, 'order'));
  else if (settings.by === 'shape') {
    const found = shape();
    for (const t of free.target) if (found[t] >= 0 && !taken.has(found[t])) put(found[t], t, 'shape');
  } else {
    const likeness = (s: number, t: number): number => nameLikeness(names.source[s], names.target[t]);
    pairByNames(free, names, likeness, shape(likeness), put);
    pairBetween(source, target, shape(likeness), pairs, taking, byHand, put);
  }
  const used = new Set([...pairs.values()].flatMap(({ sources }) => sources.map(({ joint }) => joint)));
  const list = [...pairs.values()].sort((a, b) => a.target - b.target);
  return {
    pairs: list,
    leftOver: {
      performer: source.names.map((_, j) => j).filter((j) => !used.has(j)),
      character: target.names.map((_, j) => j).filter((j) => taking[j] === 1 && !pairs.has(j)),
    },
    clashes: [...clashesIn('performer', names.source), ...clashesIn('character', names.target)],
    ruled: settings.rules.map((_, i) => source.names.map((__, j) => j).filter((j) => rule[j] === i)),
    unknown: [...new Set(unknown)],
    heading: settings.heading === null ? headingBetween(performer, character, list) : settings.heading * DEG,
    size: settings.size ?? sizeBetween(performer, character, list),
    taking,
  };
}

const indexOf = (keys: readonly string[]): Map<string, number> => new Map(keys.map((key, j) => [key, j]));

const canonical = ({ words, side, numbers }: NameParts): string => `${side ?? ''} ${words.join('')} ${numbers.join(' ')}`;

function clashesIn(of: NameClash['of'], names: readonly NameParts[]): NameClash[] {
  const groups = new Map<string, number[]>();
  names.forEach((parts, j) => {
    const key = canonical(parts);
    groups.set(key, [...(groups.get(key) ?? []), j]);
  });
  return [...groups.values()].filter((joints) => joints.length > 1).map((joints) => ({ of, joints }));
}

/** The same names where only one joint has each; then those that are most alike in all, with the place in the tree as a second cost. */
function pairByNames(
  free: { source: number[]; target: number[] },
  names: { source: readonly NameParts[]; target: readonly NameParts[] },
  likeness: (s: number, t: number) => number,
  shape: Int32Array,
  put: (s: number, t: number, why: PairReason) => void,
): void {
  const bySource = groupsOf(free.source, names.source);
  const byTarget = groupsOf(free.target, names.target);
  const [doneS, doneT] = [new Set<number>(), new Set<number>()];
  for (const [key, [s, ...moreS]] of bySource) {
    const [t, ...moreT] = byTarget.get(key) ?? [];
    if (t === undefined || moreS.length + moreT.length > 0) continue;
    put(s, t, 'name');
    doneS.add(s);
    doneT.add(t);
  }
  const sources = free.source.filter((s) => !doneS.has(s));
  const targets = free.target.filter((t) => !doneT.has(t));
  if (sources.length === 0 || targets.length === 0 || sources.length * targets.length > MOST_COMPARED * MOST_COMPARED) return;
  const isSwapped = targets.length > sources.length;
  const [rows, columns] = isSwapped ? [sources, targets] : [targets, sources];
  const costs = new Float64Array(rows.length * columns.length);
  rows.forEach((row, i) =>
    columns.forEach((column, k) => {
      const [s, t] = isSwapped ? [row, column] : [column, row];
      costs[i * columns.length + k] = 1 - likeness(s, t) - (shape[t] === s ? PLACE : 0);
    }),
  );
  leastCost(costs, rows.length, columns.length).forEach((k, i) => {
    const [s, t] = isSwapped ? [rows[i], columns[k]] : [columns[k], rows[i]];
    if (likeness(s, t) >= ALIKE) put(s, t, 'name');
  });
}

function groupsOf(joints: readonly number[], names: readonly NameParts[]): Map<string, number[]> {
  const groups = new Map<string, number[]>();
  for (const j of joints) {
    const key = canonical(names[j]);
    groups.set(key, [...(groups.get(key) ?? []), j]);
  }
  return groups;
}

/** Joints without a name in common that hang at the same place of the tree, right under a pair and over a pair or at the end. */
function pairBetween(
  source: Skeleton,
  target: Skeleton,
  shape: Int32Array,
  pairs: ReadonlyMap<number, JointPair>,
  taking: Uint8Array,
  byHand: ReadonlySet<number>,
  put: (s: number, t: number, why: PairReason) => void,
): void {
  const used = new Set([...pairs.values()].flatMap(({ sources }) => (sources.length === 1 ? [sources[0].joint] : [])));
  const [over, under] = [childrenOf(source), childrenOf(target)];
  target.names.forEach((_, t) => {
    const s = shape[t];
    if (s < 0 || used.has(s) || pairs.has(t) || byHand.has(t) || taking[t] === 0) return;
    const [above, mine] = [source.parents[s], target.parents[t]];
    const isUnder = mine < 0 ? above < 0 : above >= 0 && drives(pairs.get(mine), above);
    const isOver =
      under[t].length === 0 ? over[s].length === 0 : under[t].some((child) => over[s].some((one) => drives(pairs.get(child), one)));
    if (!isUnder || !isOver) return;
    put(s, t, 'shape');
    used.add(s);
  });
}

const drives = (pair: JointPair | undefined, source: number): boolean => pair?.sources.some(({ joint }) => joint === source) ?? false;

/** Farther apart than this in the plane, as a share of the whole reach, joints show where a rig faces. */
const WIDE = 0.05;

/** The turn about the vertical that lays the performer's joints on the character's best, in quarter turns: what is less is how they are posed. */
function headingBetween(performer: Jointed, character: Jointed, pairs: readonly JointPair[]): number {
  const [a, b] = [performer.restPose.positions, character.restPose.positions];
  const list = pairs.map(({ target, sources }) => [sources[0].joint, target] as const);
  if (list.length < 2) return 0;
  const centre = (p: Float64Array, k: 0 | 1, c: number): number => list.reduce((sum, pair) => sum + p[pair[k] * 3 + c], 0) / list.length;
  const [ax, ay, az, bx, by, bz] = [centre(a, 0, 0), centre(a, 0, 1), centre(a, 0, 2), centre(b, 1, 0), centre(b, 1, 1), centre(b, 1, 2)];
  let [dot, cross, flatA, flatB, highA, highB] = [0, 0, 0, 0, 0, 0];
  for (const [s, t] of list) {
    const [x, z, u, w] = [a[s * 3] - ax, a[s * 3 + 2] - az, b[t * 3] - bx, b[t * 3 + 2] - bz];
    dot += x * u + z * w;
    // From +Z towards +X, as headings are counted.
    cross += z * u - x * w;
    flatA += x * x + z * z;
    flatB += u * u + w * w;
    highA += square(a[s * 3 + 1] - ay);
    highB += square(b[t * 3 + 1] - by);
  }
  if (flatA < WIDE * WIDE * (flatA + highA) || flatB < WIDE * WIDE * (flatB + highB)) return 0;
  return Math.round(atan2(cross, dot) / (PI / 2)) * (PI / 2);
}

/** The middle one of the ratios of the ways from pair to pair. */
function sizeBetween(performer: Jointed, character: Jointed, pairs: readonly JointPair[]): number {
  const ratios = relationsOf(performer.skeleton, character.skeleton, pairs).flatMap(({ pair, above }) => {
    if (!above) return [];
    const theirs = between(performer.restPose, above.sources[0].joint, pair.sources[0].joint);
    const mine = between(character.restPose, above.target, pair.target);
    return theirs > 1e-6 && mine > 1e-6 ? [mine / theirs] : [];
  });
  return ratios.length > 0 ? median(Float64Array.from(ratios)) : 1;
}

const between = ({ positions }: Pose, a: number, b: number): number => distance(positions, a * 3, positions, b * 3);

/** A pair, and the pair that it is told in relation to: the nearest above it on both sides. */
export interface Relation {
  readonly pair: JointPair;
  readonly above: JointPair | undefined;
}

/** Each pair with the nearest one over it whose joint of the performer stands over its own too; none for what stands in the world. */
export function relationsOf(source: Skeleton, target: Skeleton, pairs: readonly JointPair[]): Relation[] {
  const by = new Map(pairs.map((pair) => [pair.target, pair]));
  return pairs.map((pair) => {
    const own = pair.sources[0].joint;
    for (let j = target.parents[pair.target]; j >= 0; j = target.parents[j]) {
      const above = by.get(j);
      if (above && above.sources[0].joint !== own && isBelow(source, own, above.sources[0].joint)) return { pair, above };
    }
    return { pair, above: undefined };
  });
}
