import type {
  ByJoint,
  Clip,
  JointMap,
  UnitGuess,
  Fault,
  ClipFault,
  Facts,
  Ladder,
  MistakeKind,
  PairingSettings,
  Rail,
  RangeStep,
  Recipe,
  Residual,
  Role,
  SavedRest,
  Scale,
  Turns,
} from '@hollow-stride/core';
import type { BodySource, DisplayBody, PairRequest, TakeSource } from '../solver/messages';

/** Messages between the page and the worker for bodies. No whole take is solved there, so answers are quick. */

/** A world pose in metres, Y up. */
export interface PoseData {
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
}

export type RolesData = Readonly<Record<Role, number>>;

export interface MistakeView {
  readonly kind: MistakeKind;
  readonly role: Role;
  readonly joint: number;
  readonly why: string;
  readonly instead: string;
  /** All labels after the fix, joint names without prefix; undefined where only a person can tell. */
  readonly fixed: Readonly<Record<Role, string>> | undefined;
}

/** One skeleton as it is labelled now. */
export interface BodyView {
  readonly source: BodySource;
  readonly display: DisplayBody;
  readonly rest: PoseData;
  readonly facts: Facts;
  readonly roles: RolesData;
  readonly confidence: Readonly<Record<Role, number>>;
  readonly missing: readonly Role[];
  readonly mistakes: readonly MistakeView[];
  readonly rails: readonly Rail[];
  /** The joint on the other side for every joint, −1 for none. */
  readonly partners: Int32Array;
  /** Joints that a chain filled from its ends leaves out: twist joints and helpers by name. */
  readonly aside: readonly number[];
  /** The range check by these labels. */
  readonly range: { readonly clip: Clip; readonly steps: readonly { readonly step: RangeStep; readonly first: number }[] };
  readonly clip: Clip | undefined;
}

/** A take as it is recorded and as it is set. */
/** A fault of the samples: repaired, trimmed away, or still there. */
export interface TakeFault extends ClipFault {
  readonly state: 'repaired' | 'trimmed' | 'left';
}

export interface TakeView {
  readonly source: TakeSource;
  readonly display: DisplayBody;
  /** As recorded, the whole of it. */
  readonly before: Clip;
  /** As set, without the trim and the resampling: frame for frame beside the other. */
  readonly after: Clip;
  readonly facts: Facts;
  /** All faults of the samples, with what became of each; last those that are there only as it is set. */
  readonly faults: readonly TakeFault[];
  /** Frames of the take after trim and resampling, and its frame time. */
  readonly result: { readonly frames: number; readonly frameTime: number };
  readonly floor: number;
}

export interface MatchBody {
  readonly display: DisplayBody;
  readonly roles: RolesData;
  readonly rest: PoseData;
  readonly left: readonly [number, number, number];
  readonly forward: readonly [number, number, number];
  readonly height: number;
  readonly legLength: number;
  readonly unit: string;
  readonly unitReason: string;
  readonly restReason: string;
  readonly isRestClean: boolean;
}

export interface SegmentView extends Residual {
  /** Joint and end of the segment on each body; −1 where the performer has none. */
  readonly character: readonly [number, number];
  readonly performer: readonly [number, number];
}

/** A pairing as it stands: both bodies at rest, how far apart they are, scale and links. */
export interface MatchView {
  readonly pair: PairRequest;
  readonly performer: MatchBody;
  readonly character: MatchBody;
  /** The character as it is matched. */
  readonly matched: PoseData;
  readonly segments: readonly SegmentView[];
  readonly method: string;
  readonly scale: Scale;
  readonly ladders: readonly Ladder[];
  readonly extras: readonly { readonly name: string; readonly partner: string | undefined }[];
  /** Chains of the character that stand beside the body, as one of the performer's does; and their size over the performer's. */
  readonly props: readonly string[];
  readonly propSize: number;
  /** The performer's extra chains. */
  readonly performerExtras: readonly string[];
  readonly warnings: readonly Fault[];
  /** Frames about the one asked for, solved; the first of them in the take. */
  readonly window: { readonly clip: Clip; readonly first: number; readonly floor: number };
  /** Length of the take as it is set. */
  readonly frames: number;
  readonly frameTime: number;
}

/** A rig as it is paired joint by joint. */
export interface JointedBody {
  readonly display: DisplayBody;
  readonly rest: PoseData;
  /** By joint: its key, its name, and how many joints are above it. */
  readonly keys: readonly string[];
  readonly names: readonly string[];
  readonly depths: readonly number[];
  readonly unit: UnitGuess;
  readonly up: string;
  readonly upReason: string;
}

/** A pairing that goes joint by joint as it stands. */
export interface JointsView {
  readonly pair: PairRequest;
  readonly performer: JointedBody;
  readonly character: JointedBody;
  readonly map: JointMap;
  readonly settings: ByJoint;
  /** Motions of the character's own file, that the take can be laid into. */
  readonly motions: readonly { readonly name: string; readonly seconds: number }[];
  readonly warnings: readonly Fault[];
  readonly window: { readonly clip: Clip; readonly first: number };
  readonly frames: number;
  readonly frameTime: number;
  /** Frame at which the take begins in the motion that it is laid into. */
  readonly laidAt: number | undefined;
}

export type BodyAsk =
  | { readonly kind: 'body'; readonly source: BodySource }
  | { readonly kind: 'take'; readonly source: TakeSource }
  | { readonly kind: 'match'; readonly pair: PairRequest; readonly frame: number }
  | { readonly kind: 'joints'; readonly pair: PairRequest; readonly frame: number }
  | { readonly kind: 'press'; readonly source: BodySource; readonly press: string }
  | { readonly kind: 'keep'; readonly source: TakeSource; readonly frame: number | undefined; readonly name: string }
  | { readonly kind: 'recipe'; readonly pair: PairRequest; readonly name: string }
  | { readonly kind: 'fit'; readonly pair: PairRequest };

export type BodyGives =
  | { readonly kind: 'body'; readonly view: BodyView }
  | { readonly kind: 'take'; readonly view: TakeView }
  | { readonly kind: 'match'; readonly view: MatchView }
  | { readonly kind: 'joints'; readonly view: JointsView }
  | { readonly kind: 'press'; readonly turns: Turns }
  | { readonly kind: 'keep'; readonly rest: SavedRest }
  | { readonly kind: 'recipe'; readonly recipe: Recipe }
  | { readonly kind: 'fit'; readonly choices: PairingSettings; readonly dropped: readonly string[] };
