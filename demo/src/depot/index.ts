import { gaussian, makeSkeleton, quat, type Clip, type Skeleton } from '@hollow-stride/core';
import { writeTake, type Performance } from '../performer';
import { capture, perform, type Faults } from '../takes/body';
import type { V3 } from '../vectors';
import type { Motion, Thing } from './making';
import { MOTIONS } from './motions';
import { understudyPlays, understudyRig } from './understudy';

/** A motion of the depot and what makes its files. */
export interface DepotSource {
  readonly id: string;
  readonly title: string;
  readonly what: string;
  readonly tags: readonly string[];
  readonly seconds: number;
  /** True when it goes anywhere over the floor. */
  readonly travels: boolean;
  file(options: DepotOptions): Promise<{ name: string; bytes: Uint8Array }>;
}

export interface DepotOptions {
  readonly travel: 'travelling' | 'in-place';
  readonly fps: number;
  readonly body: 'motion' | 'with-body';
  /** Seed of a capture's noise and of a moment without sight, laid over the motion; none by default. */
  readonly captured?: number;
}

/** Captures come at every rate, hertz. */
const RATES = [30, 60, 24] as const;

/** How a motion looks when a stage has captured it: at a rate and with a seed of noise of its own, whatever other motions there are. */
export function asTaken(id: string): Pick<DepotOptions, 'fps' | 'captured'> {
  let seed = 0;
  for (const letter of id) seed = (seed * 31 + letter.charCodeAt(0)) % 9973;
  return { fps: RATES[seed % RATES.length], captured: seed + 1 };
}

/** The motion depot: every motion made anew from code when it is asked for, the same each time. */
export function depotMotions(): DepotSource[] {
  return MOTIONS.map((motion) => {
    const { id, title, what, tags, seconds, travels } = motion;
    return { id, title, what, tags, seconds, travels, file: (options: DepotOptions) => fileOf(motion, options) };
  }).sort((a, b) => (a.title < b.title ? -1 : 1));
}

async function fileOf(
  { id, title, seconds, play, thing }: Motion,
  { travel, fps, body, captured }: DepotOptions,
): Promise<{ name: string; bytes: Uint8Array }> {
  const clean = perform({ ...play(), fps, seconds });
  const performance = captured === undefined ? clean : capture(clean, asCaptured(captured, fps));
  if (travel === 'in-place') stayInPlace(performance);
  const clip = performance.clip(title);
  const { skeleton } = understudyRig();
  // A thing is in the motion's own file; the understudy holds nothing.
  if (thing && body === 'motion') return { name: `${id}.bvh`, bytes: writeTake(...beside(skeleton, clip, thing)) };
  if (body === 'with-body') return { name: `${id}.glb`, bytes: await understudyPlays(clip) };
  return { name: `${id}.bvh`, bytes: writeTake(skeleton, clip) };
}

/** What the eyes of a stage see otherwise than it is: a tremor, and in one of three takes four frames that are lost. */
function asCaptured(seed: number, fps: number): Faults {
  return {
    seed,
    jitter: 0.05,
    shake: 0.0004,
    leadIn: 0,
    floor: 0,
    drift: 0,
    ...(seed % 3 === 0 && { dropout: { at: Math.round(1.4 * fps), frames: 5 } }),
  };
}

/** Takes the way over the floor out and keeps the sway: what is slower than about a second counts as way. */
function stayInPlace({ places, fps }: Performance): void {
  const path = new Float64Array(places.length * 2);
  places.forEach(([x, , z], f) => path.set([x, z], f * 2));
  const way = gaussian(path, 2, 0.5 * fps);
  places.forEach(([x, y, z], f) => ((places as V3[])[f] = [x - way[f * 2], y, z - way[f * 2 + 1]]));
}

/** A motion with a thing beside the body, as one more root of its skeleton. */
function beside(skeleton: Skeleton, clip: Clip, { name, at }: Thing): [Skeleton, Clip] {
  const joints = skeleton.names.length;
  const rotations = new Float32Array(clip.frames * (joints + 1) * 4);
  const values = new Float32Array(clip.frames * 3);
  for (let f = 0; f < clip.frames; f++) {
    const { place, turn } = at(f * clip.frameTime);
    rotations.set(clip.rotations.subarray(f * joints * 4, (f + 1) * joints * 4), f * (joints + 1) * 4);
    quat.fromAxisAngle(rotations, (f * (joints + 1) + joints) * 4, 0, 1, 0, (turn * Math.PI) / 180);
    values.set(place, f * 3);
  }
  const whole = makeSkeleton({
    names: [...skeleton.names, name],
    parents: [...skeleton.parents, -1],
    restT: Float64Array.of(...skeleton.restT, ...at(0).place),
    restR: Float64Array.of(...skeleton.restR, 0, 0, 0, 1),
    tips: Float64Array.of(...skeleton.tips, NaN, NaN, NaN),
  });
  return [whole, { ...clip, rotations, moves: [...clip.moves, { joint: joints, values }] }];
}
