/** Made-up rigs that are no bodies: trees of joints at random, stated with any axes, size, heading and names; and motions of them. */
import type { Clip } from '../clip';
import { flattenRest, type MotionFile } from '../formats';
import { fromAxisAngle, identity, invMul, mul, normalize, rotate, unrotate } from '../math/quat';
import { random } from '../math/random';
import { sin } from '../math/trig';
import { makeSkeleton, restPose, type Pose, type Skeleton } from '../skeleton';

/** A machine apart from how any file states it: joints in the world at rest, metres, Y up. */
export interface Machine {
  readonly joints: readonly { readonly name: string; readonly parent: number; readonly at: readonly [number, number, number] }[];
}

const WORDS = [
  'mast',
  'jib',
  'hook',
  'winch',
  'rope',
  'wheel',
  'sail',
  'boom',
  'bucket',
  'ladder',
  'drum',
  'hatch',
  'pulley',
  'crate',
  'bell',
];

/** A tree with a joint or two per branch. */
export function randomMachine(seed: number, count = 12): Machine {
  const rng = random(seed);
  const joints: Machine['joints'][number][] = [{ name: 'gantry', parent: -1, at: [0.4, 1, -0.2] }];
  for (let j = 1; j < count; j++) {
    const parent = rng.next() < 0.6 ? j - 1 : rng.integer(0, j - 1);
    const from = joints[parent].at;
    const at: [number, number, number] = [from[0] + rng.range(-2, 3), from[1] + rng.range(0.5, 3), from[2] + rng.range(-3, 2)];
    joints.push({ name: `${WORDS[(j - 1) % WORDS.length]}${j > WORDS.length ? j : ''}`, parent, at });
  }
  return { joints };
}

export interface Statement {
  readonly names?: (name: string, joint: number) => string;
  /** Seed of each joint's own axes; undefined lays them along the world. */
  readonly axes?: number;
  readonly size?: number;
  /** Radians from +Z towards +X by which all of it is turned. */
  readonly heading?: number;
}

/** A machine as one file states it. */
export function stateMachine(
  { joints }: Machine,
  { names = (name) => name, axes, size = 1, heading = 0 }: Statement = {},
): {
  skeleton: Skeleton;
  restPose: Pose;
  canMove: Uint8Array;
} {
  const rng = axes === undefined ? undefined : random(axes);
  const turn = new Float64Array(4);
  fromAxisAngle(turn, 0, 0, 1, 0, heading);
  const world = new Float64Array(joints.length * 4);
  const at = new Float64Array(joints.length * 3);
  joints.forEach((joint, j) => {
    identity(world, j * 4);
    if (rng) for (let c = 0; c < 4; c++) world[j * 4 + c] = rng.range(-1, 1);
    normalize(world, j * 4);
    at.set(
      joint.at.map((v) => v * size),
      j * 3,
    );
    rotate(at, j * 3, turn, 0, at, j * 3);
  });
  const restT = at.slice();
  const restR = world.slice();
  joints.forEach(({ parent }, j) => {
    if (parent < 0) return;
    for (let c = 0; c < 3; c++) restT[j * 3 + c] -= at[parent * 3 + c];
    unrotate(restT, j * 3, world, parent * 4, restT, j * 3);
    invMul(restR, j * 4, world, parent * 4, world, j * 4);
  });
  const skeleton = makeSkeleton({
    names: joints.map(({ name }, j) => names(name, j)),
    parents: joints.map(({ parent }) => parent),
    restT,
    restR,
  });
  return { skeleton, restPose: restPose(skeleton), canMove: new Uint8Array(joints.length).fill(1) };
}

/** Every joint turns about an axis of its own, the root travels, and every fourth joint slides along its parent. */
export function runMachine({ skeleton }: { readonly skeleton: Skeleton }, seed: number, frames = 60, fps = 30): Clip {
  const rng = random(seed);
  const count = skeleton.names.length;
  const ways = skeleton.names.map(() => ({
    x: rng.range(-1, 1),
    y: rng.range(-1, 1),
    z: rng.range(-1, 1),
    most: rng.range(0.2, 1.5),
    pace: rng.range(0.5, 3),
  }));
  const rotations = new Float32Array(frames * count * 4);
  const sliding = [...skeleton.names.keys()].filter((j) => j % 4 === 0);
  const moves = sliding.map((joint) => ({ joint, values: new Float32Array(frames * 3) }));
  const q = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const t = f / fps;
    ways.forEach(({ x, y, z, most, pace }, j) => {
      const size = Math.sqrt(x * x + y * y + z * z);
      fromAxisAngle(q, 0, x / size, y / size, z / size, most * sin(pace * t));
      mul(q, 0, skeleton.restR, j * 4, q, 0);
      rotations.set(q, (f * count + j) * 4);
    });
    for (const { joint, values } of moves) {
      for (let c = 0; c < 3; c++)
        values[f * 3 + c] = skeleton.restT[joint * 3 + c] * (1 + 0.3 * sin(t + joint)) + (joint === 0 ? t * (c === 1 ? 0 : 1) : 0);
    }
  }
  return { name: 'run', frameTime: 1 / fps, frames, rotations, moves };
}

/** A machine as a file in metres, Y up, whose joints can all be moved. */
export function machineFile(name: string, { skeleton }: { readonly skeleton: Skeleton }, clip: Clip): MotionFile {
  const every = {
    ...clip,
    moves: skeleton.names.map((_, joint) => clip.moves.find((track) => track.joint === joint) ?? resting(skeleton, clip, joint)),
  };
  const flat = flattenRest(skeleton, every);
  return { name, skeleton: flat.skeleton, clips: [flat.clip], warnings: [], layout: flat.layout };
}

function resting({ restT }: Skeleton, { frames }: Clip, joint: number): Clip['moves'][number] {
  return { joint, values: Float32Array.from({ length: frames * 3 }, (_, i) => restT[joint * 3 + (i % 3)]) };
}
