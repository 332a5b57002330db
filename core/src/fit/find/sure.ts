import type { Place } from '../landmarks';

/** How sure a landmark is: seen in the shape, likely, or where bodies usually have it. */
export const [SEEN, LIKELY, USUAL] = [0.9, 0.6, 0.3];

/** Lays a landmark on both sides of a body. */
export type Put = (name: string, place: Place, sure: number) => void;
