import { ENOUGH, frameOrNone, mm, type Found } from '../figure';
import type { Scene } from '../scene';

/** Hands that meet for less than this in all are too little to praise, seconds. */
const MET = 0.1;

/** How far hands are from each other where the performer's are next to each other. */
export function meet({ given, meeting, at }: Scene): Found {
  const { frames, away, first } = meeting;
  const seconds = frames * given.take.frameTime;
  return {
    id: 'meet',
    value: seconds >= MET && !given.inPlace ? away * 1000 : NaN,
    looked: `${seconds.toFixed(1)} s`,
    words: first < 0 ? 'the hands meet as the performer’s do' : `${mm(away)} off from ${at(first)} on`,
    frame: frameOrNone(first),
  };
}

/** How far palms are from the body where the performer's are on it. */
export function touch({ given, onBody, at }: Scene): Found {
  if (!onBody) return { id: 'touch', value: NaN, looked: 'no mesh to look at', words: 'the character has no mesh' };
  const { seconds, away, frame, what } = onBody;
  const enough = seconds >= ENOUGH && !given.inPlace;
  return {
    id: 'touch',
    value: enough ? away * 1000 : NaN,
    looked: `${seconds.toFixed(1)} s`,
    words: what === '' ? 'the hands come to the body as the performer’s do' : `most the ${what} at ${at(frame)}`,
    frame: enough ? frameOrNone(frame) : undefined,
  };
}

/** How palms go along a thing that moves with the performer's hands. */
export function grip({ grip: found, at }: Scene): Found {
  if (!found) return { id: 'grip', value: NaN, looked: 'no prop on both bodies', words: 'nothing beside the body is held' };
  const { seconds, away, frame, what } = found;
  return {
    id: 'grip',
    value: seconds >= ENOUGH ? away * 1000 : NaN,
    looked: `${seconds.toFixed(1)} s`,
    words: what === '' ? 'the hands keep to what they hold' : `most ${what} from ${at(frame)} on`,
    frame: frameOrNone(frame),
  };
}
