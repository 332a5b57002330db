import {
  ClipReader,
  clipToBasis,
  copyPose,
  DEFAULT_SKELETON,
  fileOfStream,
  prepareAny,
  type Opening,
  type Pose,
  type Rig,
  type Skeleton,
  type StreamFrame,
} from '@hollow-stride/core';
import { displayBody } from '../../solver/display';
import type { DisplayBody } from '../../solver/messages';
import type { HeldBy } from './held';

/** A stream's body, posed frame by frame. */
export class LiveBody {
  readonly display: DisplayBody;
  /** What a calibration goes by; undefined for what is no body. */
  readonly held: HeldBy | undefined;
  private readonly own: Skeleton;
  private readonly rig: Rig;

  constructor(readonly opening: Opening) {
    const file = fileOfStream(opening);
    this.own = file.skeleton;
    this.rig = prepareAny(file, 0, { ...DEFAULT_SKELETON, unit: opening.metres, up: opening.up });
    this.display = displayBody(this.rig, file, '');
    const { roles, sole } = this.rig;
    const [left, right] = [roles.get('left.upperLeg'), roles.get('right.upperLeg')];
    this.held = left === undefined || right === undefined ? undefined : { left, right, sole: sole.depth };
  }

  /** The body as a frame has it, metres, Y up. */
  pose({ turns, place }: StreamFrame): Pose {
    const clip = { name: '', frameTime: 1, frames: 1, rotations: turns, moves: [{ joint: 0, values: place }] };
    return copyPose(new ClipReader(this.rig.skeleton, clipToBasis(this.own, clip, this.rig.basis)).at(0));
  }
}
