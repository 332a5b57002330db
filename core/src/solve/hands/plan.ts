import { rotate } from '../../math/quat';
import type { FootPath } from '../footPath';
import type { LimbTrack } from '../limbTrack';
import { propWants } from '../props';
import { resolveHands } from '../resolve/hands';
import { DEFAULT_SOLVE, type SolveSettings } from '../settings';
import { floorUnder } from './floor';
import type { HandsGiven } from './given';
import { roomOf } from './keepOut';
import type { BodyRooms } from './rooms';
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
 * @param rooms of the body, where hands are kept out of them
 * @returns undefined when no hand has to go anywhere
 */
export function planHands(
  given: HandsGiven,
  arms: readonly LimbTrack[],
  settings: Pick<SolveSettings, 'hands' | 'follow' | 'softReach' | 'stretch'> = DEFAULT_SOLVE,
  rooms?: BodyRooms,
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
    room: rooms && roomOf(given, rooms, arms, met),
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

function pathOf(arm: LimbTrack, shift: Float64Array): Omit<FootPath, 'held'> {
  const { frames } = arm;
  const path = { ankle: new Float64Array(frames * 3), footQ: new Float64Array(frames * 4), idle: new Uint8Array(frames) };
  for (let f = 0; f < frames; f++) {
    const size = Math.abs(shift[f * 3]) + Math.abs(shift[f * 3 + 1]) + Math.abs(shift[f * 3 + 2]);
    if (size < NOTHING) path.idle[f] = 1;
    else placeAt(path, arm, f, shift);
  }
  return { ...path, toesQ: path.footQ };
}

/** Lets a hand be where it is copied to in a frame, displaced by a shift, and turned as it is. */
function placeAt(
  { ankle, footQ }: Pick<FootPath, 'ankle' | 'footQ'>,
  { data, stride, at }: LimbTrack,
  f: number,
  shift?: Float64Array,
): void {
  for (let c = 0; c < 3; c++) ankle[f * 3 + c] = data[f * stride + at.end + c] + (shift ? shift[f * 3 + c] : 0);
  for (let c = 0; c < 4; c++) footQ[f * 4 + c] = data[f * stride + at.endQ + c];
}

/** The path of an arm that swings too. @param path undefined where its hand stays as copied */
export function swinging(arm: LimbTrack, path: FootPath | undefined, swing: Float64Array | undefined): FootPath {
  const given = path ?? { ...pathOf(arm, new Float64Array(arm.frames * 3)), held: new Uint8Array(arm.frames) };
  if (!swing) return given;
  const { idle = new Uint8Array(arm.frames) } = given;
  const out = { ...given, swing, ankle: given.ankle.slice(), footQ: given.footQ.slice(), idle: idle.slice() };
  for (let f = 0; f < arm.frames; f++) {
    if (swing[f] === 0 || !idle[f]) continue;
    out.idle[f] = 0;
    placeAt(out, arm, f);
  }
  return { ...out, toesQ: out.footQ };
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
