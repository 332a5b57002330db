import { rotate } from '../../math/quat';
import type { FootPath } from '../footPath';
import type { LimbTrack } from '../limbTrack';
import { propWants } from '../props';
import { resolveHands } from '../resolve/hands';
import { DEFAULT_SOLVE, type SolveSettings } from '../settings';
import { floorUnder } from './floor';
import type { HandsGiven } from './given';
import { roomOf } from './keepOut';
import { meetWants } from './meet';
import { alongOf, bodyWants } from './onBody';
import { restWants } from './rests';
import { shortOf, type Short } from './short';
import type { HandWant } from './wants';

/** Displacements of less than this, metres, are none. */
const NOTHING = 1e-6;

/** Where a hand goes, and by how much its arm is too short for that. */
export interface HandPath extends FootPath {
  readonly short: Short;
}

/**
 * Where both hands shall be. A hand that rests keeps its place but for what the performer's own hand moves in its rest; hands that
 * meet lie towards each other as the performer's do; one that holds a prop, or is on the own body, keeps to it. A hand keeps its turn in the
 * world, stays out of trunk and head, and never goes below the floor.
 * @param arms the arms through the posed and placed body, after the hips have given way
 * @returns undefined when no hand has to go anywhere
 */
export function planHands(
  given: HandsGiven,
  arms: readonly LimbTrack[],
  settings: Pick<SolveSettings, 'hands' | 'keepOut' | 'follow' | 'softReach' | 'stretch'> = DEFAULT_SOLVE,
): HandPath[] | undefined {
  const { pairing, contacts, frameTime, past } = given;
  const { hands } = contacts;
  const { character } = pairing;
  if (!hands || arms.length < 2 || character.hands.length < 2) return undefined;
  const { frames } = arms[0];
  const palms = arms.map((arm, k) => palmsOf(arm, character.hands[k].palm));
  // On the performer's own body hands are where the take has them.
  const onBody = pairing.same.same ? [] : bodyWants(given, arms, palms);
  const meetings = meetWants(given, palms);
  const wants = [...placeWants(given, arms, palms, true), ...meetings, ...onBody];
  const met = new Uint8Array(frames);
  for (const { first, last } of meetings) met.fill(1, first, last + 1);
  const follow = [settings.hands * settings.follow.leftArm, settings.hands * settings.follow.rightArm];
  const shifts = resolveHands({
    arms,
    wants,
    floors: floorUnder(given, palms),
    room: settings.keepOut ? roomOf(given, arms, met) : undefined,
    follow,
    frameTime,
    softReach: settings.softReach,
    stretch: settings.stretch,
    past,
  });
  if (!shifts) return undefined;
  const asked = placeWants(given, arms, palms, false);
  const along = onBody.length > 0 ? alongOf(onBody, arms.length, frames, frameTime) : undefined;
  return arms.map((arm, k) => {
    const held = new Uint8Array(frames);
    for (const { how, hand, first, last } of wants) if (how === 'towards' || hand === k) held.fill(1, first, last + 1);
    const short = shortOf(
      arm,
      asked.filter((want) => want.hand === k),
      shifts[k],
      follow[k],
      frameTime,
    );
    return { ...pathOf(arm, shifts[k]), held, short, ...(along && { along: along[k] }) };
  });
}

/**
 * What asks hands to places in the world: where they rest, and what they hold.
 * @param arms the arms through the posed and placed body
 * @param palms places of their palms; none for a body without two hands
 * @param reached places on the floor are lifted to where the arms reach them
 */
export function placeWants(
  { pairing, contacts, props, frameTime, floor }: Pick<HandsGiven, 'pairing' | 'contacts' | 'props' | 'frameTime' | 'floor'>,
  arms: readonly LimbTrack[],
  palms: readonly Float64Array[],
  reached: boolean,
): HandWant[] {
  const { hands } = contacts;
  if (!hands || palms.length < 2) return [];
  const floors = contacts.ground ? undefined : ([contacts.floor, floor] as const);
  const rests = { hands, pairing, floors, reached, frameTime };
  return [...palms.flatMap((palm, k) => restWants(rests, k, arms[k], palm)), ...propWants(contacts, props, palms, pairing.propSize)];
}

function pathOf({ data, stride, at, frames }: LimbTrack, shift: Float64Array): Omit<FootPath, 'held'> {
  const ankle = new Float64Array(frames * 3);
  const footQ = new Float64Array(frames * 4);
  const idle = new Uint8Array(frames);
  for (let f = 0; f < frames; f++) {
    if (Math.abs(shift[f * 3]) + Math.abs(shift[f * 3 + 1]) + Math.abs(shift[f * 3 + 2]) < NOTHING) {
      idle[f] = 1;
      continue;
    }
    for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.end + c] + shift[f * 3 + c];
    for (let c = 0; c < 4; c++) footQ[f * 4 + c] = data[f * stride + at.endQ + c];
  }
  return { ankle, footQ, toesQ: footQ, idle };
}

/** Places of a palm over time, 3 per frame. */
export function palmsOf({ data, stride, at, frames }: LimbTrack, palm: Float64Array): Float64Array {
  const out = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    rotate(out, f * 3, data, f * stride + at.endQ, palm, 0);
    for (let c = 0; c < 3; c++) out[f * 3 + c] += data[f * stride + at.end + c];
  }
  return out;
}
