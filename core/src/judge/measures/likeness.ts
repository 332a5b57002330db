import { SIDES, type Role } from '../../label';
import { DEG } from '../../math/trig';
import type { Found } from '../figure';
import { isDown, lyingFrames } from '../look/holding';
import type { Scene } from '../scene';

/** Arms may stand off by so many degrees while hands meet, or are otherwise led. */
const MET_LIKENESS = 10;
/** Legs may stand off by so many degrees while the body lies or kneels: its own thickness lifts the hips. */
const LYING_LIKENESS = 8;
/** A mirror image must fit this much better, and the straight one this badly (mean square of unit directions). */
const MIRROR = 0.6;
const APART = 0.02;

function likeness({ seen }: Scene, id: 'likeness.arms' | 'likeness.legs', pattern: RegExp, loosen: number): Found {
  const list = [...seen.angles].filter(([role]) => pattern.test(role));
  const worst = list.reduce<[Role, number] | undefined>((a, b) => (a === undefined || b[1] > a[1] ? b : a), undefined);
  return {
    id,
    value: list.length === 0 ? NaN : list.reduce((sum, [, angle]) => sum + angle, 0) / list.length / DEG,
    looked: `${list.length} segments, ${seen.compared} frames`,
    words: worst ? `most ${worst[0]}, ${(worst[1] / DEG).toFixed(1)}°` : 'nothing alike',
    loosen,
  };
}

/** Mean angle between the arms of both; hands that meet, touch the body or the floor, or hold a thing of its own size bend arms otherwise. */
export function likenessOfArms(scene: Scene): Found {
  const { meeting, onBody, grip, given, seen, rests, overFloor } = scene;
  const down = rests.filter(
    (rest) => /palm/.test(seen.points[rest.point].name) && isDown(rest, overFloor(rest.theirs), given.performer.legLength),
  );
  const onFloor = down.reduce((sum, { first, last }) => sum + last - first + 1, 0) / SIDES.length;
  const busy = meeting.frames + onFloor + ((onBody?.seconds ?? 0) + (grip?.seconds ?? 0)) / given.take.frameTime;
  return likeness(scene, 'likeness.arms', /upperArm|lowerArm/, MET_LIKENESS * Math.min(1, busy / seen.frames));
}

/** Mean angle between the legs of both. */
export function likenessOfLegs(scene: Scene): Found {
  const { rests, floor, given, seen } = scene;
  const lying = lyingFrames(rests, floor, given.performer.legLength);
  return likeness(scene, 'likeness.legs', /Leg|hock|fetlock/, (LYING_LIKENESS * lying) / seen.frames);
}

/** Whether the character does what the performer's mirror image would. */
export function mirrored({ seen }: Scene): Found {
  const size = Math.max(1, seen.compared * seen.angles.size);
  const is = seen.apart.straight / size > APART && seen.apart.mirrored < MIRROR * seen.apart.straight;
  return {
    id: 'mirrored',
    value: seen.angles.size === 0 ? NaN : is ? 1 : 0,
    looked: `${seen.angles.size} segments`,
    words: is ? 'left and right are exchanged' : 'no',
  };
}
