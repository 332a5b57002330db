import { ClipReader, type Clip } from '../clip';
import { withAncestors, type Pose, type Skeleton } from '../skeleton';

/** Something that looks at every frame of a clip. */
export interface Watch {
  /** Joints that have to be posed for it. */
  readonly joints: readonly number[];
  readonly see: (frame: number, pose: Pose) => void;
}

/** Shows all frames of a clip to all who watch: each frame is posed once. */
export function watch(skeleton: Skeleton, clip: Clip, watches: readonly Watch[]): void {
  const reader = new ClipReader(
    skeleton,
    clip,
    withAncestors(
      skeleton.parents,
      watches.flatMap(({ joints }) => joints),
    ),
  );
  for (let f = 0; f < clip.frames; f++) {
    const pose = reader.at(f);
    for (let i = 0; i < watches.length; i++) watches[i].see(f, pose);
  }
}
