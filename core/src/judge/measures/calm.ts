import { percentile } from '../../math/filter';
import { DEG } from '../../math/trig';
import type { Found } from '../figure';
import type { JerkKind } from '../look/jerks';
import type { Scene } from '../scene';

/** Jerks of some joints over the performer's. */
export interface Calm {
  /** 99th percentile over the performer's 99th percentile; NaN where too little was looked at. */
  readonly ratio: number;
  readonly frames: number;
  /** Where the character's exceeds the performer's most. */
  readonly frame: number | undefined;
  readonly where: string | undefined;
}

/** Sizes of accelerations of one joint on both bodies, one a frame; the first two frames have none. */
export interface Jerks {
  readonly name: string;
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
}

/** Fewer frames than this say nothing about a percentile. */
const ENOUGH = 40;

/** The performer's own accelerations at their 99th percentile, all joints of a kind together; 0 for none. */
export function usualOf(series: readonly Pick<Jerks, 'theirs'>[], left: Uint8Array): number {
  const all = series.flatMap(({ theirs }) => [...theirs.subarray(2)].filter((_, f) => left[f + 2] === 0));
  return all.length === 0 ? 0 : percentile(all, 0.99);
}

/**
 * Compares accelerations at their 99th percentile, all joints of a kind together.
 * @param left 1 for frames that are left out: the take's known faults
 * @param still accelerations below this are not looked at: rounding, or too small to be seen
 */
export function calmOf(series: readonly Jerks[], left: Uint8Array, still: number): Calm {
  const frames = left.length;
  const mine = new Float64Array(series.length * frames);
  const theirs = new Float64Array(series.length * frames);
  let count = 0;
  let worst = { excess: 0, frame: -1, where: '' };
  for (const jerks of series) {
    for (let f = 2; f < frames; f++) {
      if (left[f] === 1) continue;
      mine[count] = jerks.mine[f];
      theirs[count++] = jerks.theirs[f];
      const excess = jerks.mine[f] - jerks.theirs[f];
      if (excess > worst.excess) worst = { excess, frame: f - 1, where: jerks.name };
    }
  }
  if (count < ENOUGH) return { ratio: NaN, frames: count, frame: undefined, where: undefined };
  const a = Math.max(still, percentile(mine.subarray(0, count), 0.99));
  const b = Math.max(still, percentile(theirs.subarray(0, count), 0.99));
  const seen = worst.frame >= 0;
  return { ratio: a / b, frames: count, frame: seen ? worst.frame : undefined, where: seen ? worst.where : undefined };
}

/** Accelerations that nobody sees, radians and metres a second squared; and a frame, below which they are rounding. */
const UNSEEN_TURN = 200 * DEG;
const UNSEEN_WAY = 0.08;
const STILL_TURN = 0.02 * DEG;
const STILL_WAY = 2e-5;
/** A hand that keeps its turn while the arm is bent otherwise turns at the wrist: by so much of what the elbow does. */
const WITH_ELBOW = 0.5;

function calm({ seen, given, left, leftFrames, at }: Scene, kind: JerkKind): Found {
  const { frameTime } = given.take;
  const series = [...seen.jerks].filter(([, jerks]) => jerks.kind === kind).map(([name, jerks]) => ({ name, ...jerks }));
  const squared = frameTime * frameTime;
  const unseen = kind === 'hips' ? Math.max(STILL_WAY, UNSEEN_WAY * squared) : Math.max(STILL_TURN, UNSEEN_TURN * squared);
  const bends = [...seen.jerks.values()].filter((jerks) => kind === 'wrists' && jerks.kind === 'elbows');
  const found = calmOf(series, left, Math.max(unseen, WITH_ELBOW * usualOf(bends, left)));
  return {
    id: kind,
    value: found.ratio,
    looked: `${seen.frames - leftFrames} frames${leftFrames > 0 ? `, ${leftFrames} known faults left out` : ''}`,
    words: found.frame === undefined ? 'as calm as the performer' : `most at ${at(found.frame)}, ${found.where}`,
    frame: found.frame,
  };
}

export const knees = (scene: Scene): Found => calm(scene, 'knees');
export const elbows = (scene: Scene): Found => calm(scene, 'elbows');
export const hips = (scene: Scene): Found => calm(scene, 'hips');
export const wrists = (scene: Scene): Found => calm(scene, 'wrists');
export const neck = (scene: Scene): Found => calm(scene, 'neck');
