import { smoothstep } from '../../math/filter';

/** Weight of the square of a metre by which a want is missed; and with how much less it begins and ends, and over how many seconds. */
export const WANTED = 1e4;
const EDGE = 0.1;
export const LEAST = 0.01;
/** What rests moves by so many seconds' worth of a missed want. */
const STILL = 0.3;

/** Weight of a want in one of its frames, which rises and falls: what begins and ends with it shows in no speed. */
export function weightIn(f: number, { first, last }: { readonly first: number; readonly last: number }, frameTime: number): number {
  const inside = (Math.min(f - first, last - f) + 1) * frameTime;
  return WANTED * (LEAST + (1 - LEAST) * smoothstep(inside / EDGE));
}

/** How much more a missed step from one frame to the next weighs than a missed place, where a place is a constant that is to be found. */
export function stillnessOf(frameTime: number): number {
  return (STILL / frameTime) * (STILL / frameTime);
}
