import { dot, normalize } from '../math/vec';
import type { Place } from './landmarks';

export interface Finger {
  readonly name: 'Thumb' | 'Index' | 'Middle' | 'Ring' | 'Little';
  readonly joints: readonly Place[];
  readonly tip: Place;
}

/** Places along the hand, shares of its length from wrist to fingertips, and aside, towards the thumb. */
interface Laid {
  readonly name: Finger['name'];
  readonly along: readonly number[];
  readonly aside: readonly number[];
}

const THUMB: Laid = { name: 'Thumb', along: [0.16, 0.35, 0.48, 0.6], aside: [0.17, 0.32, 0.4, 0.46] };
/** Proportions of hands after Buchholz, Armstrong and Goldstein 1992, rounded. */
const FIVE: readonly Laid[] = [
  THUMB,
  { name: 'Index', along: [0.5, 0.72, 0.85, 0.96], aside: [0.14, 0.15, 0.16, 0.165] },
  { name: 'Middle', along: [0.51, 0.75, 0.89, 1], aside: [0.03, 0.03, 0.03, 0.03] },
  { name: 'Ring', along: [0.49, 0.71, 0.85, 0.95], aside: [-0.08, -0.09, -0.09, -0.095] },
  { name: 'Little', along: [0.46, 0.63, 0.73, 0.82], aside: [-0.18, -0.2, -0.21, -0.22] },
];
const THREE: readonly Laid[] = [
  { ...THUMB, along: [0.16, 0.4, 0.6], aside: [0.17, 0.35, 0.46] },
  { name: 'Index', along: [0.5, 0.77, 0.97], aside: [0.13, 0.15, 0.16] },
  { name: 'Middle', along: [0.49, 0.76, 0.98], aside: [-0.1, -0.12, -0.13] },
];

/** Lays the fingers of a flat hand in its plane, the thumb ahead, or up where the hand points ahead. */
export function layFingers(wrist: Place, fingertip: Place, fingers: 0 | 3 | 5): Finger[] {
  if (fingers === 0) return [];
  const along = Float64Array.from(fingertip, (v, c) => v - wrist[c]);
  const size = normalize(along, 0);
  const ahead = Math.abs(along[2]) > 0.75 ? Float64Array.of(0, 1, 0) : Float64Array.of(0, 0, 1);
  const aside = Float64Array.from(ahead, (v, c) => v - dot(ahead, 0, along, 0) * along[c]);
  normalize(aside, 0);
  const at = (a: number, b: number): Place => [0, 1, 2].map((c) => wrist[c] + size * (a * along[c] + b * aside[c])) as unknown as Place;
  return (fingers === 5 ? FIVE : THREE).map(({ name, along: ways, aside: sides }) => {
    const places = ways.map((share, i) => at(share, sides[i]));
    return { name, joints: places.slice(0, -1), tip: places[places.length - 1] };
  });
}
