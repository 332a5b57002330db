import { ClipReader } from '../../clip';
import { isBelow } from '../../skeleton';
import { ENOUGH, frameOrNone, mm, type Found } from '../figure';
import { LIMITS } from '../limits';
import { slidingOf, type Standing } from '../look/holding';
import { heightOf } from '../look/skin';
import type { Scene } from '../scene';
import { hoverOf } from './hover';

/** Direction of resting feet over the floor. */
export function slide({ given, seen, rests, at }: Scene): Found {
  const { frameTime } = given.take;
  const { travel, performerTravel, seconds, worst } = slidingOf(rests, seen.points, seen.mine, seen.theirs, given.scale.stride, frameTime);
  const enough = seconds >= ENOUGH && !given.inPlace;
  const performer = enough ? (1000 * performerTravel) / seconds : NaN;
  return {
    id: 'slide',
    value: enough ? (1000 * travel) / seconds : NaN,
    looked: `${seconds.toFixed(1)} s of rests`,
    words:
      worst && worst.excess > 0.002
        ? `worst the ${seen.points[worst.rest.point].name} at ${at(worst.rest.first)}: ${mm(worst.excess)} more than the performer`
        : 'no foot slides more than the performer’s',
    frame: worst?.rest.first,
    performer,
    // Motion of the performer's feet may be followed.
    loosen: Math.max(0, performer - LIMITS.slide.good) || 0,
  };
}

/** Deepest of the skin below the floor. */
export function sink({ given, seen, skin, floor, ground, level, at }: Scene): Found {
  const under = level ?? { mine: ground, theirs: floor };
  const parts = (['feet', 'hands', 'body'] as const).map((part) => ({
    part,
    ...seen.deepest[part],
    depth: under.mine - seen.deepest[part].height,
  }));
  const worst = parts.reduce((a, b) => (b.depth > a.depth ? b : a));
  const words = parts
    .filter((part) => part.depth > 0.0005)
    .map(({ part, depth, frame, joint }) => `${part} ${mm(depth)} at ${at(frame)} (${given.character.skeleton.names[joint]})`)
    .join('; ');
  return {
    id: 'sink',
    value: Math.max(0, worst.depth) * 1000,
    looked: `${seen.skinFrames} frames, ${skin.count} points of ${skin.known === 'mesh' ? 'the skin' : 'capsules'}`,
    words: words === '' ? 'nothing below the floor' : words,
    frame: worst.depth > 0.0005 ? worst.frame : undefined,
    performer: Math.max(0, under.theirs - seen.performerLowest) * given.scale.lift * 1000,
  };
}

/** Mean distance of the skin of resting feet from what they should rest on. */
export function float(scene: Scene): Found {
  const { given, seen, rests, floor, ground, at } = scene;
  const count = seen.points.length;
  const underOf = undersoleOf(scene);
  let sum = 0;
  let looked = 0;
  let worst = { away: 0, frame: -1 };
  for (const rest of rests) {
    if (rest.kind !== 'feet') continue;
    const on = (rest.theirs[1] - floor) * given.scale.lift + ground - underOf(rest);
    for (let f = rest.first; f <= rest.last; f++) {
      const away = Math.abs(seen.mine[(f * count + rest.point) * 3 + 1] - on);
      sum += away;
      looked++;
      if (away > worst.away) worst = { away, frame: f };
    }
  }
  const seconds = looked * given.take.frameTime;
  return {
    id: 'float',
    value: seconds >= ENOUGH ? (sum / looked) * 1000 : NaN,
    looked: `${seconds.toFixed(1)} s of rests`,
    words: worst.frame < 0 ? 'no foot rests' : `at most ${mm(worst.away)}, at ${at(worst.frame)}`,
    frame: frameOrNone(worst.frame),
  };
}

/** How far a foot's skin reaches above its lowest point in a rest (below it, less than 0), metres: the mesh stands, not the points. */
function undersoleOf({ given, skin, seen }: Scene): (rest: Standing) => number {
  const { character, result } = given;
  const reader = new ClipReader(character.skeleton, result);
  const count = seen.points.length;
  const known = new Map<string, number>();
  return ({ point, first, last }) => {
    const side = seen.points[point].name.split(' ')[0];
    const f = (first + last) >> 1;
    // Rests of heel, ball and tip share a stance: one look in ten frames is enough.
    const key = `${side} ${Math.round(f / 10)}`;
    const before = known.get(key);
    if (before !== undefined) return before;
    const foot = character.feet.find((one) => one.side === side);
    const pose = reader.at(f);
    let low = Infinity;
    for (const group of skin.groups) {
      if (!foot || group.part !== 'feet' || !isBelow(character.skeleton, group.joint, foot.foot)) continue;
      for (const k of group.points) low = Math.min(low, heightOf(skin, k, pose));
    }
    let probe = Infinity;
    seen.points.forEach(({ kind, name }, i) => {
      if (kind === 'feet' && name.startsWith(side)) probe = Math.min(probe, seen.mine[(f * count + i) * 3 + 1]);
    });
    const gap = skin.known === 'mesh' && Number.isFinite(low) ? low - probe : 0;
    known.set(key, gap);
    return gap;
  };
}

/** How far the skin stays over the floor that the performer lies on. */
export function hover({ given, seen, skin, rests, overFloor, ground, at }: Scene): Found {
  if (seen.tilts) return { id: 'hover', value: NaN, looked: 'the floor slopes', words: 'not looked at on a slope' };
  const { seconds, away, what, frame } = hoverOf(given, skin, seen.points, rests, ({ theirs }) => overFloor(theirs), ground);
  return {
    id: 'hover',
    value: seconds >= ENOUGH ? away * 1000 : NaN,
    looked: `${seconds.toFixed(1)} s of rests`,
    words: what === '' ? 'what lies on the floor lies on it' : `${mm(away)} under the ${what} at ${at(frame)}`,
    frame: frameOrNone(frame),
  };
}
