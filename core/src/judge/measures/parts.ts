import { percentile } from '../../math/filter';
import { DEG, acos } from '../../math/trig';
import { turnLeft } from '../../math/vec';
import { frameOrNone, type Found } from '../figure';
import { offOf, type Part } from '../look/directions';
import type { Scene } from '../scene';
import { worstStretch } from './stretch';

/** Share of the frames up to which a part's direction counts: what is off for longer is seen as a pose. */
const SHARE = 0.95;

function directions(scene: Scene, id: 'likeness.trunk' | 'likeness.head' | 'likeness.hands', part: Part): Found {
  const { seen, left, given, at } = scene;
  let worst = { value: NaN, name: '', mean: 0, frame: -1 };
  let count = 0;
  for (const direction of seen.directions) {
    if (direction.part !== part) continue;
    count++;
    const off = offOf(direction);
    const kept = off.filter((_, f) => left[f] === 0);
    if (kept.length === 0) continue;
    const value = percentile(kept, SHARE) / DEG;
    if (value <= worst.value) continue;
    const mean = kept.reduce((sum, v) => sum + v, 0) / kept.length / DEG;
    worst = { value, name: direction.name, mean, frame: worstStretch(off, left, given.take.frameTime).frame };
  }
  return {
    id,
    value: worst.value,
    looked: `${count} directions, ${seen.frames} frames`,
    words:
      count === 0 ? 'nothing alike' : `${worst.name}: ${worst.mean.toFixed(1)}° in the mean, most about ${at(Math.max(0, worst.frame))}`,
    frame: frameOrNone(worst.frame),
  };
}

/** How far the chest is turned off the performer's. */
export const likenessOfTrunk = (scene: Scene): Found => directions(scene, 'likeness.trunk', 'trunk');
/** How far the head is turned off the performer's. */
export const likenessOfHead = (scene: Scene): Found => directions(scene, 'likeness.head', 'head');
/** How far the hands are turned off the performer's. */
export const likenessOfHands = (scene: Scene): Found => directions(scene, 'likeness.hands', 'hands');

/** How much farther fingers are bent than the performer's. */
export function likenessOfFingers({ seen }: Scene): Found {
  const [name, most] = [...seen.curls].reduce((a, b) => (b[1] > a[1] ? b : a), ['', 0]);
  return {
    id: 'likeness.fingers',
    value: seen.curls.size === 0 ? NaN : most / DEG,
    looked: `${seen.curls.size} fingers, ${seen.compared} frames`,
    words: name === '' ? 'no fingers on both bodies' : `most the ${name}`,
  };
}

/** How far feet point another way than the performer's while they rest, over the floor. */
export function likenessOfFeet({ given, seen, rests, at }: Scene): Found {
  const { points, mine, theirs } = seen;
  const count = points.length;
  const index = new Map(points.map(({ name }, i) => [name, i]));
  const off: { angle: number; frame: number; name: string }[] = [];
  for (const rest of rests) {
    const side = /^(left|right) ball$/.exec(points[rest.point].name)?.[1];
    const heel = side === undefined ? undefined : index.get(`${side} heel`);
    if (heel === undefined) continue;
    const f = (rest.first + rest.last) >> 1;
    const travel = (places: Float64Array): [number, number] => {
      const [a, b] = [(f * count + heel) * 3, (f * count + rest.point) * 3];
      return [places[b] - places[a], places[b + 2] - places[a + 2]];
    };
    const [x, z] = travel(mine);
    let [u, w] = travel(theirs);
    if (given.heading) [u, w] = turned(u, w, given.heading[f]);
    const size = Math.sqrt((x * x + z * z) * (u * u + w * w));
    if (size > 1e-9) off.push({ angle: acos((x * u + z * w) / size), frame: f, name: `${side} foot` });
  }
  const worst = off.reduce<(typeof off)[number] | undefined>((a, b) => (a && a.angle >= b.angle ? a : b), undefined);
  return {
    id: 'likeness.feet',
    value:
      off.length === 0
        ? NaN
        : percentile(
            off.map(({ angle }) => angle),
            0.9,
          ) / DEG,
    looked: `${off.length} rests`,
    words: worst ? `most the ${worst.name} at ${at(worst.frame)}, ${(worst.angle / DEG).toFixed(0)}°` : 'no foot rests',
    frame: worst?.frame,
  };
}

function turned(x: number, z: number, angle: number): [number, number] {
  const v = new Float64Array([x, 0, z]);
  turnLeft(v, 0, angle);
  return [v[0], v[2]];
}
