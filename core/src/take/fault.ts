/** A fault in a span of a take's samples. */
export type SamplingKind = 'rest' | 'gap' | 'repeat' | 'spike' | 'jump' | 'drift';

export interface SamplingFault {
  readonly kind: SamplingKind;
  /** First and last frame, from 0. */
  readonly from: number;
  readonly to: number;
  /** Joint where it is worst; undefined where it is the whole body. */
  readonly joint: number | undefined;
  /** For people: what was seen and what helps. */
  readonly message: string;
}
