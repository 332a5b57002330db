import { ClipReader, type Clip } from '../clip';
import type { MotionFile } from '../formats';
import { assignRoles, labelSkeleton, type Labels } from '../label';
import { DEFAULT_SKELETON, type SkeletonChoices } from '../recipe';
import { restPose } from '../skeleton';

/** Frames of a clip that labels are told from, beside the rest pose. */
const POSES = 5;

/**
 * Labels a file's skeleton: as a person decided, as the file's own body map says, or by names and structure, looking at its
 * rest pose and at a few frames of a clip.
 */
export function labelFile(file: MotionFile, clipIndex = 0, { labels }: Pick<SkeletonChoices, 'labels'> = DEFAULT_SKELETON): Labels {
  if (labels) return assignRoles(file.skeleton, labels, 'label');
  if (file.bodyMap) {
    const mapped = assignRoles(file.skeleton, file.bodyMap, 'body map');
    if (mapped.missing.length === 0) return mapped;
  }
  return labelSkeleton(file.skeleton, samplePoses(file, clipIndex));
}

/** World positions of the rest pose and of a few frames of a clip: what labels are told from. */
export function samplePoses(file: MotionFile, clipIndex = 0): Float64Array[] {
  const clip = file.clips[clipIndex] as Clip | undefined;
  const poses = [restPose(file.skeleton).positions];
  if (clip !== undefined && clip.frames > 0) {
    const reader = new ClipReader(file.skeleton, clip);
    for (let i = 0; i < POSES; i++) {
      poses.push(reader.at(Math.floor((i * (clip.frames - 1)) / (POSES - 1))).positions.slice());
    }
  }
  return poses;
}
