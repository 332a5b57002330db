import type { Side } from '../label';
import { fromAxisAngle, mul } from '../math/quat';
import { turnLeft } from '../math/vec';
import type { StepsOf } from '../touchup';
import { spanOf, stancesOf, type Anchor, type FootPlan } from './stances';

/**
 * Puts the stances of one foot where a person wants them: turned about their own middle, then moved out and ahead as the foot then
 * points. A touch-up holds for a whole stance with its value in the middle, so that a standing foot stays still.
 */
export function restep(plan: FootPlan, steps: StepsOf, side: Side): FootPlan {
  const flats = plan.flats.map((flat) => ({ ...flat, turn: flat.turn.slice() }));
  const anchors = plan.anchors.map((anchor) => ({ ...anchor }));
  const outwards = side === 'left' ? 1 : -1;
  const v = new Float64Array(3);
  const q = new Float64Array(4);
  for (const group of stancesOf(anchors)) {
    const { first, last } = spanOf(group);
    const middle = (first + last) >> 1;
    const [out, ahead, turn] = [steps.out[middle], steps.ahead[middle], outwards * steps.turn[middle]];
    if (out === 0 && ahead === 0 && turn === 0) continue;
    const inside = flats.filter((flat) => flat.first >= first && flat.last <= last);
    const [x, z] = [meanOf(group, 'x'), meanOf(group, 'z')];
    fromAxisAngle(q, 0, 0, 1, 0, turn);
    for (const flat of inside) turned(flat);
    const heading = headingOf(inside);
    for (const anchor of group) {
      // A stance that is never flat shows no heading: it only moves, as the world lies.
      if (inside.length > 0) {
        v[0] = anchor.x - x;
        v[2] = anchor.z - z;
        turnLeft(v, 0, turn);
        anchor.x = x + v[0];
        anchor.z = z + v[2];
      }
      // To the left of a way (x, z) over the floor, seen from above, lies (z, -x).
      anchor.x += heading[0] * ahead + outwards * heading[1] * out;
      anchor.z += heading[1] * ahead - outwards * heading[0] * out;
      for (const ways of [anchor.before, anchor.after])
        for (let i = 0; i < ways.length; i += 3) turnLeft(ways, i, inside.length > 0 ? turn : 0);
    }

    function turned(flat: { x: number; z: number; turn: Float64Array }): void {
      mul(flat.turn, 0, q, 0, flat.turn, 0);
      v[0] = flat.x;
      v[2] = flat.z;
      turnLeft(v, 0, turn);
      flat.x = v[0];
      flat.z = v[2];
    }
  }
  return { ...plan, anchors, flats };
}

function meanOf(group: readonly Anchor[], key: 'x' | 'z'): number {
  let sum = 0;
  let weight = 0;
  for (const anchor of group) {
    const frames = anchor.last - anchor.first + 1;
    sum += anchor[key] * frames;
    weight += frames;
  }
  return sum / weight;
}

/** Which way a stance points over the floor, unit; ahead in the world where nothing tells. */
function headingOf(flats: readonly { readonly x: number; readonly z: number }[]): readonly [x: number, z: number] {
  const [x, z] = [flats.reduce((sum, flat) => sum + flat.x, 0), flats.reduce((sum, flat) => sum + flat.z, 0)];
  const n = Math.sqrt(x * x + z * z);
  return n < 1e-9 ? [0, 1] : [x / n, z / n];
}
