import { fail, type Fault } from '../errors';
import type { MotionFile } from '../formats';
import { findMistakes, REQUIRED_ROLES, type Labels, type Mistake, type RoleMap } from '../label';
import { samplePoses } from '../rig';

/** Likely mistakes in labels as cautions, and doubts about all of them. */
export function cautionsOfLabels(file: MotionFile, labels: Labels, clipIndex: number): Fault[] {
  if (labels.missing.length > 0) return [];
  const poses = samplePoses(file, clipIndex);
  const mistakes = findMistakes(file.skeleton, labels.roles, poses, undefined);
  return [...mistakes.map((mistake) => asCaution(file, mistake)), ...doubtsOf(file, labels, poses)];
}

/** Needed roles that were found with less than this on average are said to be doubtful, 0…1: names give 0.9 and more, shape alone 0.7, shape with doubtful sides 0.5. */
const DOUBTFUL = 0.65;

function doubtsOf(file: MotionFile, { roles, confidence }: Labels, poses: readonly Float64Array[]): Fault[] {
  const doubts: Fault[] = [];
  const trust = REQUIRED_ROLES.map((role) => confidence.get(role) ?? 0);
  const mean = trust.reduce((sum, one) => sum + one, 0) / trust.length;
  if (mean < DOUBTFUL) {
    const message = `the needed roles were found with ${Math.round(mean * 100)} % certainty; check them on Label before you go on`;
    doubts.push({ code: 'label/uncertain', message, where: { file: file.name } });
  }
  if (isFourLegged(roles, poses)) {
    const message =
      'the body goes on four legs: its front legs are labelled as arms, and are held where they rest as hands are; a take of another such body suits it';
    doubts.push({ code: 'label/four-legs', message, where: { file: file.name } });
  }
  return doubts;
}

/** On four legs arms and legs point the same way, and across the trunk; told without knowing which way is up. */
function isFourLegged(roles: RoleMap, poses: readonly Float64Array[]): boolean {
  const at = (role: string): number | undefined => roles.get(role);
  const pairs = ['left', 'right'].map((side) => ['upperArm', 'hand', 'upperLeg', 'foot'].map((part) => at(`${side}.${part}`)));
  const isSo = (pose: Float64Array): boolean =>
    pairs.every(([shoulder, hand, hip, foot]) => {
      if (shoulder === undefined || hand === undefined || hip === undefined || foot === undefined) return false;
      return cosine(pose, shoulder, hand, hip, foot) > 0.8 && Math.abs(cosine(pose, hip, shoulder, hip, foot)) < 0.5;
    });
  return poses.filter(isSo).length > poses.length / 2;
}

/** Cosine of the angle between two joints' line and another's; 0 where one has no length. */
function cosine(pose: Float64Array, a: number, b: number, c: number, d: number): number {
  let [dot, first, second] = [0, 0, 0];
  for (let i = 0; i < 3; i++) {
    const [u, v] = [pose[b * 3 + i] - pose[a * 3 + i], pose[d * 3 + i] - pose[c * 3 + i]];
    dot += u * v;
    first += u * u;
    second += v * v;
  }
  return first * second > 0 ? dot / Math.sqrt(first * second) : 0;
}

function asCaution(file: MotionFile, mistake: Mistake): Fault {
  return {
    code: 'label/mistake',
    message: `${mistake.why}: ${mistake.instead}`,
    where: { file: file.name, joint: file.skeleton.names[mistake.joint] },
  };
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
