import type { Rest } from './look/rests';
import type { Skin } from './look/skin';
import type { FigureId } from './limits';
import type { Mark, Thresholds } from './marks';

/** One figure of a verdict. */
export interface Figure {
  readonly id: FigureId;
  readonly name: string;
  readonly unit: string;
  /** NaN where there was nothing to look at. */
  readonly value: number;
  /** The performer's own, where it has one. */
  readonly performer: number | undefined;
  readonly mark: Mark;
  /** The limits that it was marked by: where they are relative to the performer, what they came to. */
  readonly limit: Thresholds;
  /** How much was looked at: "14.0 s of 23 rests". */
  readonly looked: string;
  /** Observation in words; where and when it is worst. */
  readonly words: string;
  /** Worst frame, from 0. */
  readonly frame: number | undefined;
}

/** What a measure finds; its name, unit, limits and mark follow from the id. */
export interface Found extends Pick<Figure, 'id' | 'value' | 'looked' | 'words'> {
  readonly frame?: number | undefined;
  readonly performer?: number;
  /** By so much the limits are moved, where the performer or the task asks for it. */
  readonly loosen?: number;
}

/** A rest of the performer, as lanes and marks show it. */
export interface RestSeen extends Rest {
  /** The point that rests: "left heel". */
  readonly name: string;
  /** Seconds of it that the character does not hold. */
  readonly lost: number;
  /** Metres over the performer's floor right under it. */
  readonly height: number;
}

/** The judge's verdict on a transfer. */
export interface Verdict {
  readonly frames: number;
  readonly frameTime: number;
  readonly figures: readonly Figure[];
  readonly rests: readonly RestSeen[];
  readonly skin: Skin['known'];
}

/** Rests of less than this in all are too little to praise, seconds. */
export const ENOUGH = 0.3;

/** Metres as people read them. */
export const mm = (metres: number): string => `${(metres * 1000).toFixed(metres < 0.01 ? 1 : 0)} mm`;

/** A frame where there is one: those below 0 stand for none. */
export const frameOrNone = (frame: number): number | undefined => (frame < 0 ? undefined : frame);
