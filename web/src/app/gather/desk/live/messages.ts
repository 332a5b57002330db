import type { SolveChoices } from '@hollow-stride/contract';
import type { Fault, Opening, SkeletonChoices } from '@hollow-stride/core';
import type { BodySource, DisplayBody } from '../../../solver/messages';

/** A stream that is to be transferred onto a character while it comes. */
export interface LiveRequest {
  readonly opening: Opening;
  readonly character: BodySource;
  readonly choices: SolveChoices;
  /** Decisions about the performer's skeleton. */
  readonly performer: SkeletonChoices;
}

/** To the worker: what to do, then frame after frame. */
export type LiveAsk = { readonly kind: 'begin'; readonly request: LiveRequest } | { readonly kind: 'frame'; readonly bytes: Uint8Array };

/** From the worker. */
export type LiveTold =
  /** Share of what has to be seen of the performer, 0 to 1. */
  | { readonly kind: 'learning'; readonly share: number }
  | { readonly kind: 'begun'; readonly display: DisplayBody }
  | {
      readonly kind: 'frames';
      /** Numbers in the stream of the frames that have become final. */
      readonly numbers: readonly number[];
      /** The last of them: places and rotations of the joints in the world. */
      readonly positions: Float64Array;
      readonly rotations: Float64Array;
      /** Milliseconds of work that they took. */
      readonly work: number;
      /** Frames that were lost and not bridged. */
      readonly lost: number;
    }
  | { readonly kind: 'failed'; readonly fault: Fault };
