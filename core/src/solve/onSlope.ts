import type { Contacts } from '../contact';
import { overPlane, type Plane } from '../math/plane';
import { stancesOf, type Anchor, type FootPlan } from './stances';

/**
 * The floor that slopes under the character: ways and heights are scaled as the performer's are, and it lies so high that the stances
 * stand on it as a whole.
 * @param plans stances at their own heights
 * @returns undefined for a level floor, and where the body is steered another way than the slope goes: each stance then keeps its height
 */
export function slopeUnder(
  { ground }: Pick<Contacts, 'ground'>,
  plans: readonly FootPlan[],
  { lift, stride }: { readonly lift: number; readonly stride: number },
): Plane | undefined {
  if (!ground || ground.isSteered) return undefined;
  const slope = { x: (ground.x * lift) / stride, z: (ground.z * lift) / stride, height: 0 };
  return {
    ...slope,
    height: -missing(
      plans.flatMap(({ anchors }) => anchors),
      slope,
    ),
  };
}

const place = new Float64Array(3);

/** How far stances are too low over a slope, on the mean over their frames, metres. */
function missing(anchors: readonly Anchor[], slope: Plane): number {
  let sum = 0;
  let frames = 0;
  for (const { first, last, x, y, z, over } of anchors) {
    place.set([x, y, z]);
    sum += (over - overPlane(slope, place)) * (last - first + 1);
    frames += last - first + 1;
  }
  return frames > 0 ? sum / frames : 0;
}

/** Raises or lowers each stance to where the slope is at its place; heels and balls of one stance go together. Changes the anchors. */
export function layOnSlope({ anchors }: FootPlan, slope: Plane): void {
  for (const stance of stancesOf(anchors)) {
    const up = missing(stance, slope);
    for (const anchor of stance) anchor.y += up;
  }
}
