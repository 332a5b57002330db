import { DEG } from '../../math/trig';
import type { Found } from '../figure';
import type { Direction } from '../look/directions';
import type { Scene } from '../scene';
import { freeOf } from './free';
import { square } from '../../math/numbers';

/** A step of the body that is so far from the performer's, in share of it, is another's. */
const OTHER = 0.6;
/** Directions that turn slower than this say nothing, radians a second. */
const MOVES = 20 * DEG;
/** So many directions must move to tell. */
const ENOUGH = 3;

/** Share of the performer's step from the frame before that the character's differs by, the least of all that move: one that is led does as it must; NaN for too few. */
function apartIn(directions: readonly (Direction & { readonly out: Uint8Array })[], f: number, least: number): number {
  const shares: number[] = [];
  for (const { mine, theirs, out } of directions) {
    if (out[f] === 1) continue;
    let away = 0;
    let size = 0;
    for (let o = f * 3; o < f * 3 + 3; o++) {
      const step = theirs[o] - theirs[o - 3];
      away += square(mine[o] - mine[o - 3] - step);
      size += step * step;
    }
    if (size >= least * least) shares.push(Math.sqrt(away / size));
  }
  return shares.length < ENOUGH ? NaN : Math.min(...shares);
}

/** Frames that are missing, doubled or exchanged: the upper body takes another step there than the performer's. */
export function order(scene: Scene): Found {
  const { given, seen, left, at } = scene;
  const { take, result } = given;
  const directions = seen.directions
    .filter(({ part }) => part !== 'legs' && part !== 'hands')
    .map((direction) => ({ ...direction, out: freeOf(scene, direction) }));
  const least = MOVES * take.frameTime;
  let count = Math.abs(take.frames - result.frames);
  let first = -1;
  let looked = 0;
  for (let f = 1; f < seen.frames; f++) {
    if (left[f] === 1 || left[f - 1] === 1) continue;
    const apart = apartIn(directions, f, least);
    if (Number.isNaN(apart)) continue;
    looked++;
    if (apart <= OTHER) continue;
    count++;
    if (first < 0) first = f;
  }
  return {
    id: 'order',
    value: looked === 0 ? NaN : count,
    looked: `${looked} frames`,
    words: count === 0 ? 'every frame follows the one before' : `first at ${at(Math.max(0, first))}`,
    frame: first < 0 ? undefined : first,
  };
}
