import { fail, type Fault } from '../errors';
import type { MotionFile } from '../formats';
import { findMistakes, type Labels, type Mistake } from '../label';
import { samplePoses } from '../rig';

/** Likely mistakes in labels as cautions; what would tear the body apart says so. */
export function cautionsOfLabels(file: MotionFile, labels: Labels, clipIndex: number): Fault[] {
  return mistakesOf(file, labels, clipIndex).map((mistake) => ({
    code: 'label/mistake',
    message: `${mistake.why}: ${mistake.instead}`,
    where: { file: file.name, joint: file.skeleton.names[mistake.joint] },
  }));
}

/**
 * Stops work on labels that would break the body.
 * @returns the doubtful ones, as cautions
 * @throws FaultError label/mistake, with what is wrong and the way out
 */
export function checkLabels(file: MotionFile, labels: Labels, clipIndex: number): Fault[] {
  const breaking = mistakesOf(file, labels, clipIndex).find(({ breaks }) => breaks);
  if (breaking) {
    fail('label/mistake', `${breaking.why}. As labelled the body would break apart; ${breaking.instead}, on Label or in the recipe`, {
      file: file.name,
      joint: file.skeleton.names[breaking.joint],
    });
  }
  return cautionsOfLabels(file, labels, clipIndex);
}

function mistakesOf(file: MotionFile, labels: Labels, clipIndex: number): Mistake[] {
  if (labels.missing.length > 0) return [];
  return findMistakes(file.skeleton, labels.roles, samplePoses(file, clipIndex), undefined);
}
