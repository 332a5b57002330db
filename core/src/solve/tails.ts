import { makeContinuous } from '../clip';
import type { Pairing } from '../match';
import { smoothstep } from '../math/filter';
import { between, invMul, mul, normalize, rotate, unrotate } from '../math/quat';
import { exp, log, TAU } from '../math/trig';
import { length as sizeOf } from '../math/vec';
import type { CarriedPoint } from '../rig';
import { emptyPose, forward, isBelow } from '../skeleton';
import { placeBody } from './placeBody';
import type { Past } from './past';
import type { PosePlan } from './plan';
import type { RootPath } from './root';
import { square } from '../math/numbers';

/** Swings a second of a tail that is set to swing, from the stiffest to the loosest; and how soon they die out (share of critical). */
const SWINGS = [5, 0.9] as const;
const DAMPING = 0.32;
/** Longest step in which a swing is followed, seconds. */
const STEP = 1 / 240;

/** The outermost skin of a chain lies so much farther out than most of it. */
const WIDE = 1.4;

/** One joint of an extra chain that hangs free: what turns, and how far its end lies. */
interface Link {
  readonly joint: number;
  /** To its end, in its own frame, metres. */
  readonly bone: Float64Array;
  readonly length: number;
  /** Half the thickness of its skin, and its outermost points. */
  readonly radius: number;
  readonly skin: readonly CarriedPoint[];
  /** How far its skin, and that of the next link, reaches from where they begin, metres. */
  readonly reach: number;
}

function linksOf({ character }: Pairing): Link[][] {
  const { skeleton, thickness, hanging } = character;
  return hanging.map(({ joints, skin }) =>
    joints.flatMap((joint, i) => {
      const next = joints.at(i + 1);
      const from = next === undefined ? skeleton.tips : skeleton.restT;
      const shown = from.slice((next ?? joint) * 3, (next ?? joint) * 3 + 3);
      // A last joint whose file knows no tip ends in the middle of its skin.
      const bone = shown.every(Number.isFinite) ? shown : middleOf(skin[i]);
      const length = sizeOf(bone, 0);
      const inLine = next === undefined || skeleton.parents[next] === joint;
      return inLine && Number.isFinite(length) && length > 1e-6
        ? [{ joint, bone, length, radius: WIDE * thickness[joint], skin: skin[i], reach: reachOf([...skin[i], ...(skin.at(i + 1) ?? [])]) }]
        : [];
    }),
  );
}

const reachOf = (points: readonly CarriedPoint[]): number => points.reduce((most, { local }) => Math.max(most, sizeOf(local, 0)), 0);

/** The middle of some points; NaN where there are none. */
function middleOf(points: readonly CarriedPoint[]): Float64Array {
  const middle = new Float64Array(3).fill(points.length === 0 ? NaN : 0);
  for (const { local } of points) for (let c = 0; c < 3; c++) middle[c] += local[c] / points.length;
  return middle;
}

/** The ends of a chain, each a mass on a damped spring towards where the pose has it (semi-implicit Euler). */
class Swing {
  private readonly ends: Float64Array;
  private readonly speeds: Float64Array;
  private readonly goals: Float64Array;
  private readonly steps: number;
  private readonly stiff: number;
  private readonly damp: number;

  /** @param count of ends @param loose 0 stays as it is posed, 1 swings most */
  constructor(
    count: number,
    private readonly frameTime: number,
    private readonly loose: number,
  ) {
    this.ends = new Float64Array(count * 3);
    this.speeds = new Float64Array(count * 3);
    this.goals = new Float64Array(count * 3);
    this.steps = Math.max(1, Math.ceil(frameTime / STEP));
    const swing = TAU * SWINGS[0] * exp(loose * log(SWINGS[1] / SWINGS[0]));
    this.stiff = swing * swing;
    this.damp = 2 * DAMPING * swing;
  }

  /** Writes where an end is a frame later, on its way to its goal. */
  follow(end: Float64Array, i: number, goal: Float64Array, isFirst: boolean): void {
    const { ends, speeds, goals, steps, stiff, damp, frameTime } = this;
    const dt = frameTime / steps;
    const o = i * 3;
    if (this.loose > 0 && !isFirst) {
      for (let step = 0; step < steps; step++) {
        for (let c = 0; c < 3; c++) {
          const target = goals[o + c] + ((goal[c] - goals[o + c]) * (step + 1)) / steps;
          const pace = (goal[c] - goals[o + c]) / frameTime;
          speeds[o + c] += (stiff * (target - ends[o + c]) - damp * (speeds[o + c] - pace)) * dt;
          ends[o + c] += speeds[o + c] * dt;
        }
      }
      for (let c = 0; c < 3; c++) end[c] = ends[o + c];
    } else end.set(goal);
    for (let c = 0; c < 3; c++) goals[o + c] = goal[c];
  }

  /** Takes an end for where it has been put. */
  put(i: number, end: Float64Array): void {
    this.ends.set(end, i * 3);
  }

  /** Numbers by which it goes on. */
  get size(): number {
    return 3 * this.ends.length;
  }

  /** Writes how it swings. */
  write(out: Float64Array, at: number): void {
    const { ends, speeds, goals } = this;
    out.set(ends, at);
    out.set(speeds, at + ends.length);
    out.set(goals, at + 2 * ends.length);
  }

  /** Goes on from how it swung. */
  read(from: Float64Array, at: number): void {
    [this.ends, this.speeds, this.goals].forEach((part, i) => part.set(from.subarray(at + i * part.length, at + (i + 1) * part.length)));
  }
}

/** A body whose tails hang. */
export interface Tails {
  /** Local rotations of the character, frames × joints × 4. */
  readonly rotations: Float32Array;
  /** How they swing, so many numbers a frame; none where they do not. */
  readonly swings: Float64Array;
  readonly width: number;
}

/** Tails as they are posed. */
export function asPosed(rotations: Float32Array): Tails {
  return { rotations, swings: NO_SWINGS, width: 0 };
}
const NO_SWINGS = new Float64Array(0);

/** What tails are laid and swung in. */
interface Trailing {
  readonly pairing: Pairing;
  readonly plan: PosePlan;
  readonly root: RootPath;
  /** Local rotations of the character, frames × joints × 4. */
  readonly rotations: Float32Array;
  readonly frameTime: number;
  readonly floor: number;
  /** 0 leaves the chains as they are posed, 1 swings most. */
  readonly loose: number;
  /** What was shown: tails swing on from there. */
  readonly past: Pick<Past, 'frames' | 'swings'> | undefined;
}

/**
 * Lets tails and other extra chains lie on the floor instead of going through it and, when they are to, swing after the body: each
 * end is a mass on a damped spring towards where the pose has it, held at its bone's length.
 */
export function trail({ pairing, plan, root, rotations, frameTime, floor, loose, past }: Trailing): Tails {
  const chains = linksOf(pairing).filter((chain) => chain.length > 0);
  if (chains.length === 0) return asPosed(rotations);
  const { skeleton } = pairing.character;
  const { parents } = skeleton;
  const joints = parents.length;
  const frames = rotations.length / (joints * 4);
  const pose = emptyPose(skeleton);
  const translations = skeleton.restT.slice();
  const posed = Int32Array.from(
    [...parents.keys()].filter((j) => chains.some((chain) => chain.some(({ joint }) => joint === j || isBelow(skeleton, joint, j)))),
  );
  /** Numbers of a frame by which tails swing on. */
  let width = 0;
  const states = chains.map((chain) => {
    const [swing, from] = [new Swing(chain.length, frameTime, loose), width];
    if (loose > 0) width += swing.size;
    return { swing, from, back: trailingWay(pairing, chain) };
  });
  const [goal, bone, end, at, trailing] = Array.from({ length: 5 }, () => new Float64Array(3));
  const [world, above, q] = Array.from({ length: 3 }, () => new Float64Array(4));
  const swings = new Float64Array(frames * width);
  const begin = width > 0 && past?.swings.length === width ? past.frames : 0;
  let out = rotations;
  for (let f = 0; f < frames; f++) {
    const row = f * joints * 4;
    if (begin > 0 && f === begin) for (const { swing, from } of states) swing.read(past!.swings, from);
    placeBody(translations, { plan, root }, f);
    forward(pose, parents, translations, rotations, row, posed);
    for (let k = 0; k < chains.length; k++) {
      const chain = chains[k];
      const { swing, back } = states[k];
      const parent = parents[chain[0].joint];
      if (parent >= 0) for (let c = 0; c < 4; c++) above[c] = pose.rotations[parent * 4 + c];
      else above.set([0, 0, 0, 1]);
      for (let c = 0; c < 3; c++) at[c] = pose.positions[chain[0].joint * 3 + c];
      rotate(trailing, 0, above, 0, back, 0);
      for (let i = 0; i < chain.length; i++) {
        const { joint, length, radius } = chain[i];
        mul(world, 0, above, 0, rotations, row + joint * 4);
        rotate(bone, 0, world, 0, chain[i].bone, 0);
        for (let c = 0; c < 3; c++) goal[c] = at[c] + bone[c];
        swing.follow(end, i, goal, f === 0 || f < begin);
        toLength(end, at, length);
        layDown(end, at, trailing, length, floor + radius);
        if (Math.min(at[1], end[1]) - chain[i].reach < floor) liftSkin(end, { at, trailing, bone, world, floor, rotations, row }, chain, i);
        swing.put(i, end);
        for (let c = 0; c < 3; c++) end[c] -= at[c];
        const moved = Math.abs(end[0] - bone[0]) + Math.abs(end[1] - bone[1]) + Math.abs(end[2] - bone[2]);
        if (moved > 1e-7 * length) {
          if (out === rotations) out = rotations.slice();
          between(q, 0, bone, 0, end, 0);
          mul(world, 0, q, 0, world, 0);
          normalize(world, 0);
          invMul(out, row + joint * 4, above, 0, world, 0);
        }
        // The following joints hang on it as it is now.
        above.set(world);
        for (let c = 0; c < 3; c++) at[c] += end[c];
        const next = chain.at(i + 1);
        if (next && parents[next.joint] !== joint) break;
      }
    }
    if (width > 0) for (const { swing, from } of states) swing.write(swings, f * width + from);
  }
  if (out !== rotations) makeContinuous(out, joints);
  return { rotations: out, swings, width };
}

/** Draws an end to its bone's length. */
function toLength(end: Float64Array, at: Float64Array, length: number): void {
  let size = 0;
  for (let c = 0; c < 3; c++) size += square(end[c] - at[c]);
  const share = size < 1e-18 ? 0 : length / Math.sqrt(size);
  for (let c = 0; c < 3; c++) end[c] = at[c] + (end[c] - at[c]) * share;
}

/** The way in which a chain lies when nothing else says so: as it points at rest, and behind the body; in its parent's frame. */
function trailingWay({ character: { restPose, skeleton, forward: ahead } }: Pairing, chain: readonly Link[]): Float64Array {
  const { joint, length } = chain[chain.length - 1];
  const parent = skeleton.parents[chain[0].joint];
  const out = new Float64Array(3);
  for (let c = 0; c < 3; c++) {
    out[c] = restPose.positions[joint * 3 + c] - restPose.positions[chain[0].joint * 3 + c] - ahead[c] * length;
  }
  if (parent >= 0) unrotate(out, 0, restPose.rotations, parent * 4, out, 0);
  return out;
}

/** An end that points over the floor by less than this share of its bone lies partly, and below it more and more, the trailing way. */
const PLUMB = 0.3;

/** Lays an end that is below a height on it, the way over the floor that it has. */
function layDown(end: Float64Array, at: Float64Array, trailing: Float64Array, length: number, height: number): void {
  if (end[1] >= height) return;
  const drop = Math.max(-length, Math.min(length, height - at[1]));
  let x = end[0] - at[0];
  let z = end[2] - at[2];
  const level = Math.sqrt(x * x + z * z);
  const away = Math.sqrt(trailing[0] * trailing[0] + trailing[2] * trailing[2]);
  if (away > 1e-9) {
    const share = (length * (1 - smoothstep(level / (PLUMB * length)))) / away;
    x += trailing[0] * share;
    z += trailing[2] * share;
  }
  const size = Math.sqrt(x * x + z * z) || 1;
  const reach = Math.sqrt(Math.max(0, length * length - drop * drop));
  end[0] = at[0] + (x / size) * reach;
  end[1] = at[1] + drop;
  end[2] = at[2] + (z / size) * reach;
}

/** A fin or a hem is lifted step by step, as raising an end by some raises what reaches beyond it by more. */
const LIFTS = 4;
const turned = new Float64Array(4);
const beyond = new Float64Array(4);
const way = new Float64Array(3);
const spot = new Float64Array(3);
const start = new Float64Array(3);
const goal = new Float64Array(3);

/** How a link is posed before it is laid. */
interface PosedLink {
  /** Where it begins. */
  readonly at: Float64Array;
  readonly trailing: Float64Array;
  /** From its joint to its end; and its rotation. */
  readonly bone: Float64Array;
  readonly world: Float64Array;
  readonly floor: number;
  /** Local rotations of all joints, from `row` on. */
  readonly rotations: Float32Array;
  readonly row: number;
}

/** How deep the skin of a link is in the floor, metres. */
function depthOf(skin: readonly CarriedPoint[], at: Float64Array, rotation: Float64Array, floor: number): number {
  let depth = 0;
  for (let i = 0; i < skin.length; i++) {
    rotate(spot, 0, rotation, 0, skin[i].local, 0);
    depth = Math.max(depth, floor - at[1] - spot[1]);
  }
  return depth;
}

/**
 * Raises an end whose skin is wider than its bone is thick, and would be in the floor; that of the next link too, which is laid as it will be, as its
 * own end raises nothing about its joint.
 */
function liftSkin(
  end: Float64Array,
  { at, trailing, bone, world, floor, rotations, row }: PosedLink,
  chain: readonly Link[],
  i: number,
): void {
  const { skin, length } = chain[i];
  const next = chain.at(i + 1);
  if (skin.length === 0 && !next?.skin.length) return;
  for (let lift = 0; lift < LIFTS; lift++) {
    for (let c = 0; c < 3; c++) way[c] = end[c] - at[c];
    between(turned, 0, bone, 0, way, 0);
    mul(turned, 0, turned, 0, world, 0);
    let depth = depthOf(skin, at, turned, floor);
    if (next) {
      for (let c = 0; c < 3; c++) start[c] = end[c];
      mul(beyond, 0, turned, 0, rotations, row + next.joint * 4);
      rotate(way, 0, beyond, 0, next.bone, 0);
      for (let c = 0; c < 3; c++) goal[c] = start[c] + way[c];
      layDown(goal, start, trailing, next.length, floor + next.radius);
      for (let c = 0; c < 3; c++) goal[c] -= start[c];
      between(turned, 0, way, 0, goal, 0);
      mul(beyond, 0, turned, 0, beyond, 0);
      depth = Math.max(depth, depthOf(next.skin, start, beyond, floor));
    }
    if (depth < 1e-6) return;
    end[1] += depth;
    toLength(end, at, length);
  }
}
