import type { MotionFile } from '../formats';
import type { SkeletonChoices } from '../recipe';
import { measureReference } from './reference';
import { labelFile } from './labelled';

/**
 * Decisions about a skeleton with the measure of the file that speaks for it. A file that cannot be labelled whole measures nothing:
 * the take or character itself then speaks, and says why it cannot.
 */
export function measuredOn(choices: SkeletonChoices, file: MotionFile, clip: number): SkeletonChoices {
  const labels = labelFile(file, clip, choices);
  return labels.missing.length > 0 ? choices : { ...choices, reference: measureReference(file, labels, clip, choices) };
}
