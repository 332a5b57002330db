import { gaussian } from '@hollow-stride/core';
import { writeTake, type Performance } from '../performer';
import { capture, perform, type Faults } from '../takes/body';
import type { V3 } from '../vectors';
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
  file(options: DepotOptions): Promise<{ name: string; bytes: Uint8Array }>;
}

export interface DepotOptions {
  readonly travel: 'travelling' | 'in-place';
  readonly fps: number;
  readonly body: 'motion' | 'with-body';
  /** Seed of a capture's noise and of a moment without sight, laid over the motion; none by default. */
  readonly captured?: number;
}

/** The motion depot: every motion made anew from code when it is asked for, the same each time. */
export function depotMotions(): DepotSource[] {
  return MOTIONS.map((motion) => {
    const { id, title, what, tags, seconds, travels } = motion;
    return { id, title, what, tags, seconds, travels, file: (options: DepotOptions) => fileOf(motion, options) };
  }).sort((a, b) => (a.title < b.title ? -1 : 1));
}

async function fileOf(
  { id, title, seconds, play }: Motion,
  { travel, fps, body, captured }: DepotOptions,
): Promise<{ name: string; bytes: Uint8Array }> {
  const clean = perform({ ...play(), fps, seconds });
  const performance = captured === undefined ? clean : capture(clean, asCaptured(captured, fps));
  if (travel === 'in-place') stayInPlace(performance);
  const clip = performance.clip(title);
  const { skeleton } = understudyRig();
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
