import { SIDES } from '../label';
import { percentile } from '../math/filter';
import { LYING } from './body';
import { TOUCH_LIMITS } from './hands';
import type { Contacts } from './plants';
import type { Span } from './still';

/** Frames in which a hand on the floor carries the body. */
export interface Carrying extends Span {
  /** 0 left, 1 right. */
  readonly hand: number;
}

/** True for a palm that rests on the floor. @param palm its places, 3 per frame @param floor its height, metres @param leg the performer's */
export function isOnFloor(palm: Float64Array, { first, last }: Span, floor: number, leg: number): boolean {
  const heights = Float64Array.from({ length: last - first + 1 }, (_, i) => palm[(first + i) * 3 + 1]);
  return percentile(heights, 0.5) - floor < TOUCH_LIMITS.onFloor * leg;
}

/**
 * Where hands on the floor carry the body: nothing else of it stands or lies there, but for the head.
 * @param leg the performer's, metres
 */
export function carryingHands({ plants, hands, body, floor, ground }: Contacts, leg: number): Carrying[] {
  const onFloor = SIDES.flatMap((side, hand): Carrying[] => {
    const palm = hands?.palms[hand];
    if (!palm || ground) return [];
    const rests = hands.touches.filter((touch) => touch.on === 'rest' && touch.side === side && isOnFloor(palm, touch, floor, leg));
    return rests.map(({ first, last }) => ({ hand, first, last }));
  });
  if (onFloor.length === 0) return onFloor;
  const standing = new Uint8Array(hands!.palms[onFloor[0].hand]!.length / 3);
  for (const { first, last } of plants) standing.fill(1, first, last + 1);
  const isBorne = (f: number): boolean => {
    if (standing[f] === 1) return true;
    for (const [part, places] of body?.places ?? []) if (part !== 'head' && places[f * 3 + 1] - floor < LYING[part] * leg) return true;
    return false;
  };
  return onFloor.flatMap(({ hand, first, last }) => {
    const out: Carrying[] = [];
    for (let f = first; f <= last; f++) {
      if (isBorne(f)) continue;
      const from = f;
      while (f < last && !isBorne(f + 1)) f++;
      out.push({ hand, first: from, last: f });
    }
    return out;
  });
}
