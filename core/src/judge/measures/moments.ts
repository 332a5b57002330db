import { percentile } from '../../math/filter';
import { DEG } from '../../math/trig';
import { frameOrNone, type Found } from '../figure';
import { offOf } from '../look/directions';
import { freeOf } from './free';
import type { Scene } from '../scene';
import { worstStretch } from './stretch';

function moment(scene: Scene, id: 'moment.arms' | 'moment.legs', part: 'arms' | 'legs'): Found {
  const { seen, given, at } = scene;
  let worst = { value: NaN, frame: -1, name: '' };
  let count = 0;
  for (const direction of seen.directions) {
    if (direction.part !== part) continue;
    count++;
    const off = offOf(direction);
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

/** The quarter of a second in which an arm stands farthest off the performer's, beyond what it does usually. */
export const momentOfArms = (scene: Scene): Found => moment(scene, 'moment.arms', 'arms');
/** The same for legs. */
export const momentOfLegs = (scene: Scene): Found => moment(scene, 'moment.legs', 'legs');
