import {
  applyFix,
  bareBody,
  clipOf,
  copyPose,
  factsOf,
  findMistakes,
  jointsAside,
  labelFile,
  labelSkeleton,
  namesOfRoles,
  partnersOfJoints,
  prepareRig,
  railsOf,
  rangeCheck,
  samplePoses,
  type MotionFile,
  type RoleMap,
  type Skeleton,
  type SkeletonChoices,
} from '@hollow-stride/core';
import { displayBody } from '../solver/display';
import type { BodySource, DisplayBody } from '../solver/messages';
import type { BodyView, MistakeView } from './messages';

/** A skeleton as it is labelled now; one that is not whole yet is laid out so that it can be. */
export function bodyViewOf(file: MotionFile, source: BodySource, choices: SkeletonChoices = source.skeleton): BodyView {
  const { clip: clipIndex } = source;
  const { skeleton } = file;
  const poses = samplePoses(file, clipIndex);
  const labels = labelFile(file, clipIndex, choices);
  const automatic = labelSkeleton(skeleton, poses);
  const mistakes: MistakeView[] = findMistakes(skeleton, labels.roles, poses, automatic).map(({ fix, ...mistake }) => ({
    ...mistake,
    fixed: fix && namesOfRoles(skeleton, applyFix(labels.roles, fix)),
  }));
  const body = labels.missing.length === 0 ? prepareRig(file, clipIndex, choices, labels) : undefined;
  const bare = body ? undefined : bareBody(file, clipIndex, choices);
  const shown = body?.skeleton ?? bare!.skeleton;
  const rest = copyPose(body?.restPose ?? bare!.restPose);
  const heading = body ?? { left: Float64Array.of(1, 0, 0), forward: Float64Array.of(0, 0, 1) };
  const hasClip = (file.clips[clipIndex]?.frames ?? 0) > 1;
  return {
    source,
    display: body ? displayBody(body, file, source.file) : bareDisplay(shown, labels.roles, bare!.height),
    rest,
    facts: factsOf(file, clipIndex, choices),
    roles: Object.fromEntries(labels.roles),
    confidence: Object.fromEntries(labels.confidence),
    missing: labels.missing,
    mistakes,
    rails: railsOf(skeleton, labels.roles),
    partners: partnersOfJoints(skeleton),
    aside: jointsAside(skeleton.names),
    range: rangeCheck(shown, rest, labels.roles, heading),
    clip: !hasClip ? undefined : body ? clipOf(file, body, clipIndex) : bare!.clip,
  };
}

function bareDisplay(skeleton: Skeleton, roles: RoleMap, height: number): DisplayBody {
  const labelled = new Uint8Array(skeleton.names.length);
  for (const joint of roles.values()) labelled[joint] = 1;
  return { skeleton, labelled, hips: roles.get('hips') ?? 0, ends: [], height, mesh: undefined };
}
