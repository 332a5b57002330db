import { fail } from '../errors';
import { shortened, wellFormed } from '../text';
import { MAX_CLIP_NAME, MAX_VALUE } from './limits';
import type { MotionFile } from './motionFile';

/**
 * Checks on a file of any format: names are well-formed and not too long, numbers are those of a body.
 * @throws FaultError clip/not-finite with joint and frame
 */
export function withinLimits(file: MotionFile): MotionFile {
  const { skeleton, clips } = file;
  const { names, restT } = skeleton;
  const refuse = (value: number, joint: number, frame?: number): never =>
    fail('clip/not-finite', `a place of ${value} is beyond any body; is the file damaged?`, { joint: names[joint], frame });
  for (let i = 0; i < restT.length; i++) if (!(Math.abs(restT[i]) <= MAX_VALUE)) refuse(restT[i], Math.floor(i / 3));
  for (const { moves, sizes = [] } of clips) {
    for (const { joint, values } of [...moves, ...sizes]) {
      for (let i = 0; i < values.length; i++) if (!(Math.abs(values[i]) <= MAX_VALUE)) refuse(values[i], joint, Math.floor(i / 3) + 1);
    }
  }
  const tidy = (name: string): string => shortened(wellFormed(name).trim(), MAX_CLIP_NAME) || 'unnamed';
  return { ...file, clips: clips.map((clip) => ({ ...clip, name: tidy(clip.name) })) };
}
