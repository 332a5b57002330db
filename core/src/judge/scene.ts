import type { Case } from './case';
import { holdingOf, middle, type Holding, type Standing } from './look/holding';
import { leftOf, restsBeside } from './look/known';
import { ledOf } from './look/led';
import { look, type Look } from './look/look';
import type { PointKind } from './look/points';
import { restsIn } from './look/rests';
import { makeSkin, type Skin } from './look/skin';
import { heightOver, levelFloors } from './look/slope';
import { floorUnder } from './look/under';
import { unlikeness } from './look/unlike';
import { gripOf, type Grip } from './look/grip';
import { meetingOf, meetingsIn, type Meeting } from './look/meets';
import { onBodyOf, type OnBody } from './look/onBody';

/** All that the measures of one case look at, made once. */
export interface Scene {
  readonly given: Case;
  readonly skin: Skin;
  readonly seen: Look;
  /** 1 for frames of a known fault of the take. */
  readonly left: Uint8Array;
  readonly leftFrames: number;
  /** The performer's rests with the middle places of both bodies. */
  readonly rests: readonly Standing[];
  readonly holdings: Readonly<Record<PointKind, Holding>>;
  readonly legs: ReturnType<typeof unlikeness>;
  /** Heights of the performer's floor and of the character's, metres; on a slope, of both laid level. */
  readonly floor: number;
  readonly ground: number;
  readonly level: { readonly mine: number; readonly theirs: number } | undefined;
  /** By side, 1 for frames in which an arm says nothing: known faults, and while its hand is led by what it rests on or touches. */
  readonly led: ReadonlyMap<string, Uint8Array>;
  readonly meeting: Meeting;
  readonly grip: Grip | undefined;
  readonly onBody: OnBody | undefined;
  /** Height of a place of the performer over its floor, metres. */
  readonly overFloor: (place: Standing['theirs']) => number;
  /** A frame as a time in words. */
  readonly at: (frame: number) => string;
}

/** In place nothing stays where the performer's stays. */
const NOTHING: Holding = { rested: 0, held: 0, worst: undefined, notHeld: 0, lost: new Map() };

/** Looks at a case once, frame by frame; measures then take from it what they need. */
export function makeScene(given: Case): Scene {
  const { performer, character, take, scale } = given;
  const { frameTime } = take;
  const skin = makeSkin(character, given.skin);
  const left = leftOf(given);
  const seen = look(given, skin);
  const { points, mine, theirs, tilts } = seen;
  const count = points.length;
  const legs = unlikeness(performer, character);
  const rests = restsBeside(restsIn(take, performer, theirs, points), left)
    .map((rest): Standing => ({ ...rest, mine: middle(mine, count, rest), theirs: middle(theirs, count, rest) }))
    .filter((rest) => legs.isShared(rest, points[rest.point].name, seen.performerDeepest));
  const meetings = meetingsIn(points, theirs, seen.frames, frameTime, performer.legLength);
  const floor = floorUnder(seen, rests);
  const level = tilts && levelFloors(rests, tilts, given);
  const holding = (kind: PointKind): Holding =>
    given.inPlace ? NOTHING : holdingOf(rests, kind, points, mine, theirs, scale, frameTime, character.legLength);
  return {
    given,
    skin,
    seen,
    left,
    leftFrames: left.reduce((sum, v) => sum + v, 0),
    rests,
    holdings: { feet: holding('feet'), hands: holding('hands'), body: holding('body') },
    legs,
    floor,
    ground: floor * scale.lift + given.raised,
    level,
    led: ledOf(seen, rests, meetings, left, frameTime),
    meeting: meetingOf({ performer, character, points, mine, theirs }, meetings, left),
    grip: gripOf(given, points, mine, theirs),
    onBody: onBodyOf(given, points, mine, theirs, left),
    overFloor: (place) => (tilts && level ? heightOver(place, 0, tilts.theirs) - level.theirs : place[1] - floor),
    at: (frame) => `${(frame * frameTime).toFixed(1)} s`,
  };
}
