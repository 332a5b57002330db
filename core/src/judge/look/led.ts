import { SIDES } from '../../label';
import type { Standing } from './holding';
import type { Look } from './look';
import { hypot } from '../../math/numbers';

/** A hand that is led begins to be so before, and ends after, seconds. */
const EASED = 0.5;
/** Palms nearer to each other than this share of a leg lead each other. */
const TOGETHER = 0.2;

/**
 * Frames in which an arm says nothing, by side: known faults of the take, and the time in which its hand is led by what it rests on or
 * touches, when it bends as it must.
 * @param left 1 for known faults
 */
export function ledOf(
  { points, theirs, frames, crossings }: Look,
  rests: readonly Standing[],
  left: Uint8Array,
  frameTime: number,
  leg: number,
): Map<string, Uint8Array> {
  const count = points.length;
  const reach = Math.round(EASED / frameTime);
  const out = new Map(SIDES.map((side) => [side as string, left.slice()]));
  const lead = (side: string, first: number, last: number): void => {
    out.get(side)!.fill(1, Math.max(0, first - reach), Math.min(frames, last + reach + 1));
  };
  for (const rest of rests) if (rest.kind === 'hands') lead(points[rest.point].name.split(' ')[0], rest.first, rest.last);
  for (const side of SIDES) for (const frame of crossings.touching[side]) lead(side, frame, frame);
  const palms = SIDES.map((side) => points.findIndex(({ name }) => name === `${side} palm`));
  if (palms.every((palm) => palm >= 0)) {
    for (let f = 0; f < frames; f++) {
      const [a, b] = palms.map((palm) => (f * count + palm) * 3);
      const away = hypot(theirs[a] - theirs[b], theirs[a + 1] - theirs[b + 1], theirs[a + 2] - theirs[b + 2]);
      if (away < TOGETHER * leg) for (const side of SIDES) lead(side, f, f);
    }
  }
  return out;
}
