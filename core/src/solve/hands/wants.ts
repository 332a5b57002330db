/**
 * Something that a hand shall do for a span of frames: what it touches asks for it. A plain record: what belongs to it is in it, and nothing
 * changes it afterwards.
 */
export interface HandWant {
  /** `at`: the displacement is the target. `still`: it is the target but for a constant that is to be found. `towards`: the left one's less the right one's is. */
  readonly how: 'at' | 'still' | 'towards';
  /** 0 the left hand, 1 the right; of `towards` 0. */
  readonly hand: number;
  /** Both ends included. */
  readonly first: number;
  readonly last: number;
  /** Displacement from the copied motion, metres, 3 a frame of the span; NaN in frames in which nothing is asked for. */
  readonly target: Float64Array;
  /** Of `still`: the height is no constant to be found, but the target. */
  readonly isHigh?: boolean;
}

/** The target of a span, made frame by frame. @param each writes three numbers of a frame */
export function targetOf(first: number, last: number, each: (frame: number, out: Float64Array, at: number) => void): Float64Array {
  const target = new Float64Array((last - first + 1) * 3);
  for (let f = first; f <= last; f++) each(f, target, (f - first) * 3);
  return target;
}
