import type { Clip } from '../clip';
import type { SkinPoints } from '../formats';
import type { Rig } from '../rig';

/**
 * A case for the judge: a motion of a character beside the take that it came from. Nothing here comes from the solver but the motion
 * itself; where the performer rests, what should move and what should not is found out by looking.
 */
export interface Case {
  readonly performer: Rig;
  /** As it was solved: metres, Y up. */
  readonly take: Clip;
  readonly character: Rig;
  /** Frame for frame beside the take. */
  readonly result: Clip;
  /** The character's skin, in its file's unit and axes; undefined for a skeleton without one. */
  readonly skin: SkinPoints | undefined;
  /** How the performer's places become the character's. */
  readonly scale: { readonly stride: number; readonly lift: number };
  /** Metres from the performer's floor, scaled, up to the character's: other than 0 where the floor was put elsewhere. */
  readonly raised: number;
  /** Metres that the performer's floor rises per metre along X and Z; undefined for a level floor. */
  readonly slope?: { readonly x: number; readonly z: number };
  /** How far the body was sent another way than the performer's, to the left, radians, frame by frame; undefined where it was not. */
  readonly heading?: Float64Array;
  /** Travel over the floor was taken out: what stands on the floor then slides by design. */
  readonly inPlace: boolean;
  /** Things beside the body that both skeletons have: joints of the character and of the performer. */
  readonly props?: readonly { readonly name: string; readonly mine: number; readonly theirs: number }[];
  /** Share of their length by which limbs may be drawn out; 0 by default. */
  readonly stretch?: number;
}
