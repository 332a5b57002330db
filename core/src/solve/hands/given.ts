import type { Clip } from '../../clip';
import type { Contacts } from '../../contact';
import type { Pairing } from '../../match';
import type { Past } from '../past';
import type { PosePlan } from '../plan';
import type { PropPath } from '../props';
import type { RootPath } from '../root';

/** Inputs of the plan for a character's hands. */
export interface HandsGiven {
  readonly pairing: Pairing;
  readonly plan: PosePlan;
  /** Local rotations of the posed body; made when they are asked for. */
  readonly rotations: Float32Array;
  /** After the hips have given way. */
  readonly root: RootPath;
  readonly contacts: Contacts;
  /** Things that hands hold, where they are beside the character. */
  readonly props: readonly PropPath[];
  /** Where the hands were in frames that are final, how elbows swung and the body leant after them. */
  readonly past?: Pick<Past, 'frames' | 'known' | 'hands' | 'help' | 'elbows'>;
  /** The performer's motion. */
  readonly take: Clip;
  readonly frameTime: number;
  /** Height of the character's floor. */
  readonly floor: number;
}
