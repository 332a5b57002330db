import { SIDES } from '../label';

/** Landmarks on the middle of the body. */
export const MIDDLE_MARKS = ['crown', 'chin', 'neck'] as const;
/** Landmarks of either side, each written `left.…` or `right.…`. */
export const SIDE_MARKS = ['shoulder', 'elbow', 'wrist', 'fingertip', 'hip', 'knee', 'ankle', 'ball', 'toe'] as const;
/** Only of legs with three bones over the foot: the joint that bends backwards. */
export const HOCK_MARK = 'hock';

/** A place in the body's frame, metres. */
export type Place = readonly [number, number, number];

/** The places that a skeleton is fitted to, by name; metres in the body's frame, Y up, front towards +Z. */
export type Landmarks = Readonly<Record<string, Place>>;

/** The names of all landmarks that a body has. */
export function landmarkNames(hasHocks: boolean): string[] {
  const side = hasHocks ? [...SIDE_MARKS, HOCK_MARK] : SIDE_MARKS;
  return [...MIDDLE_MARKS, ...SIDES.flatMap((s) => side.map((mark) => `${s}.${mark}`))];
}

/** The same place on the other side of a body that stands with its middle at x. */
export function mirrored(place: Place, middle: number): Place {
  return [2 * middle - place[0], place[1], place[2]];
}
