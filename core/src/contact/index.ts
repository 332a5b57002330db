import type { Clip } from '../clip';
import { DEFAULT_DETECTION, type Detection } from '../recipe';
import type { Rig } from '../rig';
import { bodyIn, watchBody } from './body';
import { handsIn, watchHands } from './hands';
import { watchOnBody } from './onBody';
import { watchProps } from './props';
import { findLevelFloor, findPlants, type Contacts } from './plants';
import { watchProbes } from './probes';
import { watch } from './watch';

export { type Creep } from './creep';
export { findPlants, type Contacts } from './plants';
export { PLANT_LIMITS, type Plant } from './stands';
export { traceProbes, type ProbeTrack } from './probes';
export { findHands, TOUCH_LIMITS, type Hands, type Touch } from './hands';
export { slopeInDegrees, type Ground, type Slope } from './slope';
export { type PropTrack } from './props';
export { type BodyContacts, type BodyRest } from './body';
export { carryingHands, isOnFloor, type Carrying } from './carry';
export { OUT, partsFor, type BodyPartBone, type NearBody } from './onBody';
export { cutContacts } from './cut';
export { editPlants, editRests, editTouches, emptyTouches } from './edits';

/** How high a level floor lies under a performer's feet, metres. @param clip on the performer's skeleton, metres, Y up */
export function findFloor(performer: Rig, clip: Clip): number {
  const { frames, frameTime } = clip;
  const probes = watchProbes(performer, frames);
  watch(performer.skeleton, clip, [probes]);
  return findLevelFloor(probes.tracks, frames, frameTime, performer.legLength);
}

/**
 * Where the performer's feet are planted and what its hands touch, from performer and clip alone.
 * @param clip on the performer's skeleton, metres, Y up
 * @param detection how readily they are found
 * @param goesOn more frames come behind the last
 */
export function findContacts(performer: Rig, clip: Clip, detection: Detection = DEFAULT_DETECTION, goesOn = false): Contacts {
  const { frames, frameTime } = clip;
  const probes = watchProbes(performer, frames);
  const hands = watchHands(performer, frames);
  const onBody = watchOnBody(performer, frames);
  const body = watchBody(performer, frames);
  const props = watchProps(performer, frames);
  watch(performer.skeleton, clip, [probes, hands, onBody, body, props]);
  const plants = findPlants(probes.tracks, frames, frameTime, performer.legLength, detection);
  return {
    ...plants,
    hands: handsIn({ hands, body: onBody, props }, performer, clip, {
      ease: detection.handsSpeed,
      floor: plants.ground ? undefined : plants.floor,
      goesOn,
    }),
    body: bodyIn(body, performer, clip, plants.floor),
  };
}
