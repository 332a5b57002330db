import type { Plane } from '../../math/plane';
import type { Foot } from '../../rig';
import type { LimbTrack } from '../limbTrack';
import type { Past } from '../past';
import type { FootPlan } from '../stances';

/** What of feet and hips is final already. */
export interface FeetPast extends Past {
  /** Displacement of the hips, metres, 3 per frame. */
  readonly hips: Float64Array;
}

/** Everything that feet and hips are resolved from. */
export interface ResolveGiven {
  readonly legs: readonly LimbTrack[];
  readonly feet: readonly Foot[];
  readonly plans: readonly FootPlan[];
  /** Height of the character's floor, metres. */
  readonly floor: number;
  readonly isSloped: boolean;
  /** The floor that slopes under the character; undefined where it is level, or the body is steered another way. */
  readonly slope: Plane | undefined;
  readonly frameTime: number;
  readonly softReach: number;
  readonly stretch: number;
  /** How far each foot comes to its place, 0 to 1. */
  readonly follow: readonly number[];
  /** How much higher a person wants the hips, metres, one a frame. */
  readonly rise: Float64Array | undefined;
  /** 1 in frames in which the body itself rests; one a frame, smooth. */
  readonly resting: Float64Array | undefined;
  /** Scale by which the performer's heights become the character's. */
  readonly lift: number;
  /** The character is the performer's own body: no floor is under its feet but what the take has them stand on. */
  readonly isOwn: boolean;
  readonly past: FeetPast | undefined;
  /** Puts moved stances on the floor again. */
  readonly lay: () => void;
}
