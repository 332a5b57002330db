import type { SolveChoices } from '@hollow-stride/contract';
import type {
  Axes,
  BodyRest,
  Clap,
  ClapsFound,
  FaceTrack,
  FaceWeights,
  ResolvedTable,
  Clip,
  Contacts,
  Cycle,
  DeliveryChoices,
  Fault,
  Figure,
  Joining,
  PlacedClip,
  ReelContent,
  Layer,
  OwnTime,
  Recipe,
  Report,
  RestSeen,
  Series,
  Skeleton,
  Side,
  SkeletonChoices,
  TakeChoices,
  Touch,
  TouchUp,
  Volume,
  WatchedPoint,
} from '@hollow-stride/core';

import type { FloorPlan } from './floor-plan';

/** Messages between the page and the solver's worker. Buffers are transferred, not copied. */

/** A file to be fetched: SHA-256 of its content, or an address that starts with '/'; its name; and one of its clips. */
export interface FileSource {
  readonly file: string;
  readonly name: string;
  readonly clip: number;
}

/** A body to be made ready: a file, one of its clips, and what was decided about its skeleton. */
export interface BodySource extends FileSource {
  readonly skeleton: SkeletonChoices;
  /** The file that the skeleton is measured on; null measures this one. */
  readonly reference: FileSource | null;
}

export interface TakeSource extends BodySource {
  readonly choices: TakeChoices;
}

/** A recording to be fetched: SHA-256 of its content, and its name. */
export type RecordingSource = Pick<FileSource, 'file' | 'name'>;

export interface PairRequest {
  readonly take: TakeSource;
  readonly character: BodySource;
  readonly choices: SolveChoices;
  /** Those of the choices' touch-ups that concern this take. */
  readonly touchUps: readonly TouchUp[];
  /** Those of its layers. */
  readonly layers: readonly Layer[];
  /** The recording of the face that the take plays. */
  readonly face?: RecordingSource;
}

/** A request without the number of its job. */
export type SolverAsk =
  | { readonly kind: 'solve'; readonly pair: PairRequest }
  | { readonly kind: 'preview'; readonly pair: PairRequest; readonly frame?: number }
  | { readonly kind: 'deliver'; readonly pair: PairRequest; readonly delivery: DeliveryChoices }
  | { readonly kind: 'reel'; readonly reel: ReelRequest }
  | { readonly kind: 'find'; readonly what: FindRequest }
  | { readonly kind: 'sound'; readonly sound: RecordingSource }
  | { readonly kind: 'claps'; readonly pair: PairRequest; readonly sound: RecordingSource }
  | { readonly kind: 'deliver-lanes'; readonly reel: ReelRequest; readonly lanes: readonly number[]; readonly delivery: DeliveryChoices };

/** A sound as it is drawn. */
export interface SoundShown {
  readonly seconds: number;
  /** Lowest and highest sample of even parts, one after the other. */
  readonly peaks: Float32Array;
  /** Claps that are heard, seconds of the sound. */
  readonly claps: readonly Clap[];
}

/** A face as it plays on the character: what the recording says, what drives what, and the weights that come of it. */
export interface FaceShown {
  readonly track: FaceTrack;
  /** Seconds of the take at which the recorder's own second 0 lies. */
  readonly offset: number;
  readonly table: ResolvedTable;
  readonly weights: FaceWeights;
}

/** A reel to be played: its content, and the pair of each take and character that it plays. */
export interface ReelRequest {
  readonly content: ReelContent;
  /** By `take character`. */
  readonly pairs: Readonly<Record<string, PairRequest>>;
}

/** A cycle that is looked for in a result, or where one result goes over into another. */
export type FindRequest =
  { readonly kind: 'cycle'; readonly pair: PairRequest } | { readonly kind: 'joining'; readonly a: FoundPiece; readonly b: FoundPiece };
interface FoundPiece {
  readonly pair: PairRequest;
  /** Seconds of the result; null is its own start or end. */
  readonly from: number | null;
  readonly to: number | null;
}

/** A lane as it plays; a fault where it cannot. */
export interface LanePlayed {
  readonly display: DisplayBody;
  readonly clip: Clip;
  readonly placed: readonly PlacedClip[];
  readonly slide: { readonly worst: number; readonly frame: number };
}
export interface ReelPlayed {
  readonly content: ReelContent;
  readonly frames: number;
  readonly lanes: readonly (LanePlayed | { readonly fault: Fault })[];
}

/** A bone as thick as its skin, from a joint to one below it. */
export interface Capsule {
  readonly from: number;
  readonly to: number;
  /** Metres. */
  readonly radius: number;
}

/** A skeleton with what the stage needs to draw it. */
export interface DisplayBody {
  readonly skeleton: Skeleton;
  /** Joints that are drawn larger: those with a role. */
  readonly labelled: Uint8Array;
  readonly hips: number;
  /** Feet, hands and hips, with their side. */
  readonly ends: readonly { readonly joint: number; readonly side: Side | undefined }[];
  readonly height: number;
  /** Joints of things beside the body. */
  readonly props?: readonly number[];
  /** Its touch points, the room that it keeps free, and the joints that the view can be framed on. */
  readonly about?: {
    readonly points: readonly WatchedPoint[];
    readonly volumes: readonly Volume[];
    readonly capsules: readonly Capsule[];
    readonly parts: Readonly<Record<string, number>>;
  };
  /** For a GLB file: hash of the file, node of each joint, and the scale of each joint's frame. */
  readonly mesh: { readonly file: string; readonly nodes: Int32Array; readonly scales: Float64Array } | undefined;
}

/** Height of one foot of the performer over its own floor, metres, and its speed, metres a second; frame by frame. */
export interface FootCurve {
  readonly side: 'left' | 'right';
  readonly heights: Float32Array;
  readonly speeds: Float32Array;
}

/** A floor that slopes: how, as a person sets it, and how it lies under each body. */
export interface FloorSlope {
  readonly degrees: number;
  readonly toward: number;
  readonly theirs: Incline;
  /** Undefined where the body is sent another way than the slope goes. */
  readonly mine: Incline | undefined;
}

/** Height over the lowest of a floor at (x, z): x · incline.x + z · incline.z − low, metres. */
export interface Incline {
  readonly x: number;
  readonly z: number;
  readonly low: number;
}

export interface Solved {
  readonly pair: PairRequest;
  /** The character's joint of each part of the body. */
  readonly roles: ReadonlyMap<string, number>;
  /** By which the amounts of its layers are told. */
  readonly axes: Axes;
  readonly performer: DisplayBody;
  readonly character: DisplayBody;
  readonly take: Clip;
  readonly solved: Clip;
  /** The motion without the layers over it; undefined where there are none. */
  readonly below: Clip | undefined;
  readonly plain: Clip;
  readonly contacts: Pick<Contacts, 'plants' | 'floor'> & { readonly slope?: FloorSlope };
  readonly touches: readonly Touch[];
  /** Things beside the body that the take records: the performer's role of each, and the character's joint where it has one. */
  readonly props: readonly { readonly role: string; readonly joint: number | undefined }[];
  /** Parts of the body on the floor. */
  readonly lying: readonly BodyRest[];
  /** How its frames lie in the take's own time, in which edits are kept. */
  readonly time: OwnTime;
  /** Rests that the judge saw. */
  readonly rests: readonly RestSeen[];
  /** Height of the character's floor, and both bodies on it from above, the performer scaled. */
  readonly floorHeight: number;
  readonly floor: { readonly mine: FloorPlan; readonly theirs: FloorPlan };
  readonly lift: number;
  readonly stride: number;
  readonly curves: readonly FootCurve[];
  /** Quantities of both bodies over the take. */
  readonly series: readonly Series[];
  readonly report: Report;
  readonly face?: FaceShown | undefined;
  /** Figures of the motion without its layers; undefined where there are none. */
  readonly figuresBelow: readonly Figure[] | undefined;
}

/** The motion with a changed setting, before it is judged. */
export interface Preview {
  readonly solved: Clip;
  readonly below: Clip | undefined;
  readonly contacts: Solved['contacts'];
  readonly touches: Solved['touches'];
  readonly lying: Solved['lying'];
  readonly floorHeight: number;
  readonly face: Solved['face'];
  /** False where only the frames about one are as they will be, and the others as they were. */
  readonly isWhole: boolean;
}

/** A delivered file, and what was said on the way to it. */
export interface Delivered {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly recipe: Recipe;
  readonly report: Report;
}

export type SolverGives =
  | { readonly kind: 'solved'; readonly solved: Solved }
  | { readonly kind: 'preview'; readonly preview: Preview }
  | { readonly kind: 'delivered'; readonly delivered: Delivered }
  | { readonly kind: 'reel'; readonly reel: ReelPlayed }
  | { readonly kind: 'found'; readonly cycle?: Cycle; readonly joining?: Joining }
  | { readonly kind: 'sound'; readonly sound: SoundShown }
  | { readonly kind: 'claps'; readonly claps: ClapsFound }
  | { readonly kind: 'lane'; readonly bytes: Uint8Array<ArrayBuffer> };

/** How far a piece of work is: its share done, and what is being done. */
export interface Progress {
  readonly share: number;
  readonly what: string;
}

/** A message on the line: a numbered request or its end; a numbered answer, a fault, or a note that the work was dropped. */
export type Numbered<Ask> = (Ask & { readonly job: number }) | { readonly kind: 'end'; readonly job: number };
export type Answered<Gives> =
  | (Gives & { readonly job: number })
  | { readonly kind: 'failed'; readonly job: number; readonly fault: Fault }
  | { readonly kind: 'dropped'; readonly job: number }
  | { readonly kind: 'progress'; readonly job: number; readonly progress: Progress };
