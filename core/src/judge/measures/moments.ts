import { percentile } from '../../math/filter';
import { DEG } from '../../math/trig';
import { frameOrNone, type Found } from '../figure';
import { SIDES } from '../../label';
import { offOf } from '../look/directions';
import { isLowAnkle, offBeyond } from '../look/legsOff';
import { freeOf } from './free';
import type { Scene } from '../scene';
import { worstStretch } from './stretch';

function moment(scene: Scene, id: 'moment.arms' | 'moment.legs', part: 'arms' | 'legs'): Found {
  const { seen, given, at } = scene;
  let worst = { value: NaN, frame: -1, name: '' };
  let count = 0;
  const legs = part === 'legs' ? legsOff(scene) : undefined;
  for (const direction of seen.directions) {
    if (direction.part !== part) continue;
    count++;
    const off = legs?.get(direction.name) ?? offOf(direction);
    const usual = percentile(off, 0.5);
    const { value, frame } = worstStretch(off, freeOf(scene, direction), given.take.frameTime);
    if (frame >= 0 && !(value - usual <= worst.value)) worst = { value: value - usual, frame, name: direction.name };
  }
  return {
    id,
    value: worst.value / DEG,
    looked: `${count} segments, ${seen.frames} frames`,
    words: worst.frame < 0 ? 'too short to say' : `the ${worst.name} about ${at(worst.frame)}`,
    frame: frameOrNone(worst.frame),
  };
}

/** How far each thigh and shin is off beyond what its feet ask for, by name; of legs that are not compared bone by bone nothing. */
function legsOff({ seen, given, overFloor }: Scene): ReadonlyMap<string, Float64Array> {
  const off = new Map<string, Float64Array>();
  const place: [number, number, number] = [0, 0, 0];
  for (const side of SIDES) {
    const end = seen.copied.find(({ name }) => name === `${side} foot`);
    const [thigh, shin] = ['thigh', 'shin'].map((part) => seen.directions.find(({ name }) => name === `${side} ${part}`));
    if (!end || !thigh || !shin) continue;
    const isLow = (f: number): boolean => {
      for (let c = 0; c < 3; c++) place[c] = end.theirs[f * 3 + c];
      return isLowAnkle(overFloor(place), given.performer.legLength);
    };
    const both = offBeyond([thigh, shin], end.bones, given.scale, isLow);
    off.set(thigh.name, both[0]).set(shin.name, both[1]);
  }
  return off;
}

/** The quarter of a second in which an arm stands farthest off the performer's, beyond what it does usually. */
export const momentOfArms = (scene: Scene): Found => moment(scene, 'moment.arms', 'arms');
/** The same for legs. */
export const momentOfLegs = (scene: Scene): Found => moment(scene, 'moment.legs', 'legs');
