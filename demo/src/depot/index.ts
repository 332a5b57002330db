import { gaussian } from '@hollow-stride/core';
import { writeTake, type Performance } from '../performer';
import { capture, type Faults } from '../takes/body';
import type { V3 } from '../vectors';
import { beside } from './beside';
import type { Motion } from './making';
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
  /** What is captured beside the body, in files of the motion alone. */
  readonly thing?: string;
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
    return { id, title, what, tags, seconds, travels, thing: motion.thing?.name, file: (options: DepotOptions) => fileOf(motion, options) };
  }).sort((a, b) => (a.title < b.title ? -1 : 1));
}

async function fileOf(
  { id, title, play, thing }: Motion,
  { travel, fps, body, captured }: DepotOptions,
): Promise<{ name: string; bytes: Uint8Array }> {
  const clean = play(fps);
  const performance = captured === undefined ? clean : capture(clean, asCaptured(captured, fps));
  const way = travel === 'in-place' ? stayInPlace(performance) : undefined;
  const clip = performance.clip(title);
  const { skeleton } = understudyRig();
  // A thing is in the motion's own file; the understudy holds nothing.
  if (thing && body === 'motion') return { name: `${id}.bvh`, bytes: writeTake(...beside(skeleton, clip, thing, way)) };
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

/** Takes the way over the floor out and keeps the sway: what is slower than about a second counts as way. @returns the way, 2 a frame */
function stayInPlace({ places, fps }: Performance): Float64Array {
  const path = new Float64Array(places.length * 2);
  places.forEach(([x, , z], f) => path.set([x, z], f * 2));
  const way = gaussian(path, 2, 0.5 * fps);
  places.forEach(([x, y, z], f) => ((places as V3[])[f] = [x - way[f * 2], y, z - way[f * 2 + 1]]));
  return way;
}
