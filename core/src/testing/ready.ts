import type { Clip } from '../clip';
import type { MotionFile } from '../formats';
import { clipOf, prepareRig, type Rig } from '../rig';
import { makeFile, type Shape, type Style } from './bodies';
import type { Motion } from './motion';

/** A made-up performer: its file, its rig, and its first motion in metres with Y up. */
export interface Performer {
  readonly file: MotionFile;
  readonly rig: Rig;
  readonly clip: Clip;
}

/** States a shape and its motion as a file and makes both ready. */
export function performerOf(shape: Shape, motion: Motion, style: Style = {}): Performer {
  const file = makeFile(shape, style, motion);
  const rig = prepareRig(file);
  return { file, rig, clip: clipOf(file, rig) };
}
