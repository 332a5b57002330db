import type { Clip } from '../clip/clip';
import type { Fault } from '../errors';
import type { Skeleton } from '../skeleton/skeleton';
import type { BvhLayout } from './bvh/layout';
import type { GlbLayout } from './glb/layout';
import type { SkinPoints } from './glb/skinPoints';

/** What a file holds, in the file's own unit and axes, with what is needed to write it again. */
export interface MotionFile {
  readonly name: string;
  readonly skeleton: Skeleton;
  readonly clips: readonly Clip[];
  /** What is odd but usable. */
  readonly warnings: readonly Fault[];
  readonly layout: BvhLayout | GlbLayout;
  /** Mesh points bound to the skeleton, where the file has a skin. */
  readonly skin?: SkinPoints;
}
