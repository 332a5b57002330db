import type { Clip } from '../clip';
import type { Fault } from '../errors';
import type { Skeleton } from '../skeleton';
import type { BvhLayout } from './bvh/layout';
import type { GlbLayout } from './glb/layout';
import type { SkinPoints } from './glb/skinPoints';

/** What kind of file something came from. */
export type FileFormat = 'bvh' | 'glb' | 'vrm' | 'acclaim';

/** What a file holds, in the file's own unit and axes, with what is needed to write it again. */
export interface MotionFile {
  readonly name: string;
  /** Where that is more than the layout says. */
  readonly format?: FileFormat;
  readonly skeleton: Skeleton;
  readonly clips: readonly Clip[];
  /** What is odd but usable. */
  readonly warnings: readonly Fault[];
  readonly layout: BvhLayout | GlbLayout;
  /** Metres per unit as the file itself says, for formats that do. */
  readonly unitHint?: { readonly metres: number; readonly reason: string };
  /** Joint name, without prefix, of each role that the file itself names (an avatar's body map). */
  readonly bodyMap?: Readonly<Record<string, string>>;
  /** Mesh points bound to the skeleton, where the file has a skin. */
  readonly skin?: SkinPoints;
}
