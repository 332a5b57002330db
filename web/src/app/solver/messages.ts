import type { SolveChoices } from '@hollow-stride/contract';
import type { Clip, Contacts, Fault, OutputFormat, Report, Skeleton } from '@hollow-stride/core';

/** What the page asks of the solver's worker, and what it answers. Buffers are handed over, not copied. */

export interface PairRequest {
  readonly take: { readonly file: string; readonly name: string; readonly clip: number };
  readonly character: { readonly file: string; readonly name: string };
  readonly choices: SolveChoices;
}

export type SolverRequest =
  | { readonly kind: 'solve'; readonly job: number; readonly pair: PairRequest }
  | { readonly kind: 'deliver'; readonly job: number; readonly pair: PairRequest; readonly format: OutputFormat; readonly title: string };

/** A skeleton with what the stage needs to draw it. */
export interface DisplayBody {
  readonly skeleton: Skeleton;
  /** Joints that are drawn larger: those with a role. */
  readonly labelled: Uint8Array;
  readonly hips: number;
  readonly height: number;
  /** For a GLB file: hash of the file, node of each joint, and the scale of each joint's frame. */
  readonly mesh: { readonly file: string; readonly nodes: Int32Array; readonly scales: Float64Array } | undefined;
}

/** Height of one foot of the performer over its own floor, metres, frame by frame. */
export interface FootCurve {
  readonly side: 'left' | 'right';
  readonly heights: Float32Array;
}

export interface Solved {
  readonly pair: PairRequest;
  readonly performer: DisplayBody;
  readonly character: DisplayBody;
  readonly take: Clip;
  readonly solved: Clip;
  readonly plain: Clip;
  readonly contacts: Contacts;
  readonly floor: number;
  readonly lift: number;
  readonly stride: number;
  readonly curves: readonly FootCurve[];
  readonly report: Report;
}

export type SolverAnswer =
  | { readonly kind: 'solved'; readonly job: number; readonly solved: Solved }
  | { readonly kind: 'delivered'; readonly job: number; readonly bytes: Uint8Array<ArrayBuffer> }
  | { readonly kind: 'failed'; readonly job: number; readonly fault: Fault }
  | { readonly kind: 'dropped'; readonly job: number };
