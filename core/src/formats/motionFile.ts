import type { Clip } from '../clip';
import type { Fault } from '../errors';
import type { Skeleton } from '../skeleton';
import type { BvhLayout } from './bvh/layout';
import type { FaceTrack } from './face/track';
import type { GlbLayout } from './glb/layout';
import type { SkinPoints } from './glb/skinPoints';

/** Kind of a source file. */
export type FileFormat = 'bvh' | 'glb' | 'vrm' | 'acclaim';

/** Content of a file, in the file's unit and axes, with everything needed to write it again. */
export interface MotionFile {
  readonly name: string;
  /** Where that is more than the layout says. */
  readonly format?: FileFormat;
  readonly skeleton: Skeleton;
  readonly clips: readonly Clip[];
  /** Oddities that do not prevent use. */
  readonly warnings: readonly Fault[];
  readonly layout: BvhLayout | GlbLayout;
  /** Metres per unit as the file itself says, for formats that do. */
  readonly unitHint?: { readonly metres: number; readonly reason: string };
  /** Joint name, without prefix, of each role that the file itself names (an avatar's body map). */
  readonly bodyMap?: Readonly<Record<string, string>>;
  /** Mesh points bound to the skeleton, where the file has a skin. */
  readonly skin?: SkinPoints;
  /** Names of the face shapes (morph targets) that the file's meshes have, each once. */
  readonly shapes?: readonly string[];
  /** The face of each of the file's clips, where it moves one. */
  readonly faces?: readonly (FaceTrack | undefined)[];
}
