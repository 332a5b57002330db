import { SIDES } from '../../label';
import type { Standing } from './holding';
import type { Look } from './look';
import type { Met } from './meets';

/** A hand that is led begins to be so before, and ends after, seconds. */
const EASED = 0.5;

/**
 * Frames in which an arm says nothing, by side: known faults of the take, and the time in which its hand is led by what it rests on or
 * touches, when it bends as it must.
 * @param meetings in which hands lead each other
 * @param left 1 for known faults
 */
export function ledOf(
  { points, frames, crossings }: Look,
  rests: readonly Standing[],
  meetings: readonly Met[],
  left: Uint8Array,
  frameTime: number,
): Map<string, Uint8Array> {
  const reach = Math.round(EASED / frameTime);
  const out = new Map(SIDES.map((side) => [side as string, left.slice()]));
  const lead = (side: string, first: number, last: number): void => {
    out.get(side)!.fill(1, Math.max(0, first - reach), Math.min(frames, last + reach + 1));
  };
  for (const rest of rests) if (rest.kind === 'hands') lead(points[rest.point].name.split(' ')[0], rest.first, rest.last);
  for (const side of SIDES) for (const frame of crossings.touching[side]) lead(side, frame, frame);
  for (const { first, last } of meetings) for (const side of SIDES) lead(side, first, last);
  return out;
}
