import { ClipReader } from '../../clip';
import { SIDES } from '../../label';
import { percentile } from '../../math/filter';
import { unrotate } from '../../math/quat';
import type { Case } from '../case';
import type { BodyPoint } from './points';
import { square } from '../../math/numbers';

/** A palm of the performer that stays within this share of a leg on a prop holds it, */
const STAYS = 0.05;
/** when it does so for so many seconds, */
const SHORTEST = 0.4;
/** and the prop goes this share of a leg meanwhile. */
const MOVES = 0.1;

/** How well hands keep to the things that they hold. */
export interface Grip {
  readonly seconds: number;
  /** How far a palm goes on what it holds, beyond the performer's own, but for a twentieth of the worst hold; metres. */
  readonly away: number;
  readonly frame: number;
  readonly what: string;
}

/** @param mine places of the watched points, frames × points × 3 */
export function gripOf(
  { performer, character, take, result, props = [] }: Case,
  points: readonly BodyPoint[],
  mine: Float64Array,
  theirs: Float64Array,
): Grip | undefined {
  const { frames, frameTime } = take;
  if (props.length === 0) return undefined;
  const palms = SIDES.map((side) => points.findIndex(({ name }) => name === `${side} palm`)).filter((point) => point >= 0);
  let worst = { away: 0, frame: -1, what: '' };
  let seconds = 0;
  const source = new ClipReader(performer.skeleton, take);
  const reader = new ClipReader(character.skeleton, result);
  for (const prop of props) {
    const path = new Float64Array(frames * 3);
    const seen = palms.map((point) => ({ point, mine: new Float64Array(frames * 3), theirs: new Float64Array(frames * 3) }));
    for (let f = 0; f < frames; f++) {
      const [P, C] = [source.at(f), reader.at(f)];
      for (let c = 0; c < 3; c++) path[f * 3 + c] = P.positions[prop.theirs * 3 + c];
      for (const palm of seen) {
        const o = (f * points.length + palm.point) * 3;
        for (let c = 0; c < 3; c++) {
          palm.theirs[f * 3 + c] = theirs[o + c] - P.positions[prop.theirs * 3 + c];
          palm.mine[f * 3 + c] = mine[o + c] - C.positions[prop.mine * 3 + c];
        }
        unrotate(palm.theirs, f * 3, P.rotations, prop.theirs * 4, palm.theirs, f * 3);
        unrotate(palm.mine, f * 3, C.rotations, prop.mine * 4, palm.mine, f * 3);
      }
    }
    for (const palm of seen) {
      for (const [first, last] of staysIn(palm.theirs, STAYS * performer.legLength)) {
        if ((last - first + 1) * frameTime < SHORTEST || spread(path, first, last, 1) < MOVES * performer.legLength) continue;
        seconds += (last - first + 1) * frameTime;
        const allowed = spread(palm.theirs, first, last, 0.95);
        const away = Math.max(0, spread(palm.mine, first, last, 0.95) - allowed);
        if (away > worst.away) worst = { away, frame: first, what: `the ${points[palm.point].name} on the ${prop.name}` };
      }
    }
  }
  return { ...worst, seconds };
}

/** The longest spans, one after the other, in which places lie within some way of each other. */
function staysIn(places: Float64Array, most: number): (readonly [first: number, last: number])[] {
  const frames = places.length / 3;
  const out: (readonly [number, number])[] = [];
  const low = new Float64Array(3);
  const high = new Float64Array(3);
  let first = 0;
  for (let f = 0; f < frames; f++) {
    let wide = false;
    for (let c = 0; c < 3; c++) {
      const v = places[f * 3 + c];
      low[c] = f === first ? v : Math.min(low[c], v);
      high[c] = f === first ? v : Math.max(high[c], v);
      wide ||= high[c] - low[c] > most;
    }
    if (!wide) continue;
    out.push([first, f - 1]);
    first = f;
    for (let c = 0; c < 3; c++) low[c] = high[c] = places[f * 3 + c];
  }
  out.push([first, frames - 1]);
  return out;
}

/** How far places lie from their middle, but for a share of them. */
function spread(places: Float64Array, first: number, last: number, share: number): number {
  const at = (c: number): number[] => Array.from({ length: last - first + 1 }, (_, i) => places[(first + i) * 3 + c]);
  const [x, y, z] = [at(0), at(1), at(2)];
  const [mx, my, mz] = [x, y, z].map((list) => percentile(list, 0.5));
  return percentile(
    x.map((v, i) => Math.sqrt(square(v - mx) + square(y[i] - my) + square(z[i] - mz))),
    share,
  );
}
