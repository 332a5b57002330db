/** How slowly the hips' own displacement bends, and a foot's, seconds. */
export const HIPS = 0.25;
export const END = 0.12;
/** Cost of a displacement of the hips over the floor and upright: with these they follow within some 0.06 s. */
export const COST = [300, 100, 300] as const;
/** Cost of a displacement of a foot: with this a free foot is back on its copied path within some 0.07 s, and does not swing past where it is to stand. */
export const END_COST = 10;
