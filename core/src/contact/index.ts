import type { Clip } from '../clip';
import { DEFAULT_DETECTION, type Detection } from '../recipe';
import type { Rig } from '../rig';
import { findBody } from './body';
import { findHands } from './hands';
import { findPlants, type Contacts } from './plants';
import { traceProbes } from './probes';

export { findPlants, PLANT_LIMITS, type Contacts, type Creep, type Plant } from './plants';
export { PROBE, traceProbes, type ProbeTrack } from './probes';
export { findHands, TOUCH_LIMITS, type Hands, type Touch } from './hands';
export { findBody, type BodyContacts, type BodyRest } from './body';
export { OUT, partsFor, type BodyPartBone, type NearBody } from './onBody';
export { editPlants, editRests, editTouches } from './edits';

/**
 * Where the performer's feet are planted and what its hands touch, from performer and clip alone.
 * @param clip on the performer's skeleton, metres, Y up
 * @param detection how readily they are found
 */
export function findContacts(performer: Rig, clip: Clip, detection: Detection = DEFAULT_DETECTION): Contacts {
  const plants = findPlants(traceProbes(performer, clip), clip.frames, clip.frameTime, performer.legLength, detection);
  return { ...plants, hands: findHands(performer, clip, detection.handsSpeed), body: findBody(performer, clip, plants.floor) };
}
