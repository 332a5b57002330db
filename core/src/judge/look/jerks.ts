export type JerkKind = 'knees' | 'elbows' | 'wrists' | 'neck' | 'hips';

/** What is watched for jerks, a number a frame of both bodies: of knees and elbows their bends, of hands and head their turns, radians; of hips their way, metres. */
export interface Jerk {
  readonly kind: JerkKind;
  readonly mine: Float64Array;
  readonly theirs: Float64Array;
}

/** A jerk of a kind, without any yet. */
export function stillJerk(kind: JerkKind, frames: number): Jerk {
  return { kind, mine: new Float64Array(frames), theirs: new Float64Array(frames) };
}
