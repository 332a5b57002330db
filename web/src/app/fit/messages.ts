import type { Clip, Fault, FitChoices, FitDoubt, GuessedStand, Landmarks, MeshFacts, Pose, RangeStep } from '@hollow-stride/core';
import type { DisplayBody, FileSource, TakeSource } from '../solver/messages';

/** Messages between the page of Fit and its worker. */

/** A mesh to be fetched, and what is decided about its skeleton. */
export interface FitSource {
  readonly mesh: Pick<FileSource, 'file' | 'name'>;
  readonly choices: FitChoices;
}

export type FitAsk =
  | { readonly kind: 'lay'; readonly source: FitSource }
  | { readonly kind: 'picture'; readonly source: FitSource; readonly view: PictureView }
  | { readonly kind: 'bind'; readonly source: FitSource; readonly name: string }
  | { readonly kind: 'try'; readonly source: FitSource; readonly name: string; readonly takes: readonly TakeSource[] };

/** A line of a skeleton, from joint to joint. */
export interface BoneLine {
  readonly name: string;
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
}

/** A mesh as it stands, with its landmarks and the skeleton through them. */
export interface LaidView {
  readonly facts: MeshFacts;
  readonly guessed: GuessedStand;
  readonly low: readonly [number, number, number];
  readonly high: readonly [number, number, number];
  readonly height: number;
  readonly middle: number;
  /** Share of the body that both of its sides have. */
  readonly likeness: number;
  readonly landmarks: Landmarks;
  readonly confidence: Readonly<Record<string, number>>;
  readonly hasHocks: boolean;
  readonly bones: readonly BoneLine[];
  readonly parts: readonly string[];
}

/** From where a picture is taken, and what it shows. */
export interface PictureView {
  /** Radians that the viewer stands to the body's left of its front. */
  readonly yaw: number;
  readonly width: number;
  readonly height: number;
  /** A joint whose weights are shown; all of them, each in a colour of its own; none. */
  readonly weights: string | 'all' | null;
}

/** A picture of a mesh without perspective. */
export interface Picture {
  readonly view: PictureView;
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
  /** Metres of each pixel's place towards the viewer; −∞ where there is none. */
  readonly depth: Float32Array<ArrayBuffer>;
  readonly scale: PictureScale;
}

/** How places become pixels. */
export interface PictureScale {
  readonly perMetre: number;
  /** The place in the middle of the picture. */
  readonly centre: readonly [number, number, number];
}

export interface BoundView {
  /** What it was bound by. */
  readonly source: FitSource;
  readonly glb: Uint8Array<ArrayBuffer>;
  /** Its mesh's file is to be set by who shows it. */
  readonly display: DisplayBody;
  readonly rest: Pose;
  readonly range: { readonly clip: Clip; readonly steps: readonly { readonly step: RangeStep; readonly first: number }[] };
  readonly names: readonly string[];
  /** Share of all points' weights that each joint has. */
  readonly weights: readonly number[];
  readonly doubts: readonly FitDoubt[];
  readonly pull: number;
}

/** A take on the fitted character; a fault where it cannot be solved. */
export type Tried = { readonly clip: Clip; readonly faults: number; readonly cautions: number } | { readonly fault: Fault };

export type FitGives =
  | { readonly kind: 'laid'; readonly laid: LaidView }
  | { readonly kind: 'picture'; readonly picture: Picture }
  | { readonly kind: 'bound'; readonly bound: BoundView }
  | { readonly kind: 'tried'; readonly tried: readonly Tried[] };
